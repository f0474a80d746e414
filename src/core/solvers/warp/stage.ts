import type { TriangleMesh, Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { buildStructureGrid, locate, structureEdge, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { Detail } from '../../grid/lattice';
import { ROOM } from '../../material/pvt';
import type { StageContext } from '../../stage/context';
import { bestFit, vertexAreas, without } from '../../geometry/alignment';
import { vertexAt } from '../../geometry/vec';
import { SURFACE_EDGE } from '../../grid/drawnSurface';
import { vertexNormals } from '../../grid/surfaceMap';
import type { LargeChoice } from '../../model/warpage';
import { weightedQuantile } from '../../numerics/weighted';
import { hollowedOut } from './hollowStructure';
import { insertOf } from './insertStress';
import { beyondLinear, type Beyond } from './beyondLinear';
import { connectedElements, solveElastic, type ElasticSolution, type Support } from './elastic';
import { layerStiffness, meanStiffness, type OrientedWalls } from '../fibres/orientedWalls';
import { layerShares } from '../melt/layers';
import { LANES, type Solid, type StiffnessAt, type StrainAt } from './solid';
import { StructureError } from './kernel';
import { below, displacementAt, surfaceDisplacement } from './stress';
import { onFibres, type OnFibres } from './orientedStrain';
import { stressInWalls } from './stressInWalls';
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
  /** Plastic of an earlier shot: its walls shrink as they do. `strain` is then what they had in common by the next shot. */
  walls?: EarlierWalls;
}

/** Walls of plastic that was there before the part came: it had shrunk by then, and goes on from there. */
export interface EarlierWalls extends Pick<WarpInput, 'fine' | 'grid' | 'frozen' | 'volumetric' | 'surface'> {
  /** Even strain that had come to pass when the next shot came over it. */
  already: number;
}

export interface WarpInput {
  part: TriangleMesh;
  fine: FineGrid;
  grid: PressureGrid;
  frozen: LayerStrain;
  /** Volumetric shrinkage of every node against the cavity. */
  volumetric: ArrayLike<number>;
  /** Place of the face of a core through the wall of every node (0 .. 1); absent: the part is solid. */
  core?: ArrayLike<number>;
  /** What fibres make of its layers; absent: they are alike in all directions. */
  oriented?: OrientedWalls;
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
  /** Of plastic of an earlier shot: what its own result says. */
  plastic: PlasticResult | null;
}

/** Shape and stress of the walls of one plastic; see WarpResult. */
export interface PlasticResult {
  displacement: Float32Array;
  byCause: Record<Cause | 'insert' | 'shot' | 'thickness' | 'oriented' | 'large', Float32Array>;
  meanShrinkage: number;
  /** The same along the fibres and square to them in the plane of the wall; null where none were followed. */
  onFibres: OnFibres | null;
  shrinkage: NodeShrinkage;
  skinStress: Float32Array;
  coreStress: Float32Array;
  /** Pull and shear stress between it and what it is bonded to, 2 a vertex, Pa; NaN where nothing is. Empty: nowhere. */
  bond: Float32Array;
}

/**
 * Shape and stress in the room; SI. Vectors have 3, tensors 6 numbers (xx yy zz xy yz xz) a vertex of the surface.
 *
 *   displacement   from the cavity to the room, free of any alignment; held where there are supports
 *   byCause        the same by cause; they add up to the whole. 'insert' is what inserts do to the even shrinkage, 'shot'
 *                  what plastic of other shots does to it, 'thickness' how far the surface comes nearer to the middle of
 *                  its wall, which bends nothing; 'oriented' what the directions of fibres change; 'large' what large deflections change
 *   meanShrinkage  linear along the walls, positive
 *   skinStress     at the surface; coreStress in the middle of the wall below it, Pa
 */
export interface WarpResult extends PlasticResult {
  /** null where small deflections were enough or nobody asked. */
  beyond: Beyond | null;
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

/** Strains of the walls of a plastic: by node and by place in the wall. */
interface OwnStrains {
  shrinkage: NodeShrinkage;
  places: WallPlaces;
  strains: PlasticStrain;
}

/** Strains of a shot, of earlier ones by their number among the inserts, and by place for the structure. */
export interface WallStrains extends OwnStrains {
  earlier: (OwnStrains | undefined)[];
  at: StrainAt;
}

export function wallStrains({
  part,
  fine,
  grid,
  frozen,
  volumetric,
  inserts,
  oriented,
}: Pick<WarpInput, 'part' | 'fine' | 'grid' | 'frozen' | 'volumetric' | 'inserts' | 'oriented'>): WallStrains {
  const own = strainsOf(part, { fine, grid, frozen, volumetric }, oriented);
  const earlier = inserts.map(({ mesh, walls }) => walls && strainsOf(mesh, walls));
  const at: StrainAt = (x, y, z, body, out) => {
    if (body === 0) {
      own.strains.at(x, y, z, out);
      return;
    }
    const { strain, walls } = inserts[body - 1];
    const other = earlier[body - 1];
    if (other && walls) {
      other.strains.at(x, y, z, out);
      for (let k = 0; k < 3; k++) out[LANES * k] -= walls.already;
      return;
    }
    out.fill(0);
    for (let k = 0; k < 3; k++) out[LANES * k] = strain;
  };
  return { ...own, earlier, at };
}

function strainsOf(
  mesh: TriangleMesh,
  { fine, grid, frozen, volumetric }: Omit<EarlierWalls, 'already' | 'surface'>,
  oriented: OrientedWalls | null = null,
) {
  const shrinkage = nodeShrinkage(grid, frozen, volumetric, oriented);
  const places = new WallPlaces(fine, grid, frozen.nLayers, mesh);
  return { shrinkage, places, strains: new PlasticStrain(places, frozen, shrinkage) };
}

/** Stiffness of the layers of the plastic by place; null: it is alike in all directions. */
export function stiffnessOfWalls(
  { oriented, grid }: Pick<WarpInput, 'oriented' | 'grid'>,
  { places }: Pick<WallStrains, 'places'>,
): StiffnessAt | null {
  if (!oriented) return null;
  const mean = meanStiffness(oriented, grid.volume, layerShares(oriented.nLayers));
  return (x, y, z, body, out) => {
    if (body !== 0) return false;
    if (places.find(x, y, z)) layerStiffness(oriented, places.node * oriented.nLayers + places.layer, out);
    else out.set(mean);
    return true;
  };
}

/** Shrinkage strains of the walls, balance of the structure, shape and stress of the free part in the room. */
export async function runWarp(input: WarpInput, ctx: StageContext): Promise<WarpOutcome> {
  const { plastic, inserts, supports } = input;
  ctx.report({ stage: 'warp', fraction: 0, message: 'Cutting the structure into cells' });
  await ctx.checkpoint();
  const bodies = [input.part, ...inserts.map((i) => i.mesh)];
  const solid = buildStructureGrid(bodies, edgeOf(input), nFitted(input));
  const apart = looseInsert(solid, inserts);
  if (apart)
    return {
      status: 'failed',
      message: `Insert “${apart}” does not touch the plastic.`,
      likely: 'Move it so that it lies against the part, or give its body another role at the Part station.',
    };
  const walls = wallStrains(input);
  const { shrinkage, at: strainAt } = walls;
  const structure = input.core ? hollowedOut(solid, walls.places, input.core) : solid;
  const solids = [plastic, ...inserts.map((i) => i.solid)];
  let solution: ElasticSolution;
  let beyond: Beyond | null = null;
  let large: Float64Array | null = null;
  const wall = weightedQuantile(input.grid.thickness, input.grid.volume, 0.5);
  const stiffnessAt = stiffnessOfWalls(input, walls);
  const materials = { solids, strainAt, ...(stiffnessAt ? { stiffnessAt } : {}) };
  const further = beyondLinear({ structure, ...materials, wall, choice: input.large }, ctx, (what, u) => {
    [beyond, large] = [what, u];
  });
  try {
    solution = await solveElastic({ grid: structure, ...materials, supports }, ctx, further);
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
  const byInserts = await insertsAlone(input, structure, solids, shrinkage.mean, ctx);
  const byFibres = await fibresAlone(input, structure, materials, shrinkage.mean, ctx);
  const wanted = { ...input, mesh: input.part, body: 0, solid: plastic, already: 0, stiffnessAt };
  const own = plasticResult(wanted, walls, { structure, solution, byInserts, byFibres, inserts });
  const normals = vertexNormals(input.surface);
  const change = large ? changeBy(large, own.displacement, input, structure, normals) : own.byCause.large;
  for (let k = 0; k < change.length; k++) own.displacement[k] += change[k];
  own.byCause.large = change;
  await ctx.checkpoint();
  return {
    status: 'solved',
    result: {
      ...own,
      beyond,
      inserts: inserts.flatMap((insert, k) => {
        if (insert.feed) return [];
        const shown = insertOf(insert, k + 1, structure, solution, SURFACE_EDGE * input.grid.spacing, strainAt);
        const earlier = walls.earlier[k];
        if (!earlier || !insert.walls) return [shown];
        const { mesh, solid } = insert;
        const plastic = plasticResult({ ...insert.walls, mesh, body: k + 1, solid, stiffnessAt: null }, earlier, {
          structure,
          solution,
          byInserts,
          byFibres,
          inserts: [...inserts, { id: '', mesh: input.part, solid: input.plastic, strain: 0 }],
        });
        return [{ ...shown, plastic }];
      }),
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

/** A plastic of the structure whose result is wanted. */
export interface Wanted extends Omit<EarlierWalls, 'frozen' | 'volumetric' | 'fine'> {
  mesh: TriangleMesh;
  /** Its number in the structure. */
  body: number;
  solid: Solid;
  /** Where its directions are not alike. */
  stiffnessAt: StiffnessAt | null;
}

/** The balance, and what bodies it was made with. */
export interface Solved {
  structure: StructureGrid;
  solution: ElasticSolution;
  /** Displacement by inserts alone where there is plastic of earlier shots as well. */
  byInserts: Float64Array | null;
  /** Displacement by the directions of fibres alone; null where it is the first case less even shrinkage. */
  byFibres: Float64Array | null;
  inserts: readonly Insert[];
}

/**
 * Displacement by inserts alone, without the plastic of earlier shots: needed to tell the two apart where there are both;
 * else null.
 */
async function insertsAlone(
  { inserts, supports }: WarpInput,
  grid: StructureGrid,
  solids: readonly Solid[],
  mean: number,
  ctx: StageContext,
): Promise<Float64Array | null> {
  if (!inserts.some((i) => i.walls) || inserts.every((i) => i.walls)) return null;
  const strainAt: StrainAt = (_x, _y, _z, body, out) => {
    out.fill(0);
    if (body === 0 || inserts[body - 1].walls) return;
    for (let k = 0; k < 3; k++) out[LANES * k] = inserts[body - 1].strain - mean;
  };
  return (await solveElastic({ grid, solids, strainAt, supports }, ctx)).displacement;
}

/** Displacement by the directions of fibres alone, where the first case holds something else as well; else null. */
async function fibresAlone(
  { inserts, supports, oriented }: WarpInput,
  grid: StructureGrid,
  materials: { solids: readonly Solid[]; strainAt: StrainAt; stiffnessAt?: StiffnessAt },
  mean: number,
  ctx: StageContext,
): Promise<Float64Array | null> {
  if (!oriented || (!inserts.length && !supports.length)) return null;
  const strainAt: StrainAt = (x, y, z, body, out) => {
    if (body === 0) materials.strainAt(x, y, z, body, out);
    for (let k = 0; k < out.length; k++) if (k % LANES || body !== 0) out[k] = 0;
    if (body === 0) for (let k = 0; k < 3; k++) out[LANES * k] -= mean;
  };
  return (await solveElastic({ grid, ...materials, strainAt, supports }, ctx)).displacement;
}

function plasticResult(wanted: Wanted, own: OwnStrains, solved: Solved): PlasticResult {
  const { shrinkage, strains } = own;
  const normals = vertexNormals(wanted.surface);
  const causes = shapeOf(wanted, own, solved, normals);
  const fibres = onFibres(wanted.grid, shrinkage);
  const nValues = wanted.surface.positions.length;
  const displacement = new Float32Array(nValues);
  for (const values of Object.values(causes)) for (let k = 0; k < nValues; k++) displacement[k] += values[k];
  return {
    displacement,
    byCause: { ...causes, large: new Float32Array(nValues) },
    onFibres: fibres,
    meanShrinkage: fibres ? (fibres.along + fibres.square) / 2 : -shrinkage.mean,
    shrinkage,
    ...stressInWalls(wanted, solved, normals, strains),
  };
}

/** Displacement of the surface's vertices by cause, 3 a vertex. */
function shapeOf(
  { surface, grid, already }: Wanted,
  { shrinkage, places }: OwnStrains,
  { structure, solution, byInserts, byFibres, inserts }: Solved,
  normals: Float64Array,
): Omit<PlasticResult['byCause'], 'large'> {
  const n = surface.positions.length;
  const lanes = CAUSES.map(() => new Float32Array(n));
  const insert = new Float32Array(n);
  const shot = new Float32Array(n);
  const oriented = new Float32Array(n);
  const thickness = new Float32Array(n);
  const corner = CAUSES.indexOf('corner');
  const local = new Float64Array(3);
  const u = new Float64Array(3 * LANES);
  const { positions } = surface;
  const origin = evenMotion(structure, solution, shrinkage.mean);
  const before = evenMotion(structure, solution, already);
  const still = evenMotion(structure, solution, 0);
  const ofShots = inserts.some((i) => i.walls);
  for (let v = 0; v < n; v += 3) {
    const inside = below(structure, positions, normals, v / 3);
    const element = locate(structure, ...inside, local);
    if (element < 0) continue;
    displacementAt(structure, solution.displacement, element, local, u);
    lanes.forEach((lane, l) => {
      for (let d = 0; d < 3; d++) lane[v + d] = u[LANES * d + l];
    });
    const place = vertexAt(positions, v / 3);
    if (already) {
      const [a, b] = [before(place), still(place)];
      for (let d = 0; d < 3; d++) lanes[0][v + d] += a[d] - b[d];
    }
    if (byInserts) {
      displacementAt(structure, byInserts, element, local, u);
      for (let d = 0; d < 3; d++) insert[v + d] = u[LANES * d];
    }
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
    if (byFibres) {
      displacementAt(structure, byFibres, element, local, u);
      for (let d = 0; d < 3; d++) {
        oriented[v + d] = u[LANES * d];
        lanes[0][v + d] -= u[LANES * d];
      }
    } else if (shrinkage.oriented) {
      const even = origin(place);
      for (let d = 0; d < 3; d++) {
        oriented[v + d] = lanes[0][v + d] - even[d];
        lanes[0][v + d] = even[d];
      }
    }
    if (!inserts.length) continue;
    // Even shrinkage alone moves the part by mean x and a rigid motion; the rest is the doing of what it is tied to.
    const even = origin(place);
    for (let d = 0; d < 3; d++) {
      const tied = lanes[0][v + d] - even[d];
      if (ofShots) shot[v + d] = tied - insert[v + d];
      else insert[v + d] = tied;
      lanes[0][v + d] = even[d];
    }
  }
  const [base, cooling, uneven] = lanes;
  return { base, cooling, shrinkage: uneven, corner: lanes[corner], insert, shot, thickness, oriented };
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
