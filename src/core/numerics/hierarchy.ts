import { splitRows, type SparseMatrix } from './csr';

const COARSEST = 60;
const MAX_LEVELS = 16;
/** A partner must be at least this share of the strongest coupling of its row. */
const STRONG = 0.25;
/** A pair takes in at most this many leaves. */
const MAX_MEMBERS = 4;

export interface HierarchyLevel {
  A: SparseMatrix;
  /** Coarse number of each unknown, -1 for those left out; empty on the coarsest level. */
  aggregate: Int32Array;
  nCoarse: number;
}

export interface Hierarchy {
  levels: HierarchyLevel[];
  /** Dense Cholesky factor of the coarsest level, row major; empty when coarsening stalled early. */
  factor: Float64Array;
}

/** Levels by two pairwise passes each, aggregates of about four unknowns (Notay 2010). */
export function buildHierarchy(matrix: SparseMatrix): Hierarchy {
  const levels: HierarchyLevel[] = [];
  let A = matrix;
  for (let depth = 0; A.n > COARSEST && depth < MAX_LEVELS; depth++) {
    const first = pairwise(A);
    const mid = aggregated(A, first.map, first.n);
    const second = pairwise(mid);
    const aggregate = new Int32Array(A.n);
    for (let i = 0; i < A.n; i++) aggregate[i] = first.map[i] < 0 ? -1 : second.map[first.map[i]];
    const nCoarse = second.n;
    if (nCoarse === 0 || nCoarse > 0.8 * A.n) break;
    levels.push({ A, aggregate, nCoarse });
    A = aggregated(mid, second.map, nCoarse);
  }
  levels.push({ A, aggregate: new Int32Array(0), nCoarse: 0 });
  // A stalled coarsening can leave a large last level: smoothing replaces the direct solve there.
  return { levels, factor: A.n <= 4 * COARSEST ? choleskyOf(A) : new Float64Array(0) };
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
