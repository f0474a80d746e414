import type { Frame } from '../../numerics/eigen';

/** Symmetric tensors of second order as six numbers: 11, 22, 33, 12, 23, 13. */
export type Sym = Float64Array;

export const sym = (): Sym => new Float64Array(6);
/** No direction before another. */
export const isotropic = (): Sym => Float64Array.of(1 / 3, 1 / 3, 1 / 3, 0, 0, 0);

/** Places of the components of a symmetric tensor: PLACE[3 i + j]. */
export const PLACE = [0, 3, 5, 3, 1, 4, 5, 4, 2] as const;
/** Rows and columns of the six numbers. */
export const ROWS = [0, 1, 2, 0, 1, 0] as const;
export const COLUMNS = [0, 1, 2, 1, 2, 2] as const;

export const trace = (a: Sym): number => a[0] + a[1] + a[2];

/** Double contraction a : b. */
export const double = (a: Sym, b: Sym): number =>
  a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + 2 * (a[3] * b[3] + a[4] * b[4] + a[5] * b[5]);

/** Symmetric part of a b, that is (a b + b a) / 2, into `out`; for a = b the square. */
export function symProduct(a: Sym, b: Sym, out: Sym): Sym {
  // By index: taking a typed array apart goes through an iterator.
  const a0 = a[0];
  const a1 = a[1];
  const a2 = a[2];
  const a3 = a[3];
  const a4 = a[4];
  const a5 = a[5];
  const b0 = b[0];
  const b1 = b[1];
  const b2 = b[2];
  const b3 = b[3];
  const b4 = b[4];
  const b5 = b[5];
  out[0] = a0 * b0 + a3 * b3 + a5 * b5;
  out[1] = a3 * b3 + a1 * b1 + a4 * b4;
  out[2] = a5 * b5 + a4 * b4 + a2 * b2;
  out[3] = 0.5 * (a0 * b3 + a3 * b1 + a5 * b4 + b0 * a3 + b3 * a1 + b5 * a4);
  out[4] = 0.5 * (a3 * b5 + a1 * b4 + a4 * b2 + b3 * a5 + b1 * a4 + b4 * a2);
  out[5] = 0.5 * (a0 * b5 + a3 * b4 + a5 * b2 + b0 * a5 + b3 * a4 + b5 * a2);
  return out;
}

/** Product of two symmetric tensors, which is none: 3 x 3, row major. */
const full = new Float64Array(9);
function product(a: Sym, d: Sym): Float64Array {
  for (let i = 0; i < 3; i++) {
    const [x, y, z] = [a[PLACE[3 * i]], a[PLACE[3 * i + 1]], a[PLACE[3 * i + 2]]];
    full[3 * i] = x * d[0] + y * d[3] + z * d[5];
    full[3 * i + 1] = x * d[3] + y * d[1] + z * d[4];
    full[3 * i + 2] = x * d[5] + y * d[4] + z * d[2];
  }
  return full;
}

/** a d b, symmetrised: (a d b + b d a) / 2, into `out`. */
export function symTriple(a: Sym, d: Sym, b: Sym, out: Sym): Sym {
  const m = product(a, d);
  out[0] = m[0] * b[0] + m[1] * b[3] + m[2] * b[5];
  out[1] = m[3] * b[3] + m[4] * b[1] + m[5] * b[4];
  out[2] = m[6] * b[5] + m[7] * b[4] + m[8] * b[2];
  out[3] = 0.5 * (m[0] * b[3] + m[1] * b[1] + m[2] * b[4] + m[3] * b[0] + m[4] * b[3] + m[5] * b[5]);
  out[4] = 0.5 * (m[3] * b[5] + m[4] * b[4] + m[5] * b[2] + m[6] * b[3] + m[7] * b[1] + m[8] * b[4]);
  out[5] = 0.5 * (m[0] * b[5] + m[1] * b[4] + m[2] * b[2] + m[6] * b[0] + m[7] * b[3] + m[8] * b[5]);
  return out;
}

/** Second invariant (1 - a : a) / 2 of a tensor of trace 1, and its determinant. */
export const secondInvariant = (a: Sym): number => 0.5 * (1 - double(a, a));
export const determinant = (a: Sym): number =>
  a[0] * (a[1] * a[2] - a[4] * a[4]) - a[3] * (a[3] * a[2] - a[4] * a[5]) + a[5] * (a[3] * a[4] - a[1] * a[5]);

/** Components of a in a frame, into `out`. */
export function intoFrame(a: Sym, { vectors: v }: Frame, out: Sym): Sym {
  for (let k = 0; k < 3; k++) {
    const [x, y, z] = [v[k], v[3 + k], v[6 + k]];
    full[k] = a[0] * x + a[3] * y + a[5] * z;
    full[3 + k] = a[3] * x + a[1] * y + a[4] * z;
    full[6 + k] = a[5] * x + a[4] * y + a[2] * z;
  }
  for (let k = 0; k < 6; k++) {
    const [i, j] = [ROWS[k], COLUMNS[k]];
    out[k] = v[i] * full[j] + v[3 + i] * full[3 + j] + v[6 + i] * full[6 + j];
  }
  return out;
}

/** The same back. */
export function outOfFrame(a: Sym, { vectors: v }: Frame, out: Sym): Sym {
  for (let i = 0; i < 3; i++) {
    const [x, y, z] = [v[3 * i], v[3 * i + 1], v[3 * i + 2]];
    full[3 * i] = a[0] * x + a[3] * y + a[5] * z;
    full[3 * i + 1] = a[3] * x + a[1] * y + a[4] * z;
    full[3 * i + 2] = a[5] * x + a[4] * y + a[2] * z;
  }
  for (let k = 0; k < 6; k++) {
    const [i, j] = [3 * ROWS[k], 3 * COLUMNS[k]];
    out[k] = full[i] * v[j] + full[i + 1] * v[j + 1] + full[i + 2] * v[j + 2];
  }
  return out;
}
