import type { Bounds, TriangleMesh, Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { alongLine, JOINED } from '../solvers/cool/circuit';
import { isWell } from '../solvers/cool/passages';
import type { CircuitEnd, Cooling, CoolingLine, LayoutPlan, LineKind } from '../model/cooling';

/** What a plan comes to, in place of what a plan came to before. */
export interface Laid {
  lines: CoolingLine[];
  ends: CircuitEnd[];
}

/** A straight stretch of a conformal channel is at least this long, in bores; bends sharper than the surface cost flow. */
const STRETCH = 2.5;
/** Stretches that leave the straight way by less than this are one, m. */
const FLAT = 1e-3;

/** Names of the lines that `layOutChannels` makes begin with these; hoses with H. */
const SIDES = { above: 'A', below: 'B' } as const;

export const DEFAULT_PLAN = (part: Bounds): LayoutPlan => {
  const size = part.max.map((x, d) => x - part.min[d]);
  const long = size[0] >= size[1] ? 'x' : 'y';
  const across = long === 'x' ? size[1] : size[0];
  const diameter = across > 0.12 ? 0.01 : 0.008;
  const pitch = Math.round(Math.max(3 * diameter, Math.min(5 * diameter, across / 4)) * 1000) / 1000;
  return {
    count: Math.max(1, Math.min(12, Math.round(across / pitch))),
    diameter,
    pitch,
    distance: Math.round(2.2 * diameter * 2000) / 2000,
    direction: long,
    above: true,
    below: true,
    conformal: false,
    connected: 'series',
  };
};

/**
 * Channels above and below the part from one face of the block to the other, evenly spaced about the middle of the
 * part; joined by hoses one after the other, or each with an inlet and an outlet. Conformal ones keep their
 * distance from the surface under them.
 */
export function layOutChannels(
  plan: LayoutPlan,
  mesh: TriangleMesh,
  part: Bounds,
  block: Bounds,
  supply: string | null,
): Laid {
  const out: Laid = { lines: [], ends: [] };
  const tree = plan.conformal ? new SurfaceTree(mesh) : null;
  let hoses = 0;
  for (const side of ['above', 'below'] as const) {
    if (!plan[side]) continue;
    const ways = Array.from({ length: plan.count }, (_, k) => {
      const off = (k - (plan.count - 1) / 2) * plan.pitch;
      return wayOf(plan, side, off, part, block, tree);
    });
    ways.forEach((way, k) => {
      const points = plan.connected === 'series' && k % 2 ? way.slice().reverse() : way;
      for (let s = 0; s + 1 < points.length; s++)
        out.lines.push(
          line(
            `${SIDES[side]}${k + 1}${points.length > 2 ? `.${s + 1}` : ''}`,
            points[s],
            points[s + 1],
            plan.diameter,
            { as: 'channel' },
          ),
        );
      const [first, last] = [points[0], points[points.length - 1]];
      const begins = plan.connected === 'parallel' || k === 0;
      const ends = plan.connected === 'parallel' || k === plan.count - 1;
      if (begins) out.ends.push({ at: first, as: 'inlet', supply });
      else {
        const before = ways[k - 1];
        const from = k % 2 ? before[before.length - 1] : before[0];
        out.lines.push(line(`H${++hoses}`, from, first, hoseBore(plan.diameter), { as: 'hose', length: null }));
      }
      if (ends) out.ends.push({ at: last, as: 'outlet', supply });
    });
  }
  return out;
}

/** The hose that goes on a bore: a little wider, in steps of 1 mm. */
export const hoseBore = (diameter: number): number => Math.ceil(1000 * diameter + 1) / 1000;

const line = (id: string, from: Vec3, to: Vec3, diameter: number, kind: LineKind): CoolingLine => ({
  id,
  from,
  to,
  diameter,
  kind,
  loss: null,
});

function wayOf(
  plan: LayoutPlan,
  side: 'above' | 'below',
  off: number,
  part: Bounds,
  block: Bounds,
  tree: SurfaceTree | null,
): Vec3[] {
  const [along, across] = plan.direction === 'x' ? [0, 1] : [1, 0];
  const middle = (part.min[across] + part.max[across]) / 2 + off;
  const level = side === 'above' ? part.max[2] + plan.distance : part.min[2] - plan.distance;
  const at = (s: number, z: number): Vec3 => {
    const p: Vec3 = [0, 0, z];
    p[along] = s;
    p[across] = middle;
    return p;
  };
  const straight = [at(block.min[along], level), at(block.max[along], level)];
  if (!tree) return straight;
  const step = STRETCH * plan.diameter;
  const n = Math.max(2, Math.ceil((part.max[along] - part.min[along]) / step));
  const sign = side === 'above' ? 1 : -1;
  const points: Vec3[] = [straight[0]];
  for (let k = 0; k <= n; k++) {
    const s = part.min[along] + (k / n) * (part.max[along] - part.min[along]);
    const z = surfaceLevel(tree, at(s, 0), across, along, plan, sign, part);
    points.push(at(s, z === null ? level : z + sign * plan.distance));
  }
  points.push(straight[1]);
  points[0][2] = points[1][2];
  points[points.length - 1][2] = points[points.length - 2][2];
  return straightened(points);
}

/** The part's surface next to the side of a channel, over the strip the channel lies beside; null where there is none. */
function surfaceLevel(
  tree: SurfaceTree,
  p: Vec3,
  across: number,
  along: number,
  plan: LayoutPlan,
  sign: number,
  part: Bounds,
): number | null {
  const reach = plan.diameter / 2 + plan.distance;
  let best: number | null = null;
  for (let i = -2; i <= 2; i++)
    for (let j = -2; j <= 2; j++) {
      const from: Vec3 = [...p];
      from[across] += (i / 2) * reach;
      from[along] += (j / 2) * reach;
      from[2] = sign > 0 ? part.max[2] + 1 : part.min[2] - 1;
      if (tree.ray(from[0], from[1], from[2], 0, 0, -sign, 0, Infinity, false, -1) < 0) continue;
      const z = from[2] - sign * tree.distance;
      if (best === null || sign * z > sign * best) best = z;
    }
  return best;
}

/** Leaves out points that lie on the straight way between their neighbours (Douglas & Peucker 1973). */
function straightened(points: Vec3[]): Vec3[] {
  const [a, b] = [points[0], points[points.length - 1]];
  let [worst, at] = [FLAT, -1];
  for (let k = 1; k + 1 < points.length; k++) {
    const d = b.map((x, i) => x - a[i]);
    const length2 = d[0] ** 2 + d[1] ** 2 + d[2] ** 2;
    const s = Math.max(0, Math.min(1, d.reduce((sum, x, i) => sum + x * (points[k][i] - a[i]), 0) / length2));
    const off = Math.hypot(...points[k].map((x, i) => x - a[i] - s * d[i]));
    if (off > worst) [worst, at] = [off, k];
  }
  if (at < 0) return [a, b];
  return [...straightened(points.slice(0, at + 1)), ...straightened(points.slice(at)).slice(1)];
}

/** The cooling with a layout in place of its last one. Lines that were drawn stay; wells go along with their channel. */
export function withLayout(cooling: Cooling, plan: LayoutPlan, laid: Laid): Cooling {
  const laidOut = (l: CoolingLine) => /^(A|B|H)\d+(\.\d+)?$/.test(l.id);
  const old = cooling.lines.filter((l) => laidOut(l) && l.kind.as === 'channel');
  const kept = cooling.lines
    .filter((l) => !laidOut(l))
    .flatMap((l) => (isWell(l) ? refooted(l, old, laid.lines) : [l]));
  const touches = (end: CircuitEnd) =>
    kept.some((l) => [l.from, l.to].some((p) => Math.hypot(...p.map((x, d) => x - end.at[d])) < JOINED));
  return { ...cooling, plan, lines: [...laid.lines, ...kept], ends: [...laid.ends, ...cooling.ends.filter(touches)] };
}

/** A well on the channel of the same name, as far along it; gone with a channel that is gone. */
function refooted(well: CoolingLine, before: readonly CoolingLine[], after: readonly CoolingLine[]): CoolingLine[] {
  const host = before.find((l) => alongLine(l, well.from).off < JOINED);
  if (!host) return [well];
  const next = after.find((l) => l.id === host.id);
  if (!next) return [];
  const { share } = alongLine(host, well.from);
  const foot = next.from.map((x, d) => x + share * (next.to[d] - x)) as Vec3;
  const tip = well.to.map((x, d) => x + foot[d] - well.from[d]) as Vec3;
  // The tip keeps its height: that is what was chosen for the part.
  tip[2] = well.to[2];
  return [{ ...well, from: foot, to: tip }];
}

/** A free name with this letter. */
export function freshLineId(letter: string, taken: readonly { id: string }[]): string {
  for (let n = 1; ; n++) if (!taken.some((t) => t.id === `${letter}${n}`)) return `${letter}${n}`;
}
