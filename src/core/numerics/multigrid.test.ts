import { describe, expect, it } from 'vitest';
import { multiply, splitRows, type SparseMatrix } from './csr';
import { random } from '../../../verification/random';
import { CompiledMultigrid } from './compiledMultigrid';
import { AggregationMultigrid } from './multigrid';
import { MULTIGRID_KERNEL } from './multigridKernel';

/** Five-point Laplacian on n x n with conductances from `weight`, fixed to 0 beyond one corner. */
function grid(n: number, weight: (a: number, b: number) => number): SparseMatrix {
  const rows: Map<number, number>[] = Array.from({ length: n * n }, () => new Map<number, number>());
  const diagonal = new Float64Array(n * n);
  const join = (a: number, b: number) => {
    const w = weight(a, b);
    rows[a].set(b, -w);
    rows[b].set(a, -w);
    diagonal[a] += w;
    diagonal[b] += w;
  };
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      if (i + 1 < n) join(i + n * j, i + 1 + n * j);
      if (j + 1 < n) join(i + n * j, i + n * (j + 1));
    }
  }
  diagonal[0] += 1;
  const rowStart = new Int32Array(n * n + 1);
  rows.forEach((row, i) => (rowStart[i + 1] = rowStart[i] + row.size));
  const columns = Int32Array.from(rows.flatMap((row) => [...row.keys()]));
  const values = Float64Array.from(rows.flatMap((row) => [...row.values()]));
  const rowSplit = splitRows(n * n, rowStart, columns, values);
  return { n: n * n, rowStart, rowSplit, columns, values, diagonal };
}

function errorOf(A: SparseMatrix, seed: number): { error: number; iterations: number } {
  const next = random(seed);
  const exact = Float64Array.from({ length: A.n }, () => next() - 0.5);
  const b = new Float64Array(A.n);
  multiply(A, exact, b);
  const x = new Float64Array(A.n);
  const { iterations, converged } = new AggregationMultigrid(A).solve(A, b, x, 1e-10);
  expect(converged).toBe(true);
  let worst = 0;
  for (let i = 0; i < A.n; i++) worst = Math.max(worst, Math.abs(x[i] - exact[i]));
  return { error: worst, iterations };
}

describe('aggregation multigrid', () => {
  it('solves what it is given', () => {
    expect(
      errorOf(
        grid(24, () => 1),
        1,
      ).error,
    ).toBeLessThan(1e-6);
  });

  it('takes about as many iterations on 16 times the unknowns', () => {
    const small = errorOf(
      grid(32, () => 1),
      2,
    ).iterations;
    const large = errorOf(
      grid(128, () => 1),
      2,
    ).iterations;
    expect(large).toBeLessThanOrEqual(small + 8);
  });

  it('hardly feels walls of a contrast of 1e4', () => {
    const next = random(3);
    // Patches of 6 x 6, stiff or soft: the walls and ribs of a part, not single cells.
    const patch = Float64Array.from({ length: 16 * 16 }, () => Math.pow(10, 4 * Math.round(next())));
    const cell = Float64Array.from(
      { length: 96 * 96 },
      (_, c) => patch[Math.floor((c % 96) / 6) + 16 * Math.floor(c / 96 / 6)],
    );
    const harmonic = (a: number, b: number) => (2 * cell[a] * cell[b]) / (cell[a] + cell[b]);
    expect(errorOf(grid(96, harmonic), 4).iterations).toBeLessThan(40);
  });

  it('still helps when the matrix has changed a little', () => {
    const A = grid(64, () => 1);
    const B = grid(64, (a, b) => 1 + 0.3 * Math.sin(a + b));
    const b = new Float64Array(A.n).fill(1e-3);
    const x = new Float64Array(A.n);
    expect(new AggregationMultigrid(A).solve(B, b, x, 1e-9).converged).toBe(true);
    const check = new Float64Array(A.n);
    multiply(B, x, check);
    check.forEach((v) => expect(Math.abs(v - 1e-3)).toBeLessThan(1e-9));
  });
});

describe('compiled form', () => {
  it('takes the steps of the plain one, matrix after matrix', () => {
    const compiled = new CompiledMultigrid();
    for (const n of [40, 90, 12, 64]) {
      const A = grid(n, (a, b) => 1 + 0.5 * Math.sin(a * b));
      const b = Float64Array.from({ length: A.n }, (_, i) => Math.cos(i));
      const [x, y] = [new Float64Array(A.n), new Float64Array(A.n)];
      compiled.setMatrix(A);
      const fast = compiled.solve(A, b, x, 1e-9);
      const plain = new AggregationMultigrid(A).solve(A, b, y, 1e-9);
      expect(fast.converged).toBe(true);
      expect(fast.iterations).toBe(plain.iterations);
      const scale = Math.max(...y.map(Math.abs));
      x.forEach((v, i) => expect(Math.abs(v - y[i])).toBeLessThan(1e-9 * scale));
    }
  });

  it('solves a matrix that has moved on from its hierarchy', () => {
    const A = grid(64, () => 1);
    const B = grid(64, (a, b) => 1 + 0.3 * Math.sin(a + b));
    const compiled = new CompiledMultigrid();
    compiled.setMatrix(A);
    const b = new Float64Array(A.n).fill(1e-3);
    const x = new Float64Array(A.n);
    expect(compiled.solve(B, b, x, 1e-9).converged).toBe(true);
    const check = new Float64Array(A.n);
    multiply(B, x, check);
    check.forEach((v) => expect(Math.abs(v - 1e-3)).toBeLessThan(1e-9));
  });

  it('is compiled from the source beside it', async () => {
    const { compileKernel } = (await import('../../../scripts/kernels.mjs')) as {
      compileKernel: (name: string) => Promise<string>;
    };
    expect(await compileKernel('multigrid')).toBe(MULTIGRID_KERNEL);
  });
});
