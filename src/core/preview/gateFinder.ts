import FlatQueue from 'flatqueue';
import type { Vec3 } from '../geometry/mesh';
import { UnionFind } from '../numerics/unionFind';
import { weightedMean, weightedQuantile } from '../numerics/weighted';
import type { StageContext } from '../stage/context';
import { fillFrom, siteOf, type PreviewGrid, type PreviewMelt } from './preview';

/** How good a single gate would be at every node of the coarse grid. Length n; NaN where none may sit. */
export interface GateMap {
  /** Pressure estimate over that of the best place: 1 is best. */
  pressure: Float64Array;
  /** How evenly the ends of the part are reached: mean over largest distance of the flow ends, 0..1. */
  evenness: Float64Array;
  /** 0 (worst) .. 1 (best): both together. */
  score: Float64Array;
  /** The best places, far enough apart, each filled once on the coarse grid. */
  best: { position: Vec3; node: number; pressure: number; evenness: number }[];
}

const N_BEST = 3;
/** Places taken for the map are at most this many; between them the nearest one speaks. */
const MOST_PLACES = 420;
/** Share-thinning exponent of the resistance of a wall when the model has none. */
const NEWTONIAN = 1;
const CANDIDATES = 7;

/**
 * Map of single-gate quality. Resistance of a wall to a front of one speed: dp/ds ~ H^-(1+n) (power-law
 * flow in a gap, Bird, Armstrong & Hassager 1987, section 4.2), so the pressure a gate needs is the
 * largest of the shortest ways to every node with that length. The best places are then filled once on the coarse grid,
 * which settles their order.
 */
export async function findGates(
  coarse: PreviewGrid,
  forbidden: (p: Vec3) => boolean,
  melt: PreviewMelt,
  diameter: number,
  ctx: StageContext,
): Promise<GateMap> {
  const { grid } = coarse;
  const places = samplePlaces(coarse, forbidden);
  const lengths = linkLengths(coarse, melt);
  const ends = flowEnds(coarse);
  const [pressure, evenness] = [new Float64Array(grid.n).fill(NaN), new Float64Array(grid.n).fill(NaN)];
  for (let k = 0; k < places.length; k++) {
    await ctx.checkpoint();
    const away = distances(coarse, lengths, places[k]);
    const reached = ends.filter((i) => Number.isFinite(away[i]));
    const far = reached.reduce((m, i) => Math.max(m, away[i]), 0);
    pressure[places[k]] = far;
    evenness[places[k]] =
      far > 0
        ? weightedMean(
            reached.map((i) => away[i]),
            reached.map((i) => grid.volume[i]),
          ) / far
        : 0;
    if (k % 20 === 0)
      ctx.report({ stage: 'fill', fraction: (0.6 * k) / places.length, message: `Place ${k} of ${places.length}` });
  }
  const least = places.reduce((m, i) => Math.min(m, pressure[i]), Infinity);
  for (const i of places) pressure[i] /= least;
  const score = new Float64Array(grid.n).fill(NaN);
  for (const i of places) score[i] = 0.7 / pressure[i] + 0.3 * evenness[i];
  const best = await fillBest(coarse, places, score, evenness, melt, diameter, ctx);
  spread(coarse, places, forbidden, [pressure, evenness, score]);
  for (const field of [pressure, evenness, score]) smoothed(coarse, field);
  return { pressure, evenness, score: stretched(score), best };
}

/** Nodes at the surface that hold enough, thinned to what can be afforded. */
function samplePlaces({ grid }: PreviewGrid, forbidden: (p: Vec3) => boolean): number[] {
  const all: number[] = [];
  const block = grid.spacing ** 3;
  const whole = largestPiece(grid);
  for (let i = 0; i < grid.n; i++)
    if (
      whole[i] &&
      grid.volume[i] > 0.15 * block &&
      grid.rowStart[i + 1] > grid.rowStart[i] &&
      !forbidden(centre(grid.centroid, i))
    )
      all.push(i);
  const stride = Math.max(1, Math.ceil(all.length / MOST_PLACES));
  return all.filter((_, k) => k % stride === 0);
}

/** 1 for nodes of the piece that holds most: a gate on a loose one would leave the part empty. */
function largestPiece(grid: PreviewGrid['grid']): Uint8Array {
  const sets = new UnionFind(grid.n);
  for (let l = 0; l < grid.linkFrom.length; l++) sets.union(grid.linkFrom[l], grid.linkTo[l]);
  const volume = new Float64Array(grid.n);
  for (let i = 0; i < grid.n; i++) volume[sets.find(i)] += grid.volume[i];
  const largest = volume.indexOf(volume.reduce((m, v) => Math.max(m, v), 0));
  return Uint8Array.from({ length: grid.n }, (_, i) => (sets.find(i) === largest ? 1 : 0));
}

const centre = (c: Float32Array, i: number): Vec3 => [c[3 * i], c[3 * i + 1], c[3 * i + 2]];

function linkLengths({ grid }: PreviewGrid, { viscosity }: PreviewMelt): Float64Array {
  const n = 'n' in viscosity ? viscosity.n : NEWTONIAN;
  return Float64Array.from(grid.linkFrom, (a, l) => {
    const b = grid.linkTo[l];
    const gap = 0.5 * Math.max(1e-6, Math.min(grid.thickness[a], grid.thickness[b]));
    let squared = 0;
    for (let d = 0; d < 3; d++) squared += (grid.centroid[3 * a + d] - grid.centroid[3 * b + d]) ** 2;
    return Math.sqrt(squared) * Math.pow(gap, -(1 + n));
  });
}

/** Nodes farther from the part's middle than most: where flow ends matter. */
function flowEnds({ grid }: PreviewGrid): number[] {
  const block = grid.spacing ** 3;
  const list: number[] = [];
  for (let i = 0; i < grid.n; i++) if (grid.volume[i] > 0.1 * block) list.push(i);
  const middle = [0, 1, 2].map((d) =>
    weightedMean(
      list.map((i) => grid.centroid[3 * i + d]),
      list.map((i) => grid.volume[i]),
    ),
  );
  const away = Float64Array.from(list, (i) => Math.hypot(...middle.map((m, d) => grid.centroid[3 * i + d] - m)));
  const limit = weightedQuantile(
    away,
    Float64Array.from(list, (i) => grid.volume[i]),
    0.7,
  );
  return list.filter((_, k) => away[k] >= limit);
}

/**
 * Shortest ways from one node to all others through the body, in any direction: the front of |grad t| = resistance,
 * marched from its earliest node on (Sethian, Proc. Natl. Acad. Sci. 93 (1996) 1591). Along the links alone a way across
 * the grid would be longer by up to the square root of three, so another place would be best where a part is turned.
 * `lengths` [n of links] of the links. Infinity where no way leads.
 */
export function distances({ grid }: PreviewGrid, lengths: Float64Array, start: number): Float64Array {
  const away = new Float64Array(grid.n).fill(Infinity);
  const done = new Uint8Array(grid.n);
  const queue = new FlatQueue<number>();
  away[start] = 0;
  queue.push(start, 0);
  while (queue.length) {
    const node = queue.pop()!;
    if (done[node]) continue;
    done[node] = 1;
    for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
      const next = grid.rowNode[k];
      if (done[next]) continue;
      const t = arrival(grid, lengths, away, done, next);
      if (t >= away[next]) continue;
      away[next] = t;
      queue.push(next, t);
    }
  }
  return away;
}

const AXES = 3;
const from = new Float64Array(AXES);
const over = new Float64Array(AXES);

/** When the front comes to a node from those it has come to: along one link, or askew between links of two or three axes. */
function arrival(
  grid: PreviewGrid['grid'],
  lengths: Float64Array,
  away: Float64Array,
  done: Uint8Array,
  node: number,
): number {
  from.fill(Infinity);
  let along = Infinity;
  for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
    const [j, link] = [grid.rowNode[k], grid.rowLink[k]];
    if (!done[j]) continue;
    const axis = grid.linkAxis[link];
    along = Math.min(along, away[j] + lengths[link]);
    if (axis >= AXES || away[j] + lengths[link] >= from[axis] + over[axis]) continue;
    from[axis] = away[j];
    over[axis] = lengths[link];
  }
  // The sum of ((t - from) / over)^2 over the axes is one; only axes that the front comes from count.
  const order = [0, 1, 2].filter((a) => from[a] < Infinity).sort((a, b) => from[a] - from[b]);
  let [a, b, c] = [0, 0, -1];
  let t = along;
  for (const axis of order) {
    if (from[axis] >= t) break;
    const w = 1 / over[axis] ** 2;
    a += w;
    b += w * from[axis];
    c += w * from[axis] ** 2;
    const root = b * b - a * c;
    if (root >= 0) t = Math.min(along, (b + Math.sqrt(root)) / a);
  }
  return t;
}

async function fillBest(
  coarse: PreviewGrid,
  places: number[],
  score: Float64Array,
  evenness: Float64Array,
  melt: PreviewMelt,
  diameter: number,
  ctx: StageContext,
): Promise<GateMap['best']> {
  const { grid, mesh } = coarse;
  const ranked = [...places].sort((a, b) => score[b] - score[a]);
  const box = [0, 1, 2].map((d) => {
    const list = places.map((i) => grid.centroid[3 * i + d]);
    return list.length
      ? list.reduce((m, x) => Math.max(m, x), -Infinity) - list.reduce((m, x) => Math.min(m, x), Infinity)
      : 0;
  });
  // Three places next to each other would be one.
  const apart = 0.12 * Math.hypot(...box);
  const chosen: number[] = [];
  for (const i of ranked) {
    if (chosen.length >= CANDIDATES) break;
    const far = chosen.every(
      (j) => Math.hypot(...[0, 1, 2].map((d) => grid.centroid[3 * i + d] - grid.centroid[3 * j + d])) > apart,
    );
    if (far) chosen.push(i);
  }
  const filled: GateMap['best'] = [];
  for (let k = 0; k < chosen.length; k++) {
    ctx.report({ stage: 'fill', fraction: 0.6 + (0.4 * k) / chosen.length, message: `Filling from place ${k + 1}` });
    const site = siteOf(mesh, { id: `C${k + 1}`, position: centre(grid.centroid, chosen[k]), diameter });
    const fill = await fillFrom(coarse, [site], melt, { ...ctx, report: () => {} });
    // One place that can not be filled from does not end the search.
    if (!fill || !Number.isFinite(fill.pressure)) continue;
    const { pressure } = fill;
    filled.push({ position: site.surface.point, node: chosen[k], pressure, evenness: evenness[chosen[k]] });
  }
  return filled.sort((a, b) => a.pressure - b.pressure).slice(0, N_BEST);
}

/** Nodes between the sampled places take the value of the nearest one along the part. */
function spread(
  { grid }: PreviewGrid,
  places: number[],
  forbidden: (p: Vec3) => boolean,
  fields: Float64Array[],
): void {
  const source = new Int32Array(grid.n).fill(-1);
  const queue = [...places];
  for (const i of places) source[i] = i;
  for (let q = 0; q < queue.length; q++) {
    for (let k = grid.rowStart[queue[q]]; k < grid.rowStart[queue[q] + 1]; k++) {
      const j = grid.rowNode[k];
      if (source[j] >= 0) continue;
      source[j] = source[queue[q]];
      queue.push(j);
    }
  }
  for (let i = 0; i < grid.n; i++) {
    if (source[i] < 0 || source[i] === i || forbidden(centre(grid.centroid, i))) continue;
    for (const field of fields) field[i] = field[source[i]];
  }
}

const SMOOTHING = 4;

/** Evens out the patches that sampled places leave: means with the neighbours along the part. */
function smoothed({ grid }: PreviewGrid, field: Float64Array): void {
  for (let round = 0; round < SMOOTHING; round++) {
    const before = field.slice();
    for (let i = 0; i < grid.n; i++) {
      if (!(before[i] === before[i])) continue;
      let [sum, weight] = [before[i], 1];
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const v = before[grid.rowNode[k]];
        if (!(v === v)) continue;
        sum += v;
        weight++;
      }
      field[i] = sum / weight;
    }
  }
}

/** Scores stretched over 0..1. */
function stretched(score: Float64Array): Float64Array {
  let [low, high] = [Infinity, -Infinity];
  for (const s of score) {
    if (s < low) low = s;
    if (s > high) high = s;
  }
  return score.map((s) => (s - low) / (high - low || 1));
}
