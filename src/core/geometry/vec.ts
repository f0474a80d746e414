import { eigenOf, frame } from '../numerics/eigen';
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

/** Eigenvectors of a symmetric 3 x 3 matrix (rows), largest eigenvalue first. */
export function eigen(m: readonly (readonly number[])[]): { values: number[]; vectors: Vec3[] } {
  const { values, vectors } = eigenOf(
    SYMMETRIC.map(([i, j]) => m[i][j]),
    frame(),
  );
  const column = (i: number): Vec3 => [vectors[i], vectors[3 + i], vectors[6 + i]];
  return { values: [...values], vectors: [0, 1, 2].map(column) };
}
