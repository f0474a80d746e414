import { weld, type TriangleMesh } from './mesh';

/**
 * Joins vertices closer than `tolerance`. Hashed by cells twice that wide: a vertex and its partner lie in
 * one cell or in cells that meet nearer to the vertex than the tolerance.
 */
export function joinClose(mesh: TriangleMesh, tolerance: number): TriangleMesh {
  const { positions: p, triangles: t } = mesh;
  const n = p.length / 3;
  const size = 1 << Math.ceil(Math.log2(Math.max(16, 2 * n)));
  const first = new Int32Array(size).fill(-1);
  const next = new Int32Array(n).fill(-1);
  const width = 2 * tolerance || 1;
  const slot = (i: number, j: number, k: number) =>
    (Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) & (size - 1);
  const cell = (x: number) => Math.floor(x / width);
  const target = new Uint32Array(n);
  const near = (v: number, bucket: number): number => {
    for (let w = first[bucket]; w >= 0; w = next[w]) {
      const dx = p[3 * w] - p[3 * v];
      const dy = p[3 * w + 1] - p[3 * v + 1];
      const dz = p[3 * w + 2] - p[3 * v + 2];
      if (dx * dx + dy * dy + dz * dz <= tolerance * tolerance) return w;
    }
    return -1;
  };
  for (let v = 0; v < n; v++) {
    const [x, y, z] = [p[3 * v], p[3 * v + 1], p[3 * v + 2]];
    let found = -1;
    for (let i = cell(x - tolerance); i <= cell(x + tolerance) && found < 0; i++)
      for (let j = cell(y - tolerance); j <= cell(y + tolerance) && found < 0; j++)
        for (let k = cell(z - tolerance); k <= cell(z + tolerance) && found < 0; k++) found = near(v, slot(i, j, k));
    target[v] = found < 0 ? v : found;
    if (found >= 0) continue;
    const own = slot(cell(x), cell(y), cell(z));
    next[v] = first[own];
    first[own] = v;
  }
  const soup = new Float64Array(3 * t.length);
  for (let c = 0; c < t.length; c++) for (let d = 0; d < 3; d++) soup[3 * c + d] = p[3 * target[t[c]] + d];
  return weld(soup).mesh;
}
