import { dot, multiply, residual, splitRows, type SparseMatrix } from './csr';

/**
 * Aggregation multigrid with K-cycle for symmetric M-matrices, used as the preconditioner of
 * flexible conjugate gradients. Two pairwise passes make aggregates of about four unknowns.
 * Source: Notay, Electron. Trans. Numer. Anal. 37 (2010) 123-146; Notay & Vassilevski,
 * Numer. Linear Algebra Appl. 15 (2008) for the K-cycle.
 */

const COARSEST = 60;
const MAX_LEVELS = 16;
/** A partner must be at least this share of the strongest coupling of its row. */
const STRONG = 0.25;
/** A pair takes in at most this many leaves. */
const MAX_MEMBERS = 4;

interface Level {
  A: SparseMatrix;
  /** Coarse number of each unknown; empty on the coarsest level. */
  aggregate: Int32Array;
  nCoarse: number;
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

export class AggregationMultigrid {
  private readonly levels: Level[] = [];
  private readonly factor: Float64Array;
  private readonly nCoarsest: number;

  constructor(readonly matrix: SparseMatrix) {
    let A = matrix;
    for (let depth = 0; A.n > COARSEST && depth < MAX_LEVELS; depth++) {
      const first = pairwise(A);
      const mid = aggregated(A, first.map, first.n);
      const second = pairwise(mid);
      const map = new Int32Array(A.n);
      for (let i = 0; i < A.n; i++) map[i] = first.map[i] < 0 ? -1 : second.map[first.map[i]];
      const nCoarse = second.n;
      if (nCoarse === 0 || nCoarse > 0.8 * A.n) break;
      this.levels.push(makeLevel(A, map, nCoarse));
      A = aggregated(mid, second.map, nCoarse);
    }
    this.levels.push(makeLevel(A, new Int32Array(0), 0));
    this.nCoarsest = A.n;
    // A stalled coarsening can leave a large last level: smoothing replaces the direct solve there.
    this.factor = A.n <= 4 * COARSEST ? choleskyOf(A) : new Float64Array(0);
  }

  /** Number of levels and total stored entries over those of the matrix (for the benchmark). */
  get complexity(): { levels: number; operator: number } {
    const size = (A: SparseMatrix) => A.rowStart[A.n] + A.n;
    return {
      levels: this.levels.length,
      operator: this.levels.reduce((s, l) => s + size(l.A), 0) / size(this.matrix),
    };
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
      if (this.factor.length) choleskySolve(this.factor, this.nCoarsest, b, x);
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

function makeLevel(A: SparseMatrix, aggregate: Int32Array, nCoarse: number): Level {
  const coarse = () => new Float64Array(nCoarse);
  return {
    A,
    aggregate,
    nCoarse,
    rc: coarse(),
    xc: coarse(),
    c1: coarse(),
    v1: coarse(),
    c2: coarse(),
    v2: coarse(),
  };
}

/**
 * One pass of pairwise aggregation. Two rows pair when their coupling is strong for both: a node of a
 * thin, stiff melt must not be spent on a soft neighbour. Rows that are strongly diagonally dominant
 * are left out (map -1): smoothing alone solves them. A row without a free partner joins the
 * aggregate of its strongest neighbour, otherwise leaves pile up as singletons and coarsening stalls.
 */
function pairwise(A: SparseMatrix): { map: Int32Array; n: number } {
  const { n, rowStart, columns, values, diagonal } = A;
  const map = new Int32Array(n).fill(-2);
  const strongest = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let offSum = 0;
    for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
      offSum -= values[k];
      if (-values[k] > strongest[i]) strongest[i] = -values[k];
    }
    if (diagonal[i] > 5 * offSum) map[i] = -1;
  }
  let count = 0;
  const members = new Uint8Array(n);
  const left: number[] = [];
  for (let i = 0; i < n; i++) {
    if (map[i] !== -2) continue;
    let best = STRONG * strongest[i];
    let partner = -1;
    for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
      const j = columns[k];
      const c = -values[k];
      if (map[j] === -2 && c >= best && c >= STRONG * strongest[j]) {
        best = c;
        partner = j;
      }
    }
    if (partner < 0) {
      left.push(i);
      continue;
    }
    members[count] = 2;
    map[i] = map[partner] = count++;
  }
  for (const i of left) {
    if (map[i] !== -2) continue;
    let best = 0;
    let host = -1;
    for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
      const j = columns[k];
      if (map[j] >= 0 && -values[k] > best && -values[k] >= STRONG * strongest[i] && members[map[j]] < MAX_MEMBERS) {
        best = -values[k];
        host = map[j];
      }
    }
    if (host >= 0) {
      members[host]++;
      map[i] = host;
    } else {
      members[count] = 1;
      map[i] = count++;
    }
  }
  return { map, n: count };
}

/** Galerkin product for piecewise constant prolongation: entries summed over aggregates. */
function aggregated(A: SparseMatrix, map: Int32Array, n: number): SparseMatrix {
  const start = new Int32Array(n + 1);
  for (let i = 0; i < A.n; i++) if (map[i] >= 0) start[map[i] + 1]++;
  for (let i = 0; i < n; i++) start[i + 1] += start[i];
  const members = new Int32Array(start[n]);
  const fillAt = start.slice(0, n);
  for (let i = 0; i < A.n; i++) if (map[i] >= 0) members[fillAt[map[i]]++] = i;
  const rowStart = new Int32Array(n + 1);
  const columns = new Int32Array(A.rowStart[A.n]);
  const values = new Float64Array(A.rowStart[A.n]);
  const diagonal = new Float64Array(n);
  const slot = new Int32Array(n).fill(-1);
  let nnz = 0;
  for (let I = 0; I < n; I++) {
    const begin = nnz;
    let diag = 0;
    for (let m = start[I]; m < start[I + 1]; m++) {
      const i = members[m];
      diag += A.diagonal[i];
      for (let k = A.rowStart[i]; k < A.rowStart[i + 1]; k++) {
        const J = map[A.columns[k]];
        if (J < 0) continue;
        if (J === I) diag += A.values[k];
        else if (slot[J] >= begin) values[slot[J]] += A.values[k];
        else {
          slot[J] = nnz;
          columns[nnz] = J;
          values[nnz++] = A.values[k];
        }
      }
    }
    diagonal[I] = diag;
    rowStart[I + 1] = nnz;
  }
  const rowSplit = splitRows(n, rowStart, columns, values);
  return { n, rowStart, rowSplit, columns, values, diagonal };
}

/** One forward Gauss-Seidel sweep from x = 0: only the lower triangle has anything to say. Writes x. */
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

/** Dense Cholesky factor (lower, row major). A pivot lost to rounding is replaced, not propagated. */
function choleskyOf(A: SparseMatrix): Float64Array {
  const n = A.n;
  const L = new Float64Array(n * n);
  for (let i = 0; i < n; i++) {
    L[i * n + i] = A.diagonal[i];
    for (let k = A.rowStart[i]; k < A.rowStart[i + 1]; k++) L[i * n + A.columns[k]] = A.values[k];
  }
  for (let j = 0; j < n; j++) {
    const original = L[j * n + j];
    let pivot = original;
    for (let k = 0; k < j; k++) pivot -= L[j * n + k] * L[j * n + k];
    const root = Math.sqrt(pivot > 1e-13 * original ? pivot : original || 1);
    L[j * n + j] = root;
    for (let i = j + 1; i < n; i++) {
      let sum = L[i * n + j];
      for (let k = 0; k < j; k++) sum -= L[i * n + k] * L[j * n + k];
      L[i * n + j] = sum / root;
    }
  }
  return L;
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
