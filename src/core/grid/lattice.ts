import { measure, boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';

export type Detail = 'quick' | 'normal' | 'fine';

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

export function latticeFor(mesh: TriangleMesh, detail: Detail): Lattice {
  return latticeOver(mesh, nominalWall(mesh) / CELLS_PER_WALL[detail]);
}
