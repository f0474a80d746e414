import { mapVertices, type TriangleMesh, type Vec3 } from './mesh';

/** Rows of a 3 x 4 matrix applied to a point. */
export const placed = (m: readonly number[], [x, y, z]: Vec3): Vec3 =>
  [0, 4, 8].map((r) => m[r] * x + m[r + 1] * y + m[r + 2] * z + m[r + 3]) as Vec3;

/** A direction turned as the matrix turns places. */
export const turned = (m: readonly number[], n: Vec3): Vec3 =>
  [0, 4, 8].map((r) => m[r] * n[0] + m[r + 1] * n[1] + m[r + 2] * n[2]) as Vec3;

/** The matrix that leaves everything where it is. */
export const UNMOVED: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];

export const placedMesh = (mesh: TriangleMesh, m: readonly number[]): TriangleMesh =>
  mapVertices(mesh, (v) => placed(m, v));

/** The matrix that does b, then a. */
export function after(a: readonly number[], b: readonly number[]): number[] {
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 4; c++)
      out.push(a[4 * r] * b[c] + a[4 * r + 1] * b[4 + c] + a[4 * r + 2] * b[8 + c] + (c === 3 ? a[4 * r + 3] : 0));
  return out;
}

/** The motion back: of a matrix that turns and moves, and does nothing else. */
export const inverse = (m: readonly number[]): number[] =>
  [0, 1, 2].flatMap((c) => [m[c], m[4 + c], m[8 + c], -(m[c] * m[3] + m[4 + c] * m[7] + m[8 + c] * m[11])]);
