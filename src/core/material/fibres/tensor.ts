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
  for (let k = 0; k < 6; k++) {
    const [i, j] = [ROWS[k], COLUMNS[k]];
    let sum = 0;
    for (let m = 0; m < 3; m++)
      sum += a[PLACE[3 * i + m]] * b[PLACE[3 * m + j]] + b[PLACE[3 * i + m]] * a[PLACE[3 * m + j]];
    out[k] = 0.5 * sum;
  }
  return out;
}

/** a d b, symmetrised: (a d b + b d a) / 2, into `out`. */
export function symTriple(a: Sym, d: Sym, b: Sym, out: Sym): Sym {
  for (let k = 0; k < 6; k++) {
    const [i, j] = [ROWS[k], COLUMNS[k]];
    let sum = 0;
    for (let m = 0; m < 3; m++)
      for (let n = 0; n < 3; n++) {
        const middle = d[PLACE[3 * m + n]];
        sum += middle * (a[PLACE[3 * i + m]] * b[PLACE[3 * n + j]] + b[PLACE[3 * i + m]] * a[PLACE[3 * n + j]]);
      }
    out[k] = 0.5 * sum;
  }
  return out;
}

/** Second invariant (1 - a : a) / 2 of a tensor of trace 1, and its determinant. */
export const secondInvariant = (a: Sym): number => 0.5 * (1 - double(a, a));
export const determinant = (a: Sym): number =>
  a[0] * (a[1] * a[2] - a[4] * a[4]) - a[3] * (a[3] * a[2] - a[4] * a[5]) + a[5] * (a[3] * a[4] - a[1] * a[5]);

/** Components of a in a frame, into `out`. */
export function intoFrame(a: Sym, { vectors: v }: Frame, out: Sym): Sym {
  for (let k = 0; k < 6; k++) {
    const [i, j] = [ROWS[k], COLUMNS[k]];
    let sum = 0;
    for (let m = 0; m < 3; m++) for (let n = 0; n < 3; n++) sum += v[3 * m + i] * v[3 * n + j] * a[PLACE[3 * m + n]];
    out[k] = sum;
  }
  return out;
}

/** The same back. */
export function outOfFrame(a: Sym, { vectors: v }: Frame, out: Sym): Sym {
  for (let k = 0; k < 6; k++) {
    const [i, j] = [ROWS[k], COLUMNS[k]];
    let sum = 0;
    for (let m = 0; m < 3; m++) for (let n = 0; n < 3; n++) sum += v[3 * i + m] * v[3 * j + n] * a[PLACE[3 * m + n]];
    out[k] = sum;
  }
  return out;
}
