/**
 * Symmetric sparse matrix in compressed rows, the diagonal kept apart because smoothers want it.
 * `values` hold the off-diagonal entries (negative for an M-matrix) of row i at
 * `rowStart[i] .. rowStart[i+1]-1`, in the columns `columns`; those with column < i come first and
 * `rowSplit[i]` is where the others begin, which lets a sweep from zero skip half the entries.
 */
export interface SparseMatrix {
  n: number;
  rowStart: Int32Array;
  rowSplit: Int32Array;
  columns: Int32Array;
  values: Float64Array;
  diagonal: Float64Array;
}

/** y = A x. Writes `y`; `x` and `y` have length n and must differ. */
export function multiply(A: SparseMatrix, x: Float64Array, y: Float64Array): void {
  const { n, rowStart, columns, values, diagonal } = A;
  for (let i = 0; i < n; i++) {
    let sum = diagonal[i] * x[i];
    for (let k = rowStart[i], end = rowStart[i + 1]; k < end; k++) sum += values[k] * x[columns[k]];
    y[i] = sum;
  }
}

/** r = b - A x. Writes `r`. */
export function residual(A: SparseMatrix, x: Float64Array, b: Float64Array, r: Float64Array): void {
  const { n, rowStart, columns, values, diagonal } = A;
  for (let i = 0; i < n; i++) {
    let sum = b[i] - diagonal[i] * x[i];
    for (let k = rowStart[i], end = rowStart[i + 1]; k < end; k++) sum -= values[k] * x[columns[k]];
    r[i] = sum;
  }
}

export function dot(a: Float64Array, b: Float64Array, n: number): number {
  let sum = 0;
  for (let i = 0; i < n; i++) sum += a[i] * b[i];
  return sum;
}

/** Moves the entries with column < row to the front of every row and returns where the others begin. */
export function splitRows(n: number, rowStart: Int32Array, columns: Int32Array, values: Float64Array): Int32Array {
  const rowSplit = new Int32Array(n);
  for (let i = 0; i < n; i++) {
    let low = rowStart[i];
    for (let k = low, end = rowStart[i + 1]; k < end; k++) {
      if (columns[k] >= i) continue;
      const column = columns[k];
      const value = values[k];
      columns[k] = columns[low];
      values[k] = values[low];
      columns[low] = column;
      values[low++] = value;
    }
    rowSplit[i] = low;
  }
  return rowSplit;
}
