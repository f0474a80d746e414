import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import type { FeedFacts } from './feedFacts';
import { VERDICT_RULES } from './rules';

/** A place where the front suddenly ran faster or slower because a pin moved: it may show as a band. */
export const speedJumpSchema = z.object({
  id: z.string(),
  /** Pin whose move it was, and when, s. */
  gate: z.string(),
  time: real,
  /** Front speed just before and just after, m/s. */
  before: real,
  after: real,
  position: vec3Schema,
  /** Where the front stood, for marks on the part. */
  points: z.array(vec3Schema),
});
export type SpeedJump = z.infer<typeof speedJumpSchema>;

/** A front that changes its speed by more than this factor is seen on the part. */
const JUMP_FACTOR = VERDICT_RULES.speedJump.watch;
/** Time around a move in which the front is looked at, as a share of the filling. */
const WINDOW = 0.04;
const MOST_POINTS = 60;

/** Compares the front's speed on both sides of where it stood when each pin moved. */
export function speedJumps(
  grid: PressureGrid,
  fillTime: ArrayLike<number>,
  frontSpeed: ArrayLike<number>,
  pins: FeedFacts['pins'],
  end: number,
): SpeedJump[] {
  const moves = pins.flatMap((p) => p.moves_s.map((time) => ({ gate: p.gate, time })));
  const jumps: SpeedJump[] = [];
  for (const { gate, time } of moves) {
    if (!(time > 0) || time > 0.98 * end) continue;
    const pairs = pairsAt(grid, fillTime, frontSpeed, time, WINDOW * end);
    if (pairs.length < 3) continue;
    const [before, after] = [median(pairs.map((p) => p.before)), median(pairs.map((p) => p.after))];
    const factor = after / before;
    // Two pins that move together make one jump.
    if ((factor < JUMP_FACTOR && factor > 1 / JUMP_FACTOR) || jumps.some((j) => Math.abs(j.time - time) < 1e-3 * end))
      continue;
    const every = Math.ceil(pairs.length / MOST_POINTS);
    const points = pairs.filter((_, k) => k % every === 0).map((p) => pointOf(grid, p.node));
    const strongest = pairs.reduce((m, p) =>
      Math.abs(Math.log(p.after / p.before)) > Math.abs(Math.log(m.after / m.before)) ? p : m,
    );
    jumps.push({
      id: `J${jumps.length + 1}`,
      gate,
      time,
      before,
      after,
      position: pointOf(grid, strongest.node),
      points,
    });
  }
  return jumps;
}

const pointOf = ({ centroid: c }: PressureGrid, i: number): Vec3 => [c[3 * i], c[3 * i + 1], c[3 * i + 2]];

/** Links the front crossed within the window around `time`, with its speed at both ends. */
function pairsAt(
  grid: PressureGrid,
  fillTime: ArrayLike<number>,
  speed: ArrayLike<number>,
  time: number,
  window: number,
): { node: number; before: number; after: number }[] {
  const pairs: { node: number; before: number; after: number }[] = [];
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    const [first, then] = fillTime[a] <= fillTime[b] ? [a, b] : [b, a];
    if (!(fillTime[first] <= time && fillTime[then] > time)) continue;
    if (time - fillTime[first] > window || fillTime[then] - time > window) continue;
    if (speed[first] > 0 && speed[then] > 0) pairs.push({ node: then, before: speed[first], after: speed[then] });
  }
  return pairs;
}

function median(list: number[]): number {
  const sorted = [...list].sort((a, b) => a - b);
  return sorted[sorted.length >> 1];
}
