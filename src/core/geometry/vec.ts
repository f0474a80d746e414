import type { Vec3 } from './mesh';

export const add = (a: Vec3, b: Vec3, s = 1): Vec3 => [a[0] + s * b[0], a[1] + s * b[1], a[2] + s * b[2]];
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const scale = (a: Vec3, s: number): Vec3 => [a[0] * s, a[1] * s, a[2] * s];
export const distance = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
export const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

export function normalised(a: Vec3): Vec3 {
  const length = Math.hypot(...a);
  return length > 0 ? [a[0] / length, a[1] / length, a[2] / length] : [0, 0, 0];
}

/** A right-handed frame whose third axis is the given unit vector. */
export function frameOn(axis: Vec3): [Vec3, Vec3, Vec3] {
  const sizes = axis.map(Math.abs);
  const helper: Vec3 = [0, 0, 0];
  helper[sizes.indexOf(Math.min(...sizes))] = 1;
  const u = normalised(cross(helper, axis));
  return [u, cross(axis, u), axis];
}

export const vertexAt = (p: ArrayLike<number>, v: number): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]];

/** Rows and columns of the 6 components of a symmetric tensor: xx yy zz xy yz xz. */
export const SYMMETRIC = [
  [0, 0],
  [1, 1],
  [2, 2],
  [0, 1],
  [1, 2],
  [0, 2],
] as const;

/** Adds `weight` n nT to the 6 components (see SYMMETRIC) of tensor `i` of `tensors`. */
export function addDyad(tensors: Float64Array, i: number, weight: number, n: Vec3): void {
  for (let k = 0; k < 6; k++) tensors[6 * i + k] += weight * n[SYMMETRIC[k][0]] * n[SYMMETRIC[k][1]];
}

/** Eigenvectors of a symmetric 3 x 3 matrix (rows), largest eigenvalue first, by Jacobi rotations. */
export function eigen(input: number[][]): { values: number[]; vectors: Vec3[] } {
  const a = input.map((r) => [...r]);
  const v: number[][] = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ];
  for (let sweep = 0; sweep < 30; sweep++) {
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ]) {
      if (Math.abs(a[p][q]) < 1e-300) continue;
      const theta = (a[q][q] - a[p][p]) / (2 * a[p][q]);
      const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
      const c = 1 / Math.sqrt(t * t + 1);
      const s = t * c;
      for (let k = 0; k < 3; k++) [a[k][p], a[k][q]] = [c * a[k][p] - s * a[k][q], s * a[k][p] + c * a[k][q]];
      for (let k = 0; k < 3; k++) [a[p][k], a[q][k]] = [c * a[p][k] - s * a[q][k], s * a[p][k] + c * a[q][k]];
      for (let k = 0; k < 3; k++) [v[k][p], v[k][q]] = [c * v[k][p] - s * v[k][q], s * v[k][p] + c * v[k][q]];
    }
  }
  const order = [0, 1, 2].sort((i, j) => a[j][j] - a[i][i]);
  return { values: order.map((i) => a[i][i]), vectors: order.map((i) => [v[0][i], v[1][i], v[2][i]] as Vec3) };
}
