import type { TriangleMesh, Vec3 } from '../../geometry/mesh';
import { vertexAreas } from '../../geometry/alignment';
import { edgeTable, acrossEdges, facets } from '../../geometry/edges';
import { refine } from '../../geometry/refine';
import { SurfaceTree } from '../../geometry/surfaceTree';
import { dot, vertexAt } from '../../geometry/vec';
import type { Detail } from '../../grid/lattice';
import { buildStructureGrid, structureEdge } from '../../grid/structureGrid';
import { vertexNormals } from '../../grid/surfaceMap';
import type { StageContext } from '../../stage/context';
import { solveElastic, type PointForce, type Support } from './elastic';
import type { Solid } from './solid';
import { surfaceDisplacement } from './stress';

/** A body alone under forces at its surface. */
export interface BentInput {
  mesh: TriangleMesh;
  solid: Solid;
  detail: Detail;
  /** Places [m] that are held in all directions. */
  held: readonly Vec3[];
  forces: readonly PointForce[];
}

/** Its surface, and how far each vertex moves, 3 each, m. */
export interface Bent {
  surface: TriangleMesh;
  displacement: Float32Array;
}

/** Longest edge of the surface that the displacement is read at, over the cell of the structure. */
const SURFACE_EDGE = 2;

/** Bending of a body that is held at places, by forces: small deflections. @throws StructureError without stiffness. */
export async function bend({ mesh, solid, detail, held, forces }: BentInput, ctx: StageContext): Promise<Bent> {
  const edge = structureEdge([mesh], detail);
  const grid = buildStructureGrid([mesh], edge);
  const surface = refine(mesh, SURFACE_EDGE * edge);
  const normals = vertexNormals(surface);
  const supports: Support[] = held.flatMap((position) => AXES.map((direction): Support => ({ position, direction })));
  const strainAt = (_x: number, _y: number, _z: number, _body: number, out: Float64Array) => void out.fill(0);
  const quiet: StageContext = { ...ctx, report: () => {}, checkpoint: () => ctx.checkpoint() };
  const { displacement } = await solveElastic({ grid, solids: [solid], strainAt, supports, forces }, quiet);
  return { surface, displacement: surfaceDisplacement(grid, displacement, surface, normals) };
}

const AXES: Vec3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** Faces that turn by less than this from one facet to the next are one. */
const ONE_FACE = Math.cos((20 * Math.PI) / 180);
/** Points just below the faces that `picked` places lie on: where a body is held that is held by those faces. */
export function pointsOfFaces(mesh: TriangleMesh, picked: readonly Vec3[], edge: number): Vec3[] {
  const fine = refine(mesh, edge);
  const { normals } = facets(fine);
  const across = acrossEdges(edgeTable(fine));
  const tree = new SurfaceTree(fine);
  const face = new Set<number>();
  for (const place of picked) {
    const first = tree.closest(...place);
    const open = first < 0 ? [] : [first];
    while (open.length) {
      const f = open.pop() as number;
      if (face.has(f)) continue;
      face.add(f);
      for (let e = 3 * f; e < 3 * f + 3; e++) {
        const g = Math.floor(across[e] / 3);
        if (across[e] >= 0 && !face.has(g) && dot(vertexAt(normals, f), vertexAt(normals, g)) > ONE_FACE) open.push(g);
      }
    }
  }
  const vertices = new Set([...face].flatMap((f) => [0, 1, 2].map((c) => fine.triangles[3 * f + c])));
  return spread(fine, vertices, edge);
}

/** Points just below the parts of a surface that `free` says touch nothing. */
export function pointsOutside(mesh: TriangleMesh, free: (p: Vec3) => boolean, edge: number): Vec3[] {
  const fine = refine(mesh, edge);
  const vertices = new Set<number>();
  for (let v = 0; v < fine.positions.length / 3; v++) if (free(vertexAt(fine.positions, v))) vertices.add(v);
  return spread(fine, vertices, edge);
}

/** Of some vertices, those that lie apart from each other, moved a little inwards. */
function spread(fine: TriangleMesh, vertices: ReadonlySet<number>, edge: number): Vec3[] {
  const normals = vertexNormals(fine);
  const areas = vertexAreas(fine.positions, fine.triangles);
  const order = [...vertices].sort((a, b) => areas[b] - areas[a]);
  const cells = new Set<string>();
  return order.flatMap((v) => {
    const p = vertexAt(fine.positions, v);
    const cell = p.map((x) => Math.round(x / edge)).join();
    if (cells.has(cell)) return [];
    cells.add(cell);
    return [p.map((x, d) => x - 1e-3 * edge * normals[3 * v + d]) as Vec3];
  });
}
