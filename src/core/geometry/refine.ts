import type { TriangleMesh } from './mesh';

/**
 * Splits edges longer than `maxEdge` [m] at their middle until none is left, the same on both sides
 * of every edge, so the surface stays closed. Stops early when `maxTriangles` would be passed. Where it is not the same
 * everywhere the length allowed is that at the edge's middle.
 */
export function refine(
  mesh: TriangleMesh,
  maxEdge: number | ((x: number, y: number, z: number) => number),
  maxTriangles = 400_000,
): TriangleMesh {
  const positions = Array.from(mesh.positions);
  let triangles = Array.from(mesh.triangles);
  const isLong = (a: number, b: number) => {
    const x = positions[3 * a];
    const y = positions[3 * a + 1];
    const z = positions[3 * a + 2];
    const dx = positions[3 * b] - x;
    const dy = positions[3 * b + 1] - y;
    const dz = positions[3 * b + 2] - z;
    const limit = typeof maxEdge === 'number' ? maxEdge : maxEdge(x + dx / 2, y + dy / 2, z + dz / 2);
    return dx * dx + dy * dy + dz * dz > limit * limit;
  };
  for (let pass = 0; pass < 16; pass++) {
    const middles = new Map<number, number>();
    const middle = (a: number, b: number): number => {
      const key = a < b ? a * 4294967296 + b : b * 4294967296 + a;
      let m = middles.get(key);
      if (m === undefined) {
        m = positions.length / 3;
        for (let d = 0; d < 3; d++) positions.push((positions[3 * a + d] + positions[3 * b + d]) / 2);
        middles.set(key, m);
      }
      return m;
    };
    const next: number[] = [];
    for (let t = 0; t < triangles.length; t += 3) splitTriangle(triangles, t, isLong, middle, next);
    const grown = next.length > triangles.length;
    triangles = next;
    if (!grown || triangles.length / 3 > maxTriangles) break;
  }
  return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

function splitTriangle(
  triangles: number[],
  at: number,
  isLong: (a: number, b: number) => boolean,
  middle: (a: number, b: number) => number,
  out: number[],
): void {
  let [a, b, c] = [triangles[at], triangles[at + 1], triangles[at + 2]];
  let [ab, bc, ca] = [isLong(a, b), isLong(b, c), isLong(c, a)];
  const n = Number(ab) + Number(bc) + Number(ca);
  if (n === 0) {
    out.push(a, b, c);
    return;
  }
  if (n === 3) {
    const [p, q, r] = [middle(a, b), middle(b, c), middle(c, a)];
    out.push(a, p, r, p, b, q, r, q, c, p, q, r);
    return;
  }
  // Turn so that ab is split, and with two splits ab and bc.
  while (!(n === 1 ? ab : ab && bc)) {
    [a, b, c] = [b, c, a];
    [ab, bc, ca] = [bc, ca, ab];
  }
  const p = middle(a, b);
  if (n === 1) {
    out.push(a, p, c, p, b, c);
    return;
  }
  const q = middle(b, c);
  out.push(p, b, q, a, p, q, a, q, c);
}
