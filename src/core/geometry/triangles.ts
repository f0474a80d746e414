import type { TriangleMesh, Vec3 } from './mesh';

export const centroid = (p: Float64Array, t: Uint32Array, i: number): Vec3 =>
  [0, 1, 2].map((d) => (p[3 * t[3 * i] + d] + p[3 * t[3 * i + 1] + d] + p[3 * t[3 * i + 2] + d]) / 3) as Vec3;

export function longestSide(p: Float64Array, t: Uint32Array, i: number): number {
  let longest = 0;
  for (let c = 0; c < 3; c++) {
    const a = 3 * t[3 * i + c];
    const b = 3 * t[3 * i + ((c + 1) % 3)];
    const side = Math.sqrt((p[b] - p[a]) ** 2 + (p[b + 1] - p[a + 1]) ** 2 + (p[b + 2] - p[a + 2]) ** 2);
    if (side > longest) longest = side;
  }
  return longest;
}

/** Triangles with the same three corners as an earlier one, whichever way they face. */
export function duplicateTriangles(mesh: TriangleMesh): number[] {
  const { triangles: t } = mesh;
  const n = t.length / 3;
  const nVertices = mesh.positions.length / 3;
  // Buckets by the lowest corner; a bucket holds a handful.
  const first = new Int32Array(nVertices).fill(-1);
  const next = new Int32Array(n).fill(-1);
  const duplicates: number[] = [];
  const key = (i: number) => {
    const [a, b, c] = [t[3 * i], t[3 * i + 1], t[3 * i + 2]];
    const low = a < b ? (a < c ? a : c) : b < c ? b : c;
    const high = a > b ? (a > c ? a : c) : b > c ? b : c;
    return [low, a + b + c - low - high, high];
  };
  for (let i = 0; i < n; i++) {
    const [low, middle, high] = key(i);
    let j = first[low];
    while (j >= 0) {
      const other = key(j);
      if (other[1] === middle && other[2] === high) break;
      j = next[j];
    }
    if (j >= 0) duplicates.push(i);
    else {
      next[i] = first[low];
      first[low] = i;
    }
  }
  return duplicates;
}

/** Weights of a triangle's corners at a place in its plane; they sum to 1. */
export function barycentric(
  { positions: p, triangles: t }: TriangleMesh,
  triangle: number,
  at: ArrayLike<number>,
): Vec3 {
  const [a, b, c] = [0, 1, 2].map((k) => 3 * t[3 * triangle + k]);
  let [uu, uv, vv, ru, rv] = [0, 0, 0, 0, 0];
  for (let d = 0; d < 3; d++) {
    const [u, v, r] = [p[b + d] - p[a + d], p[c + d] - p[a + d], at[d] - p[a + d]];
    uu += u * u;
    uv += u * v;
    vv += v * v;
    ru += r * u;
    rv += r * v;
  }
  const det = uu * vv - uv * uv;
  if (!(det > 0)) return [1, 0, 0];
  const s = (ru * vv - rv * uv) / det;
  const r = (rv * uu - ru * uv) / det;
  return [1 - s - r, s, r];
}
