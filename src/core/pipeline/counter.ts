import { z } from 'zod';
import { real } from '../numerics/real';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { barycentric } from '../geometry/triangles';
import { buildStructureGrid } from '../grid/structureGrid';
import type { StageContext } from '../stage/context';
import { vertexAreas } from '../geometry/alignment';
import { deviation, LARGEST_SHARE, upper } from '../results/shape';
import { vertexNormals } from '../grid/surfaceMap';
import { solveElastic } from '../solvers/warp/elastic';
import type { StrainAt } from '../solvers/warp/solid';
import { StructureError } from '../solvers/warp/kernel';
import { edgeOf, nFitted, wallStrains, type WarpInput } from '../solvers/warp/stage';
import { surfaceDisplacement } from '../solvers/warp/stress';

/** How far a body comes out off the drawing, m. */
export const counterStepSchema = z.object({
  largest: real,
  rms: real,
});
export type CounterStep = z.infer<typeof counterStepSchema>;

export interface CounterResult {
  /** What each vertex of the surface is moved by against the drawing, 3 a vertex, m. */
  offset: Float32Array;
  /** The part as drawn, then every body that was tried. The last one is `offset`'s. */
  steps: CounterStep[];
}

export type CounterOutcome =
  { status: 'found'; result: CounterResult } | { status: 'failed'; message: string; likely: string };

/** Bodies that are tried at most. */
const MOST_STEPS = 5;

/**
 * The body that comes out as drawn. From the part's own deviation it is bent the other way, solved again with the
 * strains of the shot going along with its walls, and corrected by what is still off, until its largest deviation
 * is within `tolerance` [m] or it gets no better. `growth` is what the tool is cut larger by: the body is before that.
 * Even motions and that growth are no deviation (`results/shape`).
 * `displacement` is the solved one of the part as drawn, 3 a vertex of the surface.
 */
export async function counterWarp(
  input: WarpInput,
  displacement: ArrayLike<number>,
  growth: number,
  tolerance: number,
  ctx: StageContext,
): Promise<CounterOutcome> {
  const { surface } = input;
  const strains = wallStrains(input);
  let offset = new Float32Array(surface.positions.length);
  let off = deviation(surface, displacement, growth);
  const areas = vertexAreas(surface.positions, surface.triangles);
  const steps = [stepOf(off, areas)];
  while (steps.length === 1 || (steps[steps.length - 1].largest > tolerance && steps.length <= MOST_STEPS)) {
    const next = offset.map((d, k) => d - (off[k] === off[k] ? off[k] : 0));
    const body = new MovedBody(surface, next);
    const number = steps.length;
    const moved = await displacementOf(input, body, strains.at, {
      ...ctx,
      report: (p) =>
        ctx.report({ ...p, fraction: (number - 1 + p.fraction) / number, message: `Body ${number}: ${p.message}` }),
    });
    if ('message' in moved) return { status: 'failed', ...moved };
    const total = moved.map((u, k) => u + next[k]);
    const rest = deviation(surface, total, growth);
    const step = stepOf(rest, areas);
    // Where walls are so soft or bent that a correction makes it worse, the body before is the best there is.
    if (steps.length > 1 && step.largest >= steps[steps.length - 1].largest) break;
    offset = next;
    off = rest;
    steps.push(step);
  }
  return { status: 'found', result: { offset, steps } };
}

function stepOf(off: Float32Array, areas: Float64Array): CounterStep {
  const sizes = Float64Array.from(areas, (_, v) => Math.hypot(off[3 * v], off[3 * v + 1], off[3 * v + 2]));
  let [sum, total] = [0, 0];
  areas.forEach((area, v) => {
    if (sizes[v] !== sizes[v]) return;
    sum += area * sizes[v] ** 2;
    total += area;
  });
  return { largest: upper(sizes, areas, LARGEST_SHARE.deviation).value, rms: Math.sqrt(sum / total) };
}

/** A surface with its vertices moved, and the way back from a place in it to where that was before. */
class MovedBody {
  readonly mesh: TriangleMesh;
  private readonly tree: SurfaceTree;
  private readonly back = new Float64Array(3);

  constructor(
    surface: WarpInput['surface'],
    private readonly offset: Float32Array,
  ) {
    this.mesh = {
      positions: Float64Array.from(surface.positions, (x, k) => x + offset[k]),
      triangles: Uint32Array.from(surface.triangles),
    };
    this.tree = new SurfaceTree(this.mesh);
  }

  /** Walls are thin and turn little: what is inside moves with the surface next to it. */
  before(x: number, y: number, z: number): Float64Array {
    const { tree, back, offset, mesh } = this;
    const triangle = tree.closest(x, y, z);
    const weights = barycentric(mesh, triangle, tree.point);
    back[0] = x;
    back[1] = y;
    back[2] = z;
    for (let c = 0; c < 3; c++)
      for (let d = 0; d < 3; d++) back[d] -= weights[c] * offset[3 * mesh.triangles[3 * triangle + c] + d];
    return back;
  }

  after(x: number, y: number, z: number): Vec3 {
    const from = this.before(x, y, z);
    return [2 * x - from[0], 2 * y - from[1], 2 * z - from[2]];
  }
}

/** Displacement (3 a vertex of the body's surface) of a moved body. */
async function displacementOf(
  input: WarpInput,
  body: MovedBody,
  strainAt: StrainAt,
  ctx: StageContext,
): Promise<Float32Array | { message: string; likely: string }> {
  ctx.report({ stage: 'warp', fraction: 0, message: 'Cutting the structure into cells' });
  await ctx.checkpoint();
  const bodies = [body.mesh, ...input.inserts.map((i) => mapVertices(i.mesh, (p) => body.after(...p)))];
  const grid = buildStructureGrid(bodies, edgeOf(input), nFitted(input));
  const solids = [input.plastic, ...input.inserts.map((i) => i.solid)];
  const carried: StrainAt = (x, y, z, b, out) => {
    const from = body.before(x, y, z);
    strainAt(from[0], from[1], from[2], b, out);
  };
  const supports = input.supports.map((s) => ({ ...s, position: body.after(...s.position) }));
  let displacement: Float64Array;
  try {
    ({ displacement } = await solveElastic({ grid, solids, strainAt: carried, supports }, ctx));
  } catch (error) {
    if (!(error instanceof StructureError)) throw error;
    return { message: error.message, likely: error.likely };
  }
  return surfaceDisplacement(grid, displacement, body.mesh, vertexNormals(body.mesh));
}
