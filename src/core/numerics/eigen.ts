/** Eigenvalues in falling order and their vectors as columns (3 x 3, row major). */
export interface Frame {
  values: Float64Array;
  vectors: Float64Array;
}
export const frame = (): Frame => ({ values: new Float64Array(3), vectors: new Float64Array(9) });

const SWEEPS = 30;
/** Off the diagonal this much of the largest entry is nothing. */
const NOTHING = 1e-18;

/** Eigenvectors of a symmetric 3 x 3 matrix (xx, yy, zz, xy, yz, xz) by Jacobi's rotations, into `out`. */
export function eigenOf(a: ArrayLike<number>, out: Frame): Frame {
  const m = [a[0], a[3], a[5], a[3], a[1], a[4], a[5], a[4], a[2]];
  const v = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const size = Math.abs(m[0]) + Math.abs(m[4]) + Math.abs(m[8]);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    if (!(Math.abs(m[1]) + Math.abs(m[2]) + Math.abs(m[5]) > NOTHING * size)) break;
    for (let p = 0; p < 2; p++)
      for (let q = p + 1; q < 3; q++) {
        const apq = m[3 * p + q];
        if (Math.abs(apq) < 1e-300) continue;
        const theta = (m[4 * q] - m[4 * p]) / (2 * apq);
        const t = (theta >= 0 ? 1 : -1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
        const c = 1 / Math.sqrt(t * t + 1);
        const s = t * c;
        turnColumns(m, p, q, c, s);
        for (let k = 0; k < 3; k++) {
          const [x, y] = [m[3 * p + k], m[3 * q + k]];
          m[3 * p + k] = c * x - s * y;
          m[3 * q + k] = s * x + c * y;
        }
        turnColumns(v, p, q, c, s);
      }
  }
  const order = [0, 1, 2].sort((i, j) => m[4 * j] - m[4 * i]);
  order.forEach((from, to) => {
    out.values[to] = m[4 * from];
    for (let k = 0; k < 3; k++) out.vectors[3 * k + to] = v[3 * k + from];
  });
  return out;
}

function turnColumns(m: number[], p: number, q: number, c: number, s: number): void {
  for (let k = 0; k < 3; k++) {
    const [x, y] = [m[3 * k + p], m[3 * k + q]];
    m[3 * k + p] = c * x - s * y;
    m[3 * k + q] = s * x + c * y;
  }
}
