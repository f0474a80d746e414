import type { Vec3 } from '../../geometry/mesh';
import { cross, distance, normalised, sub } from '../../geometry/vec';
import { elementCentres, locate, NODES_PER_ELEMENT, nodePlace, type StructureGrid } from '../../grid/structureGrid';
import { UnionFind } from '../../numerics/unionFind';
import type { StageContext } from '../../stage/context';
import { ElementMatrices, shape, type Spring } from './elements';
import { LANES, lanesTogether, type Solid, type StiffnessAt, type StrainAt } from './solid';
import type { Jump } from './jumps';
import { FrontalSolver } from './frontal';
import { ElasticKernel } from './kernel';
import { assembledSystem, directSystem, type LinearSystem } from './linearSystem';
import { TwoLevel } from './twoLevel';

/** Below so many unknowns a direct solution is as fast and needs no tolerance. */
const DIRECT_BELOW = 30_000;
/** Energy norm of the preconditioned residual at which the iteration stops, over that at the start. */
const TOLERANCE = 1e-4;
const MAX_ITERATIONS = 200;
/** Elements whose matrices are made between two looks at whether to stop. */
const CHUNK = 256;
/** A support is this many times as stiff as a cell of the plastic. */
const SUPPORT_STIFFNESS = 1e4;

/** A place that a support keeps from moving along one direction. */
export interface Support {
  position: Vec3;
  direction: Vec3;
}

/** A force [N] on a place of the surface, m. */
export interface PointForce {
  position: Vec3;
  force: Vec3;
}

export interface ElasticInput {
  grid: StructureGrid;
  /** By body; 0 is the plastic. */
  solids: readonly Solid[];
  strainAt: StrainAt;
  /** Of bodies whose directions are not alike; absent: all are as their solids. */
  stiffnessAt?: StiffnessAt;
  /** None: free. Every piece that is not held moves as if it were free. */
  supports: readonly Support[];
  /** From outside, in the first load case; absent: none. What is loaded must be held. */
  forces?: readonly PointForce[];
  tolerance?: number;
  method?: 'direct' | 'iterative';
}

export interface ElasticSolution {
  /** 3 x LANES a node, lanes side by side, m. */
  displacement: Float64Array;
  /** Strain jumps of elements with two materials. */
  jumps: Map<number, Jump>;
  unknowns: number;
  /** 0 for a direct solution. */
  iterations: number;
  /** Energy norm of the residual over that at the start. */
  residual: number;
}

/** What is asked of the system once its linear solution is there; loads are those of all cases together, 3 a node, N. */
export type BeyondLinear = (system: LinearSystem, solution: ElasticSolution, loads: Float64Array) => Promise<void>;

/**
 * Small-strain linear elasticity with stress-free strain and forces at places: minimises the energy of
 * (strain - stress-free strain) less the work of the forces over the cut cells, up to LANES load cases at once.
 */
export async function solveElastic(
  input: ElasticInput,
  ctx: StageContext,
  beyond?: BeyondLinear,
): Promise<ElasticSolution> {
  const second = ctx.secondThread?.() ?? null;
  try {
    return await solveIn(new ElasticKernel(second), input, ctx, beyond);
  } finally {
    second?.end();
  }
}

async function solveIn(
  kernel: ElasticKernel,
  input: ElasticInput,
  ctx: StageContext,
  beyond?: BeyondLinear,
): Promise<ElasticSolution> {
  const { grid, solids, strainAt, stiffnessAt } = input;
  const springs = [...supportSprings(input), ...restingSprings(input)];
  const unknowns = 3 * grid.nNodes;
  const direct = input.method ? input.method === 'direct' : unknowns < DIRECT_BELOW;
  const rhs = kernel.allocate(8 * LANES * unknowns);
  const say = (fraction: number, message: string) => ctx.report({ stage: 'warp', fraction, message });
  const levels = direct ? null : new TwoLevel(kernel, grid);
  const whole = direct ? kernel.allocate(8 * 3600 * grid.nElements) : 0;
  const addresses = levels?.addresses ?? { nodes: kernel.put(grid.nodes), compressed: null };
  const system = { ...addresses, whole, loads: rhs };
  const matrices = new ElementMatrices(kernel, grid, solids, strainAt, springs, system, stiffnessAt);
  for (let e = 0; e < grid.nElements; e += CHUNK) {
    await ctx.checkpoint();
    say((0.4 * e) / grid.nElements, `Stiffness of ${grid.nElements.toLocaleString('en-GB')} cells`);
    matrices.add(e, Math.min(e + CHUNK, grid.nElements));
  }
  addForces(input, kernel.f64(rhs, LANES * unknowns));
  const done = (x: number, iterations: number, residual: number): ElasticSolution => ({
    displacement: kernel.f64(x, LANES * unknowns).slice(),
    jumps: matrices.jumps,
    unknowns,
    iterations,
    residual,
  });
  const all = kernel.f64(rhs, LANES * unknowns);
  const loads = beyond ? Float64Array.from({ length: unknowns }, (_, i) => lanesTogether(all, i)) : null;
  if (!levels) {
    say(0.5, 'Direct solution');
    await ctx.checkpoint();
    const system = { nNodes: grid.nNodes, nodes: grid.nodes, perElement: NODES_PER_ELEMENT, matrices: whole };
    const solver = new FrontalSolver(kernel, { ...system, centres: elementCentres(grid) });
    solver.solve(rhs);
    const solution = done(rhs, 0, 0);
    if (loads) await beyond?.(directSystem(kernel, grid, whole, solver), solution, loads);
    return solution;
  }
  await levels.setUp(ctx, (share) => say(0.4 + 0.2 * share, 'Preconditioner'));
  const x = kernel.allocate(8 * LANES * unknowns);
  const { tolerance = TOLERANCE } = input;
  const report = await levels.solve(rhs, x, tolerance, MAX_ITERATIONS, async (i, residual) => {
    await ctx.checkpoint();
    const share = residual > 0 ? Math.min(1, Math.log(residual) / Math.log(tolerance)) : 1;
    say(0.6 + 0.4 * Math.max(0, share), `Displacements, iteration ${i}`);
  });
  const solution = done(x, report.iterations, report.residual);
  if (loads) await beyond?.(assembledSystem(kernel, grid, levels), solution, loads);
  return solution;
}

/** Adds the forces to the loads of the first case, by the shape functions of the cells that they act on. */
function addForces({ grid, forces = [] }: ElasticInput, loads: Float64Array): void {
  const local = new Float64Array(3);
  const share = new Float64Array(NODES_PER_ELEMENT);
  for (const { position, force } of forces) {
    const element = locate(grid, ...position, local);
    if (element < 0) continue;
    shape(local, share);
    for (let a = 0; a < NODES_PER_ELEMENT; a++)
      for (let d = 0; d < 3; d++)
        loads[LANES * (3 * grid.nodes[NODES_PER_ELEMENT * element + a] + d)] += share[a] * force[d];
  }
}

/** Supports as stiff springs at their places. One off the part holds nothing: `pipeline/checkShape` refuses it. */
function supportSprings({ grid, solids, supports }: ElasticInput): Spring[] {
  const local = new Float64Array(3);
  return supports.flatMap(({ position, direction }) => {
    const element = locate(grid, ...position, local);
    if (element < 0) return [];
    const stiffness = SUPPORT_STIFFNESS * solids[0].young * grid.lattice.edges[0];
    return [{ element, local: [local[0], local[1], local[2]] as Vec3, direction, stiffness }];
  });
}

/** Sets of elements that share nodes: a number an element. */
export function connectedElements(grid: StructureGrid): Int32Array {
  const sets = new UnionFind(grid.nNodes);
  for (let e = 0; e < grid.nElements; e++)
    for (let a = 1; a < NODES_PER_ELEMENT; a++)
      sets.union(grid.nodes[NODES_PER_ELEMENT * e], grid.nodes[NODES_PER_ELEMENT * e + a]);
  return Int32Array.from({ length: grid.nElements }, (_, e) => sets.find(grid.nodes[NODES_PER_ELEMENT * e]));
}

/**
 * Springs that take the six rigid motions of every free piece and bear no force, since the loads of
 * stress-free strains are in balance: three directions at one corner, two at a second, one at a third.
 */
function restingSprings({ grid, solids, supports }: ElasticInput): Spring[] {
  const set = connectedElements(grid);
  const local = new Float64Array(3);
  const held = new Set(supports.map(({ position }) => locate(grid, ...position, local)).map((e) => set[e]));
  const springs: Spring[] = [];
  const members = new Map<number, number[]>();
  set.forEach((s, e) => (members.get(s) ?? members.set(s, []).get(s)!).push(e));
  const stiffness = solids[0].young * grid.lattice.edges[0];
  for (const [s, elements] of members) {
    if (held.has(s)) continue;
    const [a, b, c] = threeCorners(grid, elements);
    const along = normalised(sub(b.at, a.at));
    const normal = normalised(cross(along, sub(c.at, a.at)));
    const inPlane = cross(normal, along);
    const put = ({ element, corner }: CornerAt, d: Vec3) =>
      springs.push({ element, local: nodePlace(corner), direction: d, stiffness });
    for (const d of [along, inPlane, normal]) put(a, d);
    for (const d of [inPlane, normal]) put(b, d);
    put(c, normal);
  }
  return springs;
}

interface CornerAt {
  element: number;
  corner: number;
  at: Vec3;
}

/** Three corners of cells that span the piece: far apart and not on a line. */
function threeCorners(grid: StructureGrid, elements: readonly number[]): [CornerAt, CornerAt, CornerAt] {
  const at = (element: number, corner: number): CornerAt => {
    const node = 3 * grid.nodes[NODES_PER_ELEMENT * element + corner];
    return { element, corner, at: [grid.position[node], grid.position[node + 1], grid.position[node + 2]] };
  };
  const farthest = (measure: (p: Vec3) => number): CornerAt => {
    let best = at(elements[0], 0);
    let most = -1;
    for (const e of elements)
      for (let corner = 0; corner < 8; corner++) {
        const here = at(e, corner);
        const m = measure(here.at);
        if (m > most) {
          most = m;
          best = here;
        }
      }
    return best;
  };
  const start = at(elements[0], 0);
  const a = farthest((p) => distance(p, start.at));
  const b = farthest((p) => distance(p, a.at));
  const along = normalised(sub(b.at, a.at));
  const c = farthest((p) => Math.hypot(...cross(along, sub(p, a.at))));
  return [a, b, c];
}
