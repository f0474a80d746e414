import type { TriangleMesh } from '../geometry/mesh';
import { barycentric } from '../geometry/triangles';
import { SurfaceTree } from '../geometry/surfaceTree';

/**
 * Values (`components` a vertex) of one surface read at the vertices of another of the same part, whose triangles differ:
 * at the nearest place, linear in its triangle. NaN where that is farther than `reach` [m]: the part is another there.
 */
export function carriedOver(
  from: TriangleMesh,
  values: ArrayLike<number>,
  to: { positions: ArrayLike<number> },
  reach: number,
  components = 3,
): Float32Array {
  const tree = new SurfaceTree(from);
  const { positions } = to;
  const n = positions.length / 3;
  const out = new Float32Array(components * n).fill(NaN);
  for (let v = 0; v < n; v++) {
    const triangle = tree.closest(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2], reach);
    if (triangle < 0) continue;
    const weights = barycentric(from, triangle, tree.point);
    for (let d = 0; d < components; d++) {
      let sum = 0;
      for (let c = 0; c < 3; c++) sum += weights[c] * values[components * from.triangles[3 * triangle + c] + d];
      out[components * v + d] = sum;
    }
  }
  return out;
}
