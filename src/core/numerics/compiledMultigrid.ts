import type { SparseMatrix } from './csr';
import { buildHierarchy, type HierarchyLevel } from './hierarchy';
import type { SolveReport } from './multigrid';
import { MULTIGRID_KERNEL } from './multigridKernel';

type Solve = (
  levels: number,
  count: number,
  A: number,
  b: number,
  x: number,
  r: number,
  z: number,
  p: number,
  q: number,
  tolerance: number,
  maxIterations: number,
  out: number,
) => number;

const RECORD = 64;
const PAGE = 65536;
let compiled: WebAssembly.Module | null = null;

/**
 * The method of AggregationMultigrid with its solve phase in WebAssembly. One instance serves any
 * number of matrices one after the other: `setMatrix` lays hierarchy and work space out in its memory.
 */
export class CompiledMultigrid {
  private readonly memory = new WebAssembly.Memory({ initial: 16 });
  private readonly solveKernel: Solve;
  private top = 0;
  private n = 0;
  private nLevels = 0;
  private levelsAt = 0;
  private matrixAt = 0;
  private valuesAt = 0;
  private diagonalAt = 0;
  private vectors: number[] = [];

  constructor() {
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(MULTIGRID_KERNEL), (c) => c.charCodeAt(0)));
    const instance = new WebAssembly.Instance(compiled, { env: { memory: this.memory } });
    this.solveKernel = instance.exports.solve as Solve;
  }

  /** Builds the hierarchy of A. What was there before is gone. */
  setMatrix(A: SparseMatrix): void {
    const { levels, factor } = buildHierarchy(A);
    this.n = A.n;
    this.nLevels = levels.length;
    this.top = 16;
    this.reserve(levels, factor);
    this.levelsAt = this.allocate(RECORD * levels.length);
    this.matrixAt = this.allocate(RECORD);
    levels.forEach((level, l) => {
      const last = l === levels.length - 1;
      this.write(this.levelsAt + RECORD * l, [...this.place(level), last && factor.length ? this.put(factor) : 0]);
    });
    // The matrix that is solved shares the pattern of level 0; its values may change.
    const pattern = new Int32Array(this.memory.buffer, this.levelsAt, 16).slice();
    this.valuesAt = this.allocate(8 * A.rowStart[A.n]);
    this.diagonalAt = this.allocate(8 * A.n);
    pattern[5] = this.valuesAt;
    pattern[6] = this.diagonalAt;
    this.write(this.matrixAt, pattern);
    this.vectors = Array.from({ length: 6 }, () => this.allocate(8 * A.n));
  }

  /**
   * Solves A x = b from the given x, which is overwritten. A has the pattern of the last `setMatrix`
   * and values not far from it. Stops at |r| <= tolerance |b|.
   */
  solve(A: SparseMatrix, b: Float64Array, x: Float64Array, tolerance = 1e-7, maxIterations = 100): SolveReport {
    const { n } = this;
    if (A.n !== n || b.length !== n || x.length !== n) throw new Error('solve: lengths differ');
    const floats = (at: number, length: number) => new Float64Array(this.memory.buffer, at, length);
    const nnz = A.rowStart[n];
    floats(this.valuesAt, nnz).set(A.values.subarray(0, nnz));
    floats(this.diagonalAt, n).set(A.diagonal);
    const [bAt, xAt, r, z, p, q] = this.vectors;
    floats(bAt, n).set(b);
    floats(xAt, n).set(x);
    const iterations = this.solveKernel(
      this.levelsAt,
      this.nLevels,
      this.matrixAt,
      bAt,
      xAt,
      r,
      z,
      p,
      q,
      tolerance,
      maxIterations,
      8,
    );
    x.set(floats(xAt, n));
    const relativeResidual = floats(8, 1)[0];
    return { iterations, relativeResidual, converged: relativeResidual <= tolerance };
  }

  /** Grows the memory once for everything that follows: views would be lost in between. */
  private reserve(levels: HierarchyLevel[], factor: Float64Array): void {
    let bytes = 1024 + RECORD * (levels.length + 1) + 8 * factor.length;
    levels.forEach(({ A, nCoarse }) => {
      bytes += 12 * A.rowStart[A.n] + 40 * A.n + 48 * nCoarse + 512;
    });
    bytes += 8 * levels[0].A.rowStart[this.n] + 60 * this.n;
    const missing = Math.ceil((this.top + bytes - this.memory.buffer.byteLength) / PAGE);
    if (missing > 0) this.memory.grow(missing);
  }

  private allocate(bytes: number): number {
    const at = this.top;
    this.top = (at + bytes + 15) & ~15;
    return at;
  }

  private put(array: Int32Array | Float64Array): number {
    const at = this.allocate(array.byteLength);
    const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
    new Uint8Array(this.memory.buffer, at, array.byteLength).set(bytes);
    return at;
  }

  private write(at: number, words: ArrayLike<number>): void {
    new Int32Array(this.memory.buffer, at, words.length).set(words);
  }

  /** Copies a level; returns the first 15 words of its record. */
  private place({ A, aggregate, nCoarse }: HierarchyLevel): number[] {
    const nnz = A.rowStart[A.n];
    const work = () => this.allocate(8 * nCoarse);
    return [
      A.n,
      nCoarse,
      this.put(A.rowStart.subarray(0, A.n + 1)),
      this.put(A.rowSplit.subarray(0, A.n)),
      this.put(A.columns.subarray(0, nnz)),
      this.put(A.values.subarray(0, nnz)),
      this.put(A.diagonal.subarray(0, A.n)),
      this.put(A.diagonal.subarray(0, A.n).map((d) => 1 / d)),
      this.put(aggregate),
      work(),
      work(),
      work(),
      work(),
      work(),
      work(),
    ];
  }
}
