import { UnionFind } from '../numerics/unionFind';
import { dot, vertexAt } from './vec';

/** Facets whose normals agree this well lie in one plane. */
const COPLANAR = 1 - 1e-7;

/** For each facet the lowest facet of the connected flat face it lies in. `normals`: 3 per facet. */
export function flatPatches(normals: Float64Array, across: Int32Array): Int32Array {
  const n = across.length / 3;
  const sets = new UnionFind(n);
  for (let h = 0; h < across.length; h++) {
    if (across[h] < h) continue;
    const [a, b] = [Math.floor(h / 3), Math.floor(across[h] / 3)];
    if (dot(vertexAt(normals, a), vertexAt(normals, b)) > COPLANAR) sets.union(a, b);
  }
  return Int32Array.from({ length: n }, (_, i) => sets.find(i));
}
