import { dot, multiply, residual, type SparseMatrix } from './csr';
import { buildHierarchy, type HierarchyLevel } from './hierarchy';

/**
 * Aggregation multigrid with K-cycle for symmetric M-matrices, used as the preconditioner of
 * flexible conjugate gradients. Two pairwise passes make aggregates of about four unknowns.
 * Source: Notay, Electron. Trans. Numer. Anal. 37 (2010) 123-146; Notay & Vassilevski,
 * Numer. Linear Algebra Appl. 15 (2008) for the K-cycle.
 */

interface Level extends HierarchyLevel {
  rc: Float64Array;
  xc: Float64Array;
  /** Work of the two inner iterations on the next level. */
  c1: Float64Array;
  v1: Float64Array;
  c2: Float64Array;
  v2: Float64Array;
}

export interface SolveReport {
  iterations: number;
  /** |r| / |b| at the end. */
  relativeResidual: number;
  converged: boolean;
}

/** The method in plain TypeScript: the readable form, and the reference that the compiled one is tested against. */
export class AggregationMultigrid {
  private readonly levels: Level[];
  private readonly factor: Float64Array;

  constructor(readonly matrix: SparseMatrix) {
    const { levels, factor } = buildHierarchy(matrix);
    this.levels = levels.map(withWork);
    this.factor = factor;
  }

  /**
   * Solves A x = b by flexible CG from the given `x`, which is overwritten. A is the matrix the
   * hierarchy was made of, or one close to it with the same unknowns.
   * Stops at |r| <= tolerance |b|.
   */
  solve(A: SparseMatrix, b: Float64Array, x: Float64Array, tolerance = 1e-7, maxIterations = 100): SolveReport {
    const n = A.n;
    if (n !== this.matrix.n || b.length !== n || x.length !== n) throw new Error('solve: lengths differ');
    const r = new Float64Array(n);
    const z = new Float64Array(n);
    const p = new Float64Array(n);
    const Ap = new Float64Array(n);
    residual(A, x, b, r);
    const bNorm = Math.sqrt(dot(b, b, n)) || 1;
    let rNorm = Math.sqrt(dot(r, r, n));
    let iterations = 0;
    let pAp = 0;
    while (rNorm > tolerance * bNorm && iterations < maxIterations) {
      this.cycle(0, r, z);
      // Flexible CG: the cycle is not a fixed operator, so orthogonalise against the last direction.
      const beta = iterations === 0 ? 0 : dot(z, Ap, n) / pAp;
      for (let i = 0; i < n; i++) p[i] = z[i] - beta * p[i];
      multiply(A, p, Ap);
      pAp = dot(p, Ap, n);
      if (!(pAp > 0)) break;
      const alpha = dot(p, r, n) / pAp;
      for (let i = 0; i < n; i++) {
        x[i] += alpha * p[i];
        r[i] -= alpha * Ap[i];
      }
      rNorm = Math.sqrt(dot(r, r, n));
      iterations++;
    }
    return { iterations, relativeResidual: rNorm / bNorm, converged: rNorm <= tolerance * bNorm };
  }

  /** One K-cycle: x ~ A_l^-1 b. Writes x. */
  private cycle(l: number, b: Float64Array, x: Float64Array): void {
    const level = this.levels[l];
    const A = level.A;
    if (l === this.levels.length - 1) {
      if (this.factor.length) choleskySolve(this.factor, A.n, b, x);
      else {
        x.fill(0, 0, A.n);
        for (let sweep = 0; sweep < 8; sweep++) {
          gaussSeidelForward(A, b, x);
          gaussSeidelBackward(A, b, x);
        }
      }
      return;
    }
    const { rc, xc, aggregate } = level;
    forwardFromZero(A, b, x);
    rc.fill(0);
    restrictUpper(A, x, aggregate, rc);
    this.coarseSolve(l, rc, xc);
    for (let i = 0; i < A.n; i++) if (aggregate[i] >= 0) x[i] += xc[aggregate[i]];
    gaussSeidelBackward(A, b, x);
  }

  /** Two flexible CG iterations on level l+1 (the second only when the first was not enough). */
  private coarseSolve(l: number, rc: Float64Array, xc: Float64Array): void {
    const { c1, v1, c2, v2, nCoarse: n } = this.levels[l];
    if (l + 1 === this.levels.length - 1) {
      this.cycle(l + 1, rc, xc);
      return;
    }
    const Ac = this.levels[l + 1].A;
    const norm0 = dot(rc, rc, n);
    this.cycle(l + 1, rc, c1);
    multiply(Ac, c1, v1);
    const rho1 = dot(c1, v1, n);
    if (!(rho1 > 0)) {
      xc.set(c1);
      return;
    }
    const alpha1 = dot(c1, rc, n) / rho1;
    for (let i = 0; i < n; i++) rc[i] -= alpha1 * v1[i];
    if (dot(rc, rc, n) <= 0.0625 * norm0) {
      for (let i = 0; i < n; i++) xc[i] = alpha1 * c1[i];
      return;
    }
    this.cycle(l + 1, rc, c2);
    multiply(Ac, c2, v2);
    const gamma = dot(c2, v1, n);
    const rho2 = dot(c2, v2, n) - (gamma * gamma) / rho1;
    const alpha2 = rho2 > 0 ? dot(c2, rc, n) / rho2 : 0;
    const first = alpha1 - (gamma * alpha2) / rho1;
    for (let i = 0; i < n; i++) xc[i] = first * c1[i] + alpha2 * c2[i];
  }
}

function withWork(level: HierarchyLevel): Level {
  const coarse = () => new Float64Array(level.nCoarse);
  return { ...level, rc: coarse(), xc: coarse(), c1: coarse(), v1: coarse(), c2: coarse(), v2: coarse() };
}

/** One forward Gauss-Seidel sweep from x = 0: what lies above the diagonal meets zeros and is left out. Writes x. */
function forwardFromZero(A: SparseMatrix, b: Float64Array, x: Float64Array): void {
  const { n, rowStart, rowSplit, columns, values, diagonal } = A;
  for (let i = 0; i < n; i++) {
    let sum = b[i];
    for (let k = rowStart[i], end = rowSplit[i]; k < end; k++) sum -= values[k] * x[columns[k]];
    x[i] = sum / diagonal[i];
  }
}

/** Adds the residual after `forwardFromZero` to the aggregates: (D + L) x = b leaves r = -U x. */
function restrictUpper(A: SparseMatrix, x: Float64Array, aggregate: Int32Array, rc: Float64Array): void {
  const { n, rowStart, rowSplit, columns, values } = A;
  for (let i = 0; i < n; i++) {
    const I = aggregate[i];
    if (I < 0) continue;
    let sum = 0;
    for (let k = rowSplit[i], end = rowStart[i + 1]; k < end; k++) sum += values[k] * x[columns[k]];
    rc[I] -= sum;
  }
}

function gaussSeidelForward(A: SparseMatrix, b: Float64Array, x: Float64Array): void {
  const { n, rowStart, columns, values, diagonal } = A;
  for (let i = 0; i < n; i++) {
    let sum = b[i];
    for (let k = rowStart[i], end = rowStart[i + 1]; k < end; k++) sum -= values[k] * x[columns[k]];
    x[i] = sum / diagonal[i];
  }
}

function gaussSeidelBackward(A: SparseMatrix, b: Float64Array, x: Float64Array): void {
  const { n, rowStart, columns, values, diagonal } = A;
  for (let i = n - 1; i >= 0; i--) {
    let sum = b[i];
    for (let k = rowStart[i], end = rowStart[i + 1]; k < end; k++) sum -= values[k] * x[columns[k]];
    x[i] = sum / diagonal[i];
  }
}

function choleskySolve(L: Float64Array, n: number, b: Float64Array, x: Float64Array): void {
  for (let i = 0; i < n; i++) {
    let sum = b[i];
    for (let k = 0; k < i; k++) sum -= L[i * n + k] * x[k];
    x[i] = sum / L[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = x[i];
    for (let k = i + 1; k < n; k++) sum -= L[k * n + i] * x[k];
    x[i] = sum / L[i * n + i];
  }
}
