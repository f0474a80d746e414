import { placed, turned } from '../geometry/placement';
import { vertexAt } from '../geometry/vec';
import { NodeReader, type ReadableGrid, type ReaderTables } from './nodeReader';
import { vertexNormals, type SurfaceMap } from './surfaceMap';
import { sideOfNormal } from './wallSides';

/** Where a part's surface and nodes lie on another one, and what reads the grid of that there; plain arrays. */
export interface PlacesThere {
  surface: ReaderTables;
  nodes: ReaderTables;
  /** Of every vertex: its place on the other part, m, and the side of the wall it lies on there. */
  places: Float32Array;
  sides: Uint8Array;
}

/** Places of a surface and of nodes, brought by the rows of a 3 x 4 matrix to those of another part, on its grid. */
export function placesThere(
  surface: Pick<SurfaceMap, 'positions' | 'triangles'>,
  grid: Pick<ReadableGrid, 'centroid'>,
  theirs: ReadableGrid,
  matrix: readonly number[],
): PlacesThere {
  const n = surface.positions.length / 3;
  const places = moved(surface.positions, matrix);
  const normals = vertexNormals(surface);
  const inwards = new Float32Array(3 * n);
  const sides = new Uint8Array(n);
  for (let v = 0; v < n; v++) {
    const normal = turned(matrix, vertexAt(normals, v));
    sides[v] = sideOfNormal(...normal);
    for (let d = 0; d < 3; d++) inwards[3 * v + d] = -theirs.mapper.inset * normal[d];
  }
  return {
    surface: NodeReader.on(theirs, places, inwards).tables,
    nodes: NodeReader.on(theirs, moved(grid.centroid, matrix)).tables,
    places,
    sides,
  };
}

function moved(positions: ArrayLike<number>, matrix: readonly number[]): Float32Array {
  const out = new Float32Array(positions.length);
  for (let v = 0; v < out.length / 3; v++) out.set(placed(matrix, vertexAt(positions, v)), 3 * v);
  return out;
}
