import type { TriangleMesh, Vec3 } from './mesh';

export interface SurfacePoint {
  point: Vec3;
  /** Outward unit normal of the triangle. */
  normal: Vec3;
  /** m */
  distance: number;
  triangle: number;
}

const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const along = (a: Vec3, u: Vec3, s: number, v?: Vec3, t = 0): Vec3 => [
  a[0] + s * u[0] + (v ? t * v[0] : 0),
  a[1] + s * u[1] + (v ? t * v[1] : 0),
  a[2] + s * u[2] + (v ? t * v[2] : 0),
];

/** Closest point of a triangle to p by Voronoi regions (Ericson, Real-Time Collision Detection, 5.1.5). */
export function closestOnTriangle(p: Vec3, a: Vec3, b: Vec3, c: Vec3): Vec3 {
  const ab = sub(b, a);
  const ac = sub(c, a);
  const ap = sub(p, a);
  const d1 = dot(ab, ap);
  const d2 = dot(ac, ap);
  if (d1 <= 0 && d2 <= 0) return a;
  const bp = sub(p, b);
  const d3 = dot(ab, bp);
  const d4 = dot(ac, bp);
  if (d3 >= 0 && d4 <= d3) return b;
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return along(a, ab, d1 / (d1 - d3));
  const cp = sub(p, c);
  const d5 = dot(ab, cp);
  const d6 = dot(ac, cp);
  if (d6 >= 0 && d5 <= d6) return c;
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return along(a, ac, d2 / (d2 - d6));
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return along(b, sub(c, b), (d4 - d3) / (d4 - d3 + d5 - d6));
  const denominator = 1 / (va + vb + vc);
  return along(a, ab, vb * denominator, ac, vc * denominator);
}

/** Closest surface point of the whole mesh. Linear in the triangles: meant for a handful of gates. */
export function closestPoint(mesh: TriangleMesh, p: Vec3): SurfacePoint {
  const { positions: v, triangles: t } = mesh;
  const vertex = (i: number): Vec3 => [v[3 * i], v[3 * i + 1], v[3 * i + 2]];
  let best = Infinity;
  let found: SurfacePoint | null = null;
  for (let i = 0; i < t.length; i += 3) {
    const a = vertex(t[i]);
    const b = vertex(t[i + 1]);
    const c = vertex(t[i + 2]);
    const q = closestOnTriangle(p, a, b, c);
    const d = sub(p, q);
    const squared = dot(d, d);
    if (squared < best) {
      const u = sub(b, a);
      const w = sub(c, a);
      const n: Vec3 = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
      const length = Math.sqrt(dot(n, n));
      if (length === 0) continue;
      best = squared;
      found = {
        point: q,
        normal: [n[0] / length, n[1] / length, n[2] / length],
        distance: Math.sqrt(squared),
        triangle: i / 3,
      };
    }
  }
  if (!found) throw new Error('closestPoint needs a mesh with at least one triangle of non-zero area');
  return found;
}
