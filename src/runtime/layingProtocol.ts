import type { Laying } from '../core/geometry/laying';
import type { TriangleMesh, Vec3 } from '../core/geometry/mesh';
import type { PlacesThere } from '../core/grid/placesThere';

/** What the page asks of its worker for parts that differ. */
export type LayingRequest =
  /** `marks`: places of the gates of either, m. */
  | { type: 'lay'; from: TriangleMesh; onto: TriangleMesh; marks: { from: Vec3[]; onto: Vec3[] } }
  /** `matrix`: how the first lies on the second; `apart`: what is nearer lies alike, m. */
  | { type: 'apart'; first: TriangleMesh; second: TriangleMesh; matrix: readonly number[]; apart: number }
  /** Stored surface and grids, by where they are served; how the first part lies on the second. */
  | { type: 'place'; from: { surface: string; grid: string }; onto: string; matrix: readonly number[] };

export type LayingAnswer =
  | { type: 'laid'; laying: Laying }
  /** Triangles of the second that stand out of the first, and of the first that stand out of the second. */
  | { type: 'apart'; added: number[]; removed: number[] }
  | { type: 'placed'; places: PlacesThere }
  | { type: 'failed'; message: string };
