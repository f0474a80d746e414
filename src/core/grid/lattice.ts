import { z } from 'zod';
import { facets } from '../geometry/edges';
import { SurfaceTree } from '../geometry/surfaceTree';
import { measure, boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';

export const detailSchema = z.enum(['quick', 'normal', 'fine']);
export type Detail = z.infer<typeof detailSchema>;

/** Fine cells across the nominal wall. */
export const CELLS_PER_WALL: Record<Detail, number> = { quick: 1.5, normal: 2, fine: 3 };

/** Fine cells along the edge of a block of the pressure grid. */
export const BLOCK = 2;

/** Dense boxes are indexed directly; past this size they dominate time and memory. */
export const MAX_DENSE_CELLS = 4e7;

/** Axis-aligned box of nx x ny x nz cubes. Coordinates in metres. */
export interface Lattice {
  origin: Vec3;
  /** edge of a fine cell, m */
  spacing: number;
  nx: number;
  ny: number;
  nz: number;
}

/**
 * Nominal wall thickness [m]: 2 V / S, the exact thickness of a wide plate and the same in any
 * orientation. Edges and ribs lower it a little, which errs towards a finer grid.
 */
export function nominalWall(mesh: TriangleMesh): number {
  const { volume, area } = measure(mesh);
  return (2 * Math.abs(volume)) / area;
}

/**
 * The lattice over a mesh. The box begins an odd fraction of a cell below the part, a different one
 * along each axis: plane faces and vertices of real parts then never lie in a grid plane or on a
 * line of cell centres. Cell counts are multiples of the block size.
 */
export function latticeOver(mesh: TriangleMesh, spacing: number): Lattice {
  const { min, max } = boundsOf(mesh.positions);
  const offset: Vec3 = [0.3819, 0.4142, 0.3643];
  const origin = min.map((m, d) => m - (offset[d] + 1) * spacing) as Vec3;
  const count = (d: number) => BLOCK * Math.ceil(((max[d] - origin[d]) / spacing + 1.01) / BLOCK);
  return { origin, spacing, nx: count(0), ny: count(1), nz: count(2) };
}

/** Share of the surface whose walls may be thinner than what the cells go by. */
const THIN_SHARE = 0.1;
const SAMPLES = 3000;

/**
 * Thickness [m] that a tenth of the surface stays below, from rays into the part: ribs and fins that the mean wall
 * does not know of. The same for a part in any place and orientation.
 */
export function thinWall(mesh: TriangleMesh): number {
  const { positions: p, triangles: t } = mesh;
  const { normals, areas } = facets(mesh);
  const tree = new SurfaceTree(mesh);
  const total = areas.reduce((s, a) => s + a, 0);
  const depths: number[] = [];
  const skin = 1e-6 * Math.sqrt(total);
  let [triangle, passed] = [0, 0];
  for (let k = 0; k < SAMPLES; k++) {
    const at = ((k + 0.5) / SAMPLES) * total;
    while (triangle < areas.length - 1 && passed + areas[triangle] < at) passed += areas[triangle++];
    // Evenly over triangles: the golden section in one barycentric coordinate, the square root of another in the other.
    const u = Math.sqrt((k * 0.7548776662466927) % 1);
    const v = (k * 0.5698402909980532) % 1;
    const weights = [1 - u, u * (1 - v), u * v];
    const from = [0, 1, 2].map((d) =>
      weights.reduce((s, w, c) => s + w * p[3 * t[3 * triangle + c] + d], -skin * normals[3 * triangle + d]),
    );
    const [nx, ny, nz] = normals.subarray(3 * triangle, 3 * triangle + 3);
    if (tree.ray(from[0], from[1], from[2], -nx, -ny, -nz, 0, Infinity, false, triangle) >= 0)
      depths.push(tree.distance);
  }
  depths.sort((a, b) => a - b);
  return depths.length ? depths[Math.floor(THIN_SHARE * depths.length)] : nominalWall(mesh);
}

/**
 * Cells up to which thin places may make the grid finer than the nominal wall asks for, and how much finer it may
 * become at most.
 */
const FINER_CELLS: Record<Detail, number> = { quick: 40_000, normal: 110_000, fine: 330_000 };
const FINEST = 4;
/** Cells that a compact part gets at least: a section of few cells feels how it lies in the grid. */
const LEAST_CELLS: Record<Detail, number> = { quick: 6_000, normal: 15_000, fine: 40_000 };
const FINEST_COMPACT = 2;

/** Edge of the fine cells [m]: by the nominal wall, or finer for thin walls and small parts within a number of cells. */
export function spacingFor(mesh: TriangleMesh, detail: Detail): number {
  const { volume, area } = measure(mesh);
  const plain = nominalWall(mesh) / CELLS_PER_WALL[detail];
  // Cells inside, and those that the surface cuts.
  const cells = (a: number) => Math.abs(volume) / a ** 3 + (0.75 * area) / a ** 2;
  if (cells(plain) >= FINER_CELLS[detail]) return plain;
  const thin = Math.min(plain, Math.max(plain / FINEST, thinWall(mesh) / CELLS_PER_WALL[detail]));
  const within = coarsened(thin, (a) => cells(a) <= FINER_CELLS[detail] || a >= plain);
  const compact = coarsened(plain / FINEST_COMPACT, (a) => cells(a) <= LEAST_CELLS[detail] || a >= plain);
  return Math.min(plain, within, compact);
}

/** The first of ever larger spacings from `spacing` on that will do. */
function coarsened(spacing: number, enough: (spacing: number) => boolean): number {
  let a = spacing;
  while (!enough(a)) a *= 1.02;
  return a;
}

export const latticeFor = (mesh: TriangleMesh, detail: Detail): Lattice => latticeOver(mesh, spacingFor(mesh, detail));
