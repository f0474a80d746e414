/** Symmetric tensors of second order as six numbers: 11, 22, 33, 12, 13, 23. */
export type Sym = Float64Array;

export const sym = (): Sym => new Float64Array(6);
/** No direction before another. */
export const isotropic = (): Sym => Float64Array.of(1 / 3, 1 / 3, 1 / 3, 0, 0, 0);

/** Places of the components of a symmetric tensor: PLACE[3 i + j]. */
export const PLACE = [0, 3, 4, 3, 1, 5, 4, 5, 2] as const;
/** Rows and columns of the six numbers. */
export const ROWS = [0, 1, 2, 0, 0, 1] as const;
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
  a[0] * (a[1] * a[2] - a[5] * a[5]) - a[3] * (a[3] * a[2] - a[5] * a[4]) + a[4] * (a[3] * a[5] - a[1] * a[4]);

const SWEEPS = 12;

/** Eigenvalues in falling order and their vectors as columns (3 x 3, row major), by Jacobi's rotations. */
export interface Frame {
  values: Float64Array;
  vectors: Float64Array;
}
export const frame = (): Frame => ({ values: new Float64Array(3), vectors: new Float64Array(9) });

export function eigen(a: Sym, out: Frame): Frame {
  const m = [a[0], a[3], a[4], a[3], a[1], a[5], a[4], a[5], a[2]];
  const v = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const off = Math.abs(m[1]) + Math.abs(m[2]) + Math.abs(m[5]);
    if (off < 1e-16) break;
    for (let p = 0; p < 2; p++)
      for (let q = p + 1; q < 3; q++) {
        const apq = m[3 * p + q];
        if (Math.abs(apq) < 1e-300) continue;
        const theta = (m[4 * q] - m[4 * p]) / (2 * apq);
        const t = (theta >= 0 ? 1 : -1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
        const c = 1 / Math.sqrt(t * t + 1);
        const s = t * c;
        for (let k = 0; k < 3; k++) {
          const [x, y] = [m[3 * k + p], m[3 * k + q]];
          m[3 * k + p] = c * x - s * y;
          m[3 * k + q] = s * x + c * y;
        }
        for (let k = 0; k < 3; k++) {
          const [x, y] = [m[3 * p + k], m[3 * q + k]];
          m[3 * p + k] = c * x - s * y;
          m[3 * q + k] = s * x + c * y;
        }
        for (let k = 0; k < 3; k++) {
          const [x, y] = [v[3 * k + p], v[3 * k + q]];
          v[3 * k + p] = c * x - s * y;
          v[3 * k + q] = s * x + c * y;
        }
      }
  }
  const order = [0, 1, 2].sort((i, j) => m[4 * j] - m[4 * i]);
  order.forEach((from, to) => {
    out.values[to] = m[4 * from];
    for (let k = 0; k < 3; k++) out.vectors[3 * k + to] = v[3 * k + from];
  });
  return out;
}

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
