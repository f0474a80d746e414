import type { TriangleMesh } from '../geometry/mesh';
import { barycentric } from '../geometry/triangles';
import { SurfaceTree } from '../geometry/surfaceTree';

/**
 * Vectors (3 a vertex) of one surface read at the vertices of another of the same part, whose triangles differ: at
 * the nearest place, linear in its triangle. NaN where that is farther than `reach` [m]: the part is another there.
 */
export function carriedOver(
  from: TriangleMesh,
  values: ArrayLike<number>,
  to: { positions: ArrayLike<number> },
  reach: number,
): Float32Array {
  const tree = new SurfaceTree(from);
  const { positions } = to;
  const out = new Float32Array(positions.length).fill(NaN);
  for (let v = 0; v < out.length; v += 3) {
    const triangle = tree.closest(positions[v], positions[v + 1], positions[v + 2], reach);
    if (triangle < 0) continue;
    const weights = barycentric(from, triangle, tree.point);
    for (let d = 0; d < 3; d++) {
      out[v + d] = 0;
      for (let c = 0; c < 3; c++) out[v + d] += weights[c] * values[3 * from.triangles[3 * triangle + c] + d];
    }
  }
  return out;
}
