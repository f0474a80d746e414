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
