import type { TriangleMesh, Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { buildStructureGrid, locate, structureEdge, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { Detail } from '../../grid/lattice';
import { ROOM } from '../../material/pvt';
import type { StageContext } from '../../stage/context';
import { bestFit, vertexAreas, without } from '../../geometry/alignment';
import { refine } from '../../geometry/refine';
import { vertexAt } from '../../geometry/vec';
import { edgeDirections, SURFACE_EDGE, vertexNormals } from '../../grid/surfaceMap';
import type { LargeChoice } from '../../model/warpage';
import { weightedQuantile } from '../../numerics/weighted';
import { beyondLinear, type Beyond } from './beyondLinear';
import { connectedElements, solveElastic, type ElasticSolution, type Support } from './elastic';
import { LANES, lanesTogether, type Solid, type StrainAt } from './solid';
import { StructureError } from './kernel';
import {
  below,
  displacementAt,
  lineStress,
  planeStress,
  SmoothStrain,
  solidStress,
  surfaceDisplacement,
  vonMises,
} from './stress';
import {
  CAUSES,
  nodeShrinkage,
  PlasticStrain,
  WallPlaces,
  type Cause,
  type LayerStrain,
  type NodeShrinkage,
} from './strainField';

/** An insert that the plastic sticks to: its surface, its elasticity, what it changes by as it cools to the room. */
export interface Insert {
  id: string;
  mesh: TriangleMesh;
  solid: Solid;
  /** Linear strain from the temperature it had in the mould to the room. */
  strain: number;
  /** A piece of the feed: it may hang on another piece only, and how fine the cells are is not up to it. */
  feed?: true;
}

export interface WarpInput {
  part: TriangleMesh;
  fine: FineGrid;
  grid: PressureGrid;
  frozen: LayerStrain;
  /** Volumetric shrinkage of every node against the cavity. */
  volumetric: ArrayLike<number>;
  plastic: Solid;
  inserts: readonly Insert[];
  supports: readonly Support[];
  detail: Detail;
  /** Deflections that are large beside the wall. */
  large: LargeChoice;
  /** Surface whose vertices the shape is wanted at, m. */
  surface: TriangleMesh;
}

/** An insert in the room. */
export interface InsertResult {
  id: string;
  surface: TriangleMesh;
  /** From where it lay in the mould, 3 a vertex, m. */
  displacement: Float32Array;
  /** Stress just below the surface, 6 a vertex, Pa; NaN where nothing is known. */
  stress: Float32Array;
  /** Largest von Mises stress in it, Pa. */
  highest: number;
}

/** Shape and stress in the room; SI. Vectors have 3, tensors 6 numbers (xx yy zz xy yz xz) a vertex of the surface. */
export interface WarpResult {
  /** From the cavity to the room, free of any alignment; held where there are supports. */
  displacement: Float32Array;
  /**
   * The same by cause; they add up to the whole. 'insert' is what inserts do to the even shrinkage, 'thickness' how far
   * the surface comes nearer to the middle of its wall, which bends nothing; 'large' what large deflections change.
   */
  byCause: Record<Cause | 'insert' | 'thickness' | 'large', Float32Array>;
  /** null where small deflections were enough or nobody asked. */
  beyond: Beyond | null;
  /** Mean linear shrinkage along the walls, positive. */
  meanShrinkage: number;
  shrinkage: NodeShrinkage;
  /** Stress at the surface and in the middle of the wall below it, Pa. */
  skinStress: Float32Array;
  coreStress: Float32Array;
  inserts: InsertResult[];
  unknowns: number;
  elements: number;
  iterations: number;
  residual: number;
  /** What hangs together, the largest volume [m3] first, and a place [m] in each. */
  structurePieces: { volume: number; place: Vec3 }[];
  structure: StructureGrid;
  solution: ElasticSolution;
}

export type WarpOutcome =
  { status: 'solved'; result: WarpResult } | { status: 'failed'; message: string; likely: string };

/** Strains of a shot: by node, by place in the wall, and by place for the structure (inserts included). */
export interface WallStrains {
  shrinkage: NodeShrinkage;
  places: WallPlaces;
  strains: PlasticStrain;
  at: StrainAt;
}

export function wallStrains({
  part,
  fine,
  grid,
  frozen,
  volumetric,
  inserts,
}: Pick<WarpInput, 'part' | 'fine' | 'grid' | 'frozen' | 'volumetric' | 'inserts'>): WallStrains {
  const shrinkage = nodeShrinkage(grid, frozen, volumetric);
  const places = new WallPlaces(fine, grid, frozen.nLayers, part);
  const strains = new PlasticStrain(places, frozen, shrinkage);
  const at: StrainAt = (x, y, z, body, out) => {
    if (body === 0) {
      strains.at(x, y, z, out);
      return;
    }
    out.fill(0);
    for (let k = 0; k < 3; k++) out[LANES * k] = inserts[body - 1].strain;
  };
  return { shrinkage, places, strains, at };
}

/** Shrinkage strains of the walls, balance of the structure, shape and stress of the free part in the room. */
export async function runWarp(input: WarpInput, ctx: StageContext): Promise<WarpOutcome> {
  const { plastic, inserts, supports } = input;
  ctx.report({ stage: 'warp', fraction: 0, message: 'Cutting the structure into cells' });
  await ctx.checkpoint();
  const bodies = [input.part, ...inserts.map((i) => i.mesh)];
  const structure = buildStructureGrid(bodies, edgeOf(input), nFitted(input));
  const apart = looseInsert(structure, inserts);
  if (apart)
    return {
      status: 'failed',
      message: `Insert “${apart}” does not touch the plastic.`,
      likely: 'Move it so that it lies against the part, or give its body another role at the Part station.',
    };
  const { shrinkage, places, strains, at: strainAt } = wallStrains(input);
  const solids = [plastic, ...inserts.map((i) => i.solid)];
  let solution: ElasticSolution;
  let beyond: Beyond | null = null;
  let large: Float64Array | null = null;
  const wall = weightedQuantile(input.grid.thickness, input.grid.volume, 0.5);
  const further = beyondLinear({ structure, solids, strainAt, wall, choice: input.large }, ctx, (what, u) => {
    [beyond, large] = [what, u];
  });
  try {
    solution = await solveElastic({ grid: structure, solids, strainAt, supports }, ctx, further);
  } catch (error) {
    if (!(error instanceof StructureError)) throw error;
    return { status: 'failed', message: error.message, likely: error.likely };
  }
  if (solution.displacement.some((u) => !Number.isFinite(u)))
    return {
      status: 'failed',
      message: 'The shape of the part has no finite solution.',
      likely: 'Look at the elastic constants of the resin and of inserts: stiffness must be above 0.',
    };
  const normals = vertexNormals(input.surface);
  const small = shapeOf(input, structure, solution, normals, shrinkage.mean, places);
  const nValues = small.base.length;
  const displacement = new Float32Array(nValues);
  for (const cause of [...CAUSES, 'insert', 'thickness'] as const)
    for (let k = 0; k < nValues; k++) displacement[k] += small[cause][k];
  const change = large ? changeBy(large, displacement, input, structure, normals) : new Float32Array(nValues);
  for (let k = 0; k < nValues; k++) displacement[k] += change[k];
  const byCause = { ...small, large: change };
  await ctx.checkpoint();
  const stress = stressOf(input, structure, solution, normals, strains);
  return {
    status: 'solved',
    result: {
      displacement,
      byCause,
      beyond,
      meanShrinkage: -shrinkage.mean,
      shrinkage,
      ...stress,
      inserts: inserts.flatMap((insert, k) =>
        insert.feed ? [] : [insertOf(insert, k + 1, structure, solution, SURFACE_EDGE * input.grid.spacing)],
      ),
      unknowns: solution.unknowns,
      elements: structure.nElements,
      iterations: solution.iterations,
      residual: solution.residual,
      structurePieces: piecesOf(structure),
      structure,
      solution,
    },
  };
}

/** Edge [m] of the structure's cells: by the plastic and real inserts. */
export const edgeOf = ({ part, inserts, detail }: WarpInput): number =>
  structureEdge([part, ...inserts.filter((i) => !i.feed).map((i) => i.mesh)], detail);

/** Bodies whose faces the planes of the cells are laid into; the feed comes last. */
export const nFitted = ({ inserts }: WarpInput): number => 1 + inserts.filter((i) => !i.feed).length;

/** Strain of an insert from the temperature of the mould to the room. */
export const insertStrain = (expansion: number, mouldTemperature: number): number =>
  expansion * (ROOM - mouldTemperature);

function piecesOf(structure: StructureGrid): WarpResult['structurePieces'] {
  const { lattice, cellOf, pointStart, weight } = structure;
  const found = new Map<number, WarpResult['structurePieces'][number]>();
  connectedElements(structure).forEach((set, e) => {
    let volume = 0;
    for (let p = pointStart[e]; p < pointStart[e + 1]; p++) volume += weight[p];
    const piece = found.get(set);
    if (piece) piece.volume += volume;
    else {
      const place = cornerOf(cellOf[e], lattice).map((c, d) => lattice.origin[d] + (c + 0.5) * lattice.edges[d]);
      found.set(set, { volume, place: place as Vec3 });
    }
  });
  return [...found.values()].sort((a, b) => b.volume - a.volume);
}

/** Name of the first insert that hangs together with no plastic; null when all do. */
function looseInsert(structure: StructureGrid, inserts: readonly Insert[]): string | null {
  const set = connectedElements(structure);
  const withPlastic = new Set<number>();
  const found = new Map<number, Set<number>>();
  for (let e = 0; e < structure.nElements; e++)
    for (let p = structure.pointStart[e]; p < structure.pointStart[e + 1]; p++) {
      const body = structure.body[p];
      if (body === 0) withPlastic.add(set[e]);
      else (found.get(body) ?? found.set(body, new Set()).get(body)!).add(set[e]);
    }
  const loose = inserts.findIndex(
    (insert, k) => !insert.feed && ![...(found.get(k + 1) ?? [])].some((s) => withPlastic.has(s)),
  );
  return loose < 0 ? null : inserts[loose].id;
}

/** Displacement of the surface's vertices by cause, 3 a vertex. */
function shapeOf(
  { surface, inserts, grid }: WarpInput,
  structure: StructureGrid,
  solution: ElasticSolution,
  normals: Float64Array,
  mean: number,
  places: WallPlaces,
): Omit<WarpResult['byCause'], 'large'> {
  const n = surface.positions.length;
  const lanes = CAUSES.map(() => new Float32Array(n));
  const insert = new Float32Array(n);
  const thickness = new Float32Array(n);
  const corner = CAUSES.indexOf('corner');
  const local = new Float64Array(3);
  const u = new Float64Array(3 * LANES);
  const { positions } = surface;
  const origin = evenMotion(structure, solution, mean);
  for (let v = 0; v < n; v += 3) {
    const inside = below(structure, positions, normals, v / 3);
    const element = locate(structure, ...inside, local);
    if (element < 0) continue;
    displacementAt(structure, solution.displacement, element, local, u);
    lanes.forEach((lane, l) => {
      for (let d = 0; d < 3; d++) lane[v + d] = u[LANES * d + l];
    });
    if (places.find(...inside)) {
      const half = grid.thickness[places.node] / 2;
      const middle = locate(structure, ...below(structure, positions, normals, v / 3, half), local);
      if (middle >= 0) {
        displacementAt(structure, solution.displacement, middle, local, u);
        for (let d = 0; d < 3; d++) {
          thickness[v + d] = lanes[corner][v + d] - u[LANES * d + corner];
          lanes[corner][v + d] = u[LANES * d + corner];
        }
      }
    }
    if (!inserts.length) continue;
    // Even shrinkage alone moves the part by mean x and a rigid motion; the rest is the inserts' doing.
    const even = origin(vertexAt(positions, v / 3));
    for (let d = 0; d < 3; d++) {
      insert[v + d] = lanes[0][v + d] - even[d];
      lanes[0][v + d] = even[d];
    }
  }
  return { base: lanes[0], cooling: lanes[1], shrinkage: lanes[2], corner: lanes[corner], insert, thickness };
}

/** What large deflections change at the surface, laid onto the small ones where nothing holds the part. */
function changeBy(
  large: Float64Array,
  small: Float32Array,
  { surface, supports }: WarpInput,
  structure: StructureGrid,
  normals: Float64Array,
): Float32Array {
  const { positions, triangles } = surface;
  const change = surfaceDisplacement(structure, large, surface, normals).map((u, k) => u - small[k] || 0);
  if (supports.length) return change;
  return without(positions, change, bestFit(positions, change, vertexAreas(positions, triangles)));
}

/** mean x + the rigid motion nearest to the base case: what the plastic alone would do. */
function evenMotion(structure: StructureGrid, solution: ElasticSolution, mean: number): (p: Vec3) => Vec3 {
  const { nNodes, position } = structure;
  const centre: Vec3 = [0, 0, 0];
  const shift: Vec3 = [0, 0, 0];
  for (let i = 0; i < nNodes; i++)
    for (let d = 0; d < 3; d++) {
      centre[d] += position[3 * i + d] / nNodes;
      shift[d] += solution.displacement[LANES * (3 * i + d)] / nNodes;
    }
  return (p) => p.map((x, d) => shift[d] + mean * (x - centre[d])) as Vec3;
}

/**
 * Stress at the surface and in the middle of the wall: smoothed strain less that of the layer there. Faces bear none:
 * it is plane, on sharp edges it lies along them, and at corners there is none.
 */
function stressOf(
  { surface, plastic, grid }: WarpInput,
  structure: StructureGrid,
  solution: ElasticSolution,
  normals: Float64Array,
  strains: PlasticStrain,
): Pick<WarpResult, 'skinStress' | 'coreStress'> {
  const n = surface.positions.length / 3;
  const smooth = new SmoothStrain(structure, solution, 0);
  const skinStress = new Float32Array(6 * n).fill(NaN);
  const coreStress = new Float32Array(6 * n).fill(NaN);
  const free = new Float64Array(6 * LANES);
  const strain = new Float64Array(6);
  const stress = new Float64Array(6);
  const edges = edgeDirections(surface, normals);
  const put = (v: number, normal: Vec3, p: Vec3, out: Float32Array, edge: Vec3 | null = null) => {
    if (!smooth.at(p, strain)) return -1;
    const node = strains.at(...p, free, true);
    for (let k = 0; k < 6; k++) strain[k] -= lanesTogether(free, k);
    if (edge) lineStress(strain, edge, plastic, stress);
    else planeStress(strain, normal, plastic, stress);
    out.set(stress, 6 * v);
    return node;
  };
  for (let v = 0; v < n; v++) {
    const normal = vertexAt(normals, v);
    const edge = edges[3 * v] === edges[3 * v] ? vertexAt(edges, v) : null;
    const at = (depth?: number) => below(structure, surface.positions, normals, v, depth);
    const node = put(v, normal, at(), skinStress, edge);
    if (node >= 0) put(v, normal, at(grid.thickness[node] / 2), coreStress);
  }
  return { skinStress, coreStress };
}

/** Shape and stress of an insert, body number `body` of the structure, at the vertices of its surface. */
function insertOf(
  { id, mesh, solid, strain: free }: Insert,
  body: number,
  structure: StructureGrid,
  solution: ElasticSolution,
  edge: number,
): InsertResult {
  const surface = refine(mesh, edge);
  const smooth = new SmoothStrain(structure, solution, body);
  const normals = vertexNormals(surface);
  const displacement = surfaceDisplacement(structure, solution.displacement, surface, normals);
  const n = surface.positions.length / 3;
  const stress = new Float32Array(6 * n).fill(NaN);
  const strain = new Float64Array(6);
  const tensor = new Float64Array(6);
  for (let v = 0; v < n; v++) {
    if (!smooth.at(below(structure, surface.positions, normals, v), strain)) continue;
    for (let k = 0; k < 3; k++) strain[k] -= free;
    solidStress(strain, solid, tensor);
    stress.set(tensor, 6 * v);
  }
  return { id, surface, displacement, stress, highest: highestIn(structure, smooth, body, solid, free) };
}

function highestIn(structure: StructureGrid, smooth: SmoothStrain, body: number, solid: Solid, free: number): number {
  const strain = new Float64Array(6);
  const stress = new Float64Array(6);
  const { lattice, pointStart, local } = structure;
  let most = 0;
  for (let e = 0; e < structure.nElements; e++) {
    const corner = cornerOf(structure.cellOf[e], lattice);
    for (let p = pointStart[e]; p < pointStart[e + 1]; p += 3) {
      if (structure.body[p] !== body) continue;
      const at = corner.map((c, d) => lattice.origin[d] + lattice.edges[d] * (c + (local[3 * p + d] + 1) / 2)) as Vec3;
      if (!smooth.at(at, strain)) continue;
      for (let k = 0; k < 3; k++) strain[k] -= free;
      solidStress(strain, solid, stress);
      most = Math.max(most, vonMises(stress));
    }
  }
  return most;
}
