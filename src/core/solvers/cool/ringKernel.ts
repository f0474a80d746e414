import type { SparseMatrix } from '../../numerics/csr';
import { AggregationMultigrid } from '../../numerics/multigrid';

/**
 * How a ring of heat sinks, spread over the cells around it by a smooth weight, answers on a grid of spacing h. A
 * sink of even strength draws the mean temperature of the ring down as if the cylinder had the equivalent radius
 * r_e (Peaceman 1978 gives it for a single cell); one of strength cos(theta) answers with the share phi of what
 * it does on the sharp ring, sigma r / (2 k). Both depend on r / h alone and hardly on where the ring lies.
 */
export interface RingAnswer {
  /** r_e / r */
  radius: number;
  phi: number;
}

/** Points around a ring. */
export const RING_POINTS = 12;

/** Half width of the grid the table was made on, cells. */
const HALF = 30;
const OFFSETS = [
  [0, 0],
  [0.5, 0],
  [0.5, 0.5],
  [0.25, 0.15],
];

/** Answer of a ring of radius `ratio` cells, by solving both problems on a square with the closed form around it. */
export function solveRing(ratio: number): RingAnswer {
  let [lnRadius, phi] = [0, 0];
  const n = 2 * HALF;
  const matrix = laplacian(n);
  const multigrid = new AggregationMultigrid(matrix);
  for (const [ox, oy] of OFFSETS) {
    const points = Array.from({ length: RING_POINTS }, (_, j) => {
      const angle = (2 * Math.PI * (j + 0.5)) / RING_POINTS;
      return { x: HALF + ox + ratio * Math.cos(angle), y: HALF + oy + ratio * Math.sin(angle), cos: Math.cos(angle) };
    });
    const solve = (strength: (p: (typeof points)[0]) => number, outside: (x: number, y: number) => number) => {
      const b = new Float64Array(n * n);
      for (const p of points) for (const [c, w] of around(p.x, p.y, n)) b[c] -= w * strength(p);
      for (let k = 0; k < n; k++)
        for (const [i, j, x, y] of [
          [0, k, 0, k + 0.5],
          [n - 1, k, n, k + 0.5],
          [k, 0, k + 0.5, 0],
          [k, n - 1, k + 0.5, n],
        ])
          b[i + n * j] += 2 * outside(x - HALF - ox, y - HALF - oy);
      const x = new Float64Array(n * n);
      multigrid.solve(matrix, b, x, 1e-10, 200);
      return points.map((p) => around(p.x, p.y, n).reduce((s, [c, w]) => s + w * x[c], 0));
    };
    const even = solve(
      () => 1 / RING_POINTS,
      (x, y) => Math.log(Math.hypot(x, y)) / (2 * Math.PI),
    );
    lnRadius += (2 * Math.PI * even.reduce((s, T) => s + T, 0)) / RING_POINTS;
    // Strength cos(theta) per length of the ring.
    const wave = solve(
      (p) => (p.cos * 2 * Math.PI * ratio) / RING_POINTS,
      (x, y) => (-(ratio ** 2) * x) / (2 * (x * x + y * y)),
    );
    phi += (-2 / ratio) * (2 / RING_POINTS) * wave.reduce((s, T, j) => s + T * points[j].cos, 0);
  }
  return { radius: Math.exp(lnRadius / OFFSETS.length) / ratio, phi: phi / OFFSETS.length };
}

/** Cells (centres at half numbers) and weights around a point. */
function around(x: number, y: number, n: number): [number, number][] {
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const [u, v] = [splineWeights(x - i - 0.5), splineWeights(y - j - 0.5)];
  return [0, 1, 2].flatMap((b) => [0, 1, 2].map((a): [number, number] => [i + a - 1 + n * (j + b - 1), u[a] * v[b]]));
}

/**
 * Weights of the quadratic B-spline for a cell and its neighbours before and behind, of a point `t` widths (-0.5 ..
 * 0.5) from the middle of the cell. Smooth enough that it hardly matters where a ring lies between the cells.
 */
export const splineWeights = (t: number): [number, number, number] => [
  0.5 * (0.5 - t) ** 2,
  0.75 - t * t,
  0.5 * (0.5 + t) ** 2,
];

function laplacian(n: number): SparseMatrix {
  const rowStart = new Int32Array(n * n + 1);
  const rowSplit = new Int32Array(n * n);
  const columns: number[] = [];
  const diagonal = new Float64Array(n * n).fill(4);
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const c = i + n * j;
      if (j > 0) columns.push(c - n);
      if (i > 0) columns.push(c - 1);
      rowSplit[c] = columns.length;
      if (i < n - 1) columns.push(c + 1);
      if (j < n - 1) columns.push(c + n);
      rowStart[c + 1] = columns.length;
      // A wall at half a cell's distance.
      diagonal[c] += [i === 0, i === n - 1, j === 0, j === n - 1].filter(Boolean).length;
    }
  return {
    n: n * n,
    rowStart,
    rowSplit,
    columns: Int32Array.from(columns),
    values: new Float64Array(columns.length).fill(-1),
    diagonal,
  };
}

/** `solveRing` at these ratios r / h. */
export const RING_TABLE: readonly [ratio: number, radius: number, phi: number][] = [
  [0.05, 13.3592, 0.0029],
  [0.2, 3.4842, 0.0432],
  [0.4, 1.9675, 0.1541],
  [0.6, 1.5466, 0.2966],
  [0.8, 1.373, 0.4305],
  [1, 1.2851, 0.5336],
  [1.25, 1.2211, 0.6205],
  [1.5, 1.1801, 0.6765],
  [2, 1.1319, 0.7571],
  [2.5, 1.1037, 0.8045],
  [3, 1.0851, 0.8389],
  [4, 1.0591, 0.8863],
];

/** Answer at a ratio r / h, from the table; a ring of many cells is sharp, one of none is a point. */
export function ringAnswer(ratio: number): RingAnswer {
  const last = RING_TABLE.length - 1;
  const [low, high] = [RING_TABLE[0], RING_TABLE[last]];
  if (ratio <= low[0]) return { radius: (low[1] * low[0]) / ratio, phi: low[2] * (ratio / low[0]) ** 2 };
  // The smoothing of a straight sheet falls with h / r.
  if (ratio >= high[0])
    return { radius: 1 + ((high[1] - 1) * high[0]) / ratio, phi: 1 - ((1 - high[2]) * high[0]) / ratio };
  let k = 1;
  while (RING_TABLE[k][0] < ratio) k++;
  const [a, b] = [RING_TABLE[k - 1], RING_TABLE[k]];
  const s = (ratio - a[0]) / (b[0] - a[0]);
  // The equivalent radius itself is smooth; its ratio to r is not where r is small.
  return { radius: (a[1] * a[0] + s * (b[1] * b[0] - a[1] * a[0])) / ratio, phi: a[2] + s * (b[2] - a[2]) };
}
