import { EigenvalueDecomposition, Matrix, solve } from 'ml-matrix';

export interface Fit {
  parameters: number[];
  /** Standard error of each parameter; NaN where the points do not fix it. */
  errors: number[];
  /** Residual of each point at the end. */
  residuals: number[];
  /** Robust weight of each point, 0..1. */
  weights: number[];
  /** Root mean square of the residuals, by weight. */
  rms: number;
  iterations: number;
}

/** Residuals beyond this many times their spread count ever less (Huber, Ann. Math. Stat. 35 (1964) 73). */
const HUBER = 1.5;
/** Beyond this they do not count at all (bisquare; Beaton & Tukey, Technometrics 16 (1974) 147). */
const BISQUARE = 4.685;
/** Eigenvalue of the scaled normal equations (1 where parameters are apart) below which a direction is not fixed. */
const UNFIXED = 1e-9;
/** Square of a parameter's part in such a direction from which on it is not fixed either. */
const TAKES_PART = 1e-6;
/** Median of |x| of a normal distribution over its spread. */
const MAD = 0.6745;

/**
 * Robust least squares: Levenberg and Marquardt's damped Gauss-Newton steps, reweighted after Huber and, from
 * where that ends, by the bisquare, so that single wild points do not pull the fit. `residual(parameters, i)` should be of about one size for all
 * points (a logarithm or a share). Errors come from the curvature and the spread at the end.
 * Source: Marquardt, J. SIAM 11 (1963) 431.
 */
export function leastSquares(residual: Residual, n: number, start: readonly number[], maxIterations = 200): Fit {
  const rough = descend(residual, n, start, maxIterations, huber);
  return descend(residual, n, rough.parameters, maxIterations, bisquare);
}

type Residual = (p: readonly number[], i: number) => number;

function descend(
  residual: Residual,
  n: number,
  start: readonly number[],
  maxIterations: number,
  weigh: (r: number[]) => number[],
): Fit {
  let p = [...start];
  let r = values(residual, n, p);
  let weights = weigh(r);
  let cost = weighted(r, weights);
  let damping = 1e-3;
  let iterations = 0;
  for (; iterations < maxIterations; iterations++) {
    const J = jacobian(residual, n, p, r);
    const { normal, gradient } = system(J, r, weights);
    let better = false;
    for (let attempt = 0; attempt < 12 && !better; attempt++) {
      const step = stepOf(normal, gradient, damping);
      const next = p.map((x, k) => x - step[k]);
      const rNext = values(residual, n, next);
      const costNext = weighted(rNext, weights);
      if (costNext < cost) {
        better = true;
        const gain = (cost - costNext) / cost;
        [p, r, cost] = [next, rNext, costNext];
        damping = Math.max(1e-12, damping / 5);
        weights = weigh(r);
        cost = weighted(r, weights);
        if (gain < 1e-10) return finish(residual, n, p, r, weights, iterations);
      } else damping *= 4;
    }
    if (!better) break;
  }
  return finish(residual, n, p, r, weights, iterations);
}

const values = (residual: Residual, n: number, p: readonly number[]): number[] =>
  Array.from({ length: n }, (_, i) => {
    const x = residual(p, i);
    return Number.isFinite(x) ? x : 1e6;
  });

const weighted = (r: number[], w: number[]) => r.reduce((s, x, i) => s + w[i] * x * x, 0);

function spreadOf(r: number[]): number {
  const sorted = r.map(Math.abs).sort((a, b) => a - b);
  return Math.max(sorted[Math.floor(sorted.length / 2)] / MAD, 1e-12);
}

function bisquare(r: number[]): number[] {
  const limit = BISQUARE * spreadOf(r);
  return r.map((x) => Math.max(0, 1 - (x / limit) ** 2) ** 2);
}

function huber(r: number[]): number[] {
  const spread = spreadOf(r);
  return r.map((x) => Math.min(1, (HUBER * spread) / Math.max(Math.abs(x), 1e-300)));
}

function jacobian(residual: Residual, n: number, p: number[], r: number[]): number[][] {
  return p.map((x, k) => {
    const h = 1e-6 * Math.max(Math.abs(x), 1e-3);
    const moved = p.map((y, j) => (j === k ? y + h : y));
    return Array.from({ length: n }, (_, i) => {
      const d = (residual(moved, i) - r[i]) / h;
      return Number.isFinite(d) ? d : 0;
    });
  });
}

function system(J: number[][], r: number[], w: number[]) {
  const normal = J.map((a) => J.map((b) => a.reduce((s, x, i) => s + w[i] * x * b[i], 0)));
  const gradient = J.map((a) => a.reduce((s, x, i) => s + w[i] * x * r[i], 0));
  return { normal, gradient };
}

/** Parameters differ in size by many orders: the system is scaled by its diagonal. */
function stepOf(normal: number[][], gradient: number[], damping: number): number[] {
  const scale = normal.map((row, k) => 1 / Math.sqrt(Math.max(row[k], 1e-300)));
  const A = new Matrix(normal.map((row, i) => row.map((x, j) => x * scale[i] * scale[j] + (i === j ? damping : 0))));
  const b = Matrix.columnVector(gradient.map((g, k) => g * scale[k]));
  return solve(A, b)
    .to1DArray()
    .map((x, k) => x * scale[k]);
}

function finish(residual: Residual, n: number, p: number[], r: number[], weights: number[], iterations: number): Fit {
  const { normal } = system(jacobian(residual, n, p, r), r, weights);
  const scale = normal.map((row, k) => 1 / Math.sqrt(Math.max(row[k], 1e-300)));
  const freedom = Math.max(1, n - p.length);
  const variance = weighted(r, weights) / freedom;
  // By directions in which the points fix the parameters well or not at all: an inverse would be noise there.
  const scaled = new Matrix(normal.map((row, i) => row.map((x, j) => x * scale[i] * scale[j])));
  const { realEigenvalues, eigenvectorMatrix } = new EigenvalueDecomposition(scaled, { assumeSymmetric: true });
  const errors = p.map((_, k) => {
    let sum = 0;
    realEigenvalues.forEach((value, d) => {
      const part = eigenvectorMatrix.get(k, d) ** 2;
      if (value > UNFIXED) sum += part / value;
      else if (part > TAKES_PART) sum = NaN;
    });
    return Math.sqrt(variance * sum) * scale[k];
  });
  const total = weights.reduce((s, w) => s + w, 0) || 1;
  return { parameters: p, errors, residuals: r, weights, rms: Math.sqrt(weighted(r, weights) / total), iterations };
}
