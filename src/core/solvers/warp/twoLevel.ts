import { NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import type { StageContext } from '../../pipeline/stage';
import { elementCentres } from './elastic';
import { LANES } from './elements';
import { FrontalSolver } from './frontal';
import { withoutStiffness, type ElasticKernel } from './kernel';

/** Packed f32 factor of a 60 x 60 block. */
const FACTOR_BYTES = 4 * ((60 * 61) / 2);
const POWER_STEPS = 8;
/** The power method comes from below. */
const POWER_MARGIN = 1.25;
/** Where it came too low the cycle is not positive: the bound is raised by this and the iteration begins anew. */
const RAISE = 1.5;
const MOST_RAISES = 5;
/** The smoother acts on the upper part of the spectrum, from 1 / SMOOTHED of its largest eigenvalue on. */
const SMOOTHED = 8;

/**
 * Conjugate gradients with a symmetric two-level V(1,1) cycle: the smoother is a Chebyshev polynomial of
 * degree 2 in additive Schwarz over the cells (the assembled block of each, factored), all in f32, the coarse level
 * trilinear functions on the same cells, solved directly. The number of iterations hardly depends on how wide
 * and thin the walls are.
 */
export class TwoLevel {
  private readonly n: number;
  private readonly rows: number;
  private readonly columns: number;
  private readonly values: number;
  private readonly nValues: number;
  private readonly marker: number;
  private readonly nodes: number;
  private readonly parents: number;
  private readonly coarseNodes: Int32Array;
  private readonly nCoarse: number;
  private readonly coarseMatrices: number;
  private factors = 0;
  private coarse!: FrontalSolver;
  private coarseVector = 0;
  private work = 0;
  private vectors: number[] = [];
  /** The preconditioner works in f32: matrix, residual, correction, step, product. */
  private single = 0;
  private singles: number[] = [];
  private scalars: number[] = [];
  private largest = 1;

  constructor(
    private readonly kernel: ElasticKernel,
    private readonly grid: StructureGrid,
  ) {
    const n = (this.n = grid.nNodes);
    const { rowStart, columns } = pattern(grid);
    this.rows = kernel.put(rowStart);
    this.columns = kernel.put(columns);
    this.nValues = 4 * Math.ceil((9 * columns.length) / 4);
    this.values = kernel.allocate(8 * this.nValues);
    this.marker = kernel.allocate(4 * n);
    this.nodes = kernel.put(grid.nodes);
    const { parents, coarseNodes, nCoarse } = corners(grid);
    this.parents = kernel.put(parents);
    this.coarseNodes = coarseNodes;
    this.nCoarse = nCoarse;
    this.coarseMatrices = kernel.allocate(8 * 576 * grid.nElements);
  }

  /** Adds the matrix at address K of element e. */
  add(e: number, K: number): void {
    const { run } = this.kernel;
    run.assemble(K, this.nodes + 80 * e, this.rows, this.columns, this.values, this.marker);
    run.onCorners(K, this.coarseMatrices + 8 * 576 * e);
  }

  async setUp(ctx: StageContext, report: (share: number) => void): Promise<void> {
    const { kernel, grid } = this;
    this.factors = kernel.allocate(FACTOR_BYTES * grid.nElements);
    const scratch = kernel.allocate(8 * (3600 + 60));
    for (let e = 0; e < grid.nElements; e++) {
      if (e % 512 === 0) {
        await ctx.checkpoint();
        report((0.6 * e) / grid.nElements);
      }
      const at = this.factors + FACTOR_BYTES * e;
      if (!kernel.run.factorBlock(this.nodes + 80 * e, this.rows, this.columns, this.values, this.marker, scratch, at))
        throw withoutStiffness();
    }
    this.coarse = new FrontalSolver(kernel, {
      nNodes: this.nCoarse,
      nodes: this.coarseNodes,
      perElement: 8,
      centres: elementCentres(grid),
      matrixAt: (e) => this.coarseMatrices + 8 * 576 * e,
    });
    await ctx.checkpoint();
    report(0.8);
    this.coarseVector = kernel.allocate(96 * this.nCoarse);
    this.work = kernel.allocate(16 * 60);
    this.vectors = Array.from({ length: 3 }, () => kernel.allocate(96 * this.n));
    this.singles = Array.from({ length: 4 }, () => kernel.allocate(48 * this.n));
    this.single = kernel.allocate(4 * this.nValues);
    kernel.run.demote(this.values, this.single, this.nValues);
    this.scalars = Array.from({ length: 4 }, () => kernel.allocate(32));
    this.largest = POWER_MARGIN * (await this.largestEigenvalue(ctx));
    report(1);
  }

  /** Of the Schwarz-smoothed matrix, by the power method from a fixed start. */
  private async largestEigenvalue(ctx: StageContext): Promise<number> {
    const [x, y] = this.singles;
    const start = this.kernel.f32(x, 12 * this.n);
    let seed = 12345;
    for (let i = 0; i < start.length; i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      start[i] = seed / 0x40000000 - 1;
    }
    let value = 1;
    const [long] = this.vectors;
    for (let s = 0; s < POWER_STEPS; s++) {
      this.kernel.run.promote(x, long, 12 * this.n);
      const before = Math.sqrt(Math.max(...this.dot(long, long)));
      this.kernel.run.combineSingle(x, x, 0, 1 / before, 3 * this.n);
      this.multiplySingle(x, y);
      this.clear(x);
      this.schwarz(y, x);
      this.kernel.run.promote(x, long, 12 * this.n);
      value = Math.sqrt(Math.max(...this.dot(long, long)));
      await ctx.checkpoint();
    }
    return value;
  }

  /** Solves A x = b from x = 0; b is overwritten by the residual. */
  async solve(
    b: number,
    x: number,
    tolerance: number,
    maxIterations: number,
    progress: (iteration: number, residual: number) => Promise<void>,
  ): Promise<{ iterations: number; residual: number }> {
    const [z, p, q] = this.vectors;
    let raises = 0;
    const preconditioned = () => {
      this.precondition(b, z);
      const product = this.dot(b, z);
      return product.every((v) => v >= 0) || raises >= MOST_RAISES ? product : null;
    };
    const restart = (): number[] => {
      for (;;) {
        const product = preconditioned();
        if (product) {
          this.kernel.copy(p, z, 96 * this.n);
          return product;
        }
        this.largest *= RAISE;
        raises++;
      }
    };
    let rz = restart();
    const first = rz;
    const relative = () => Math.sqrt(Math.max(0, ...rz.map((v, l) => (first[l] > 0 ? v / first[l] : 0))));
    let iterations = 0;
    while (relative() > tolerance && iterations < maxIterations) {
      await progress(iterations, relative());
      this.multiply(p, q);
      const curvature = this.dot(p, q);
      const alpha = rz.map((v, l) => (v > 0 && curvature[l] > 0 ? v / curvature[l] : 0));
      this.combine(x, p, alpha, 1);
      this.combine(
        b,
        q,
        alpha.map((a) => -a),
        1,
      );
      const next = preconditioned();
      if (!next) {
        rz = restart();
        iterations++;
        continue;
      }
      const beta = next.map((v, l) => (rz[l] > 0 ? v / rz[l] : 0));
      this.combine(p, z, 1, beta);
      rz = next;
      iterations++;
    }
    return { iterations, residual: relative() };
  }

  /** z = M^-1 r by one V(1,1) cycle. */
  private precondition(r: number, z: number): void {
    const [residual, correction, step, product] = this.singles;
    const { run } = this.kernel;
    run.demote(r, residual, 12 * this.n);
    this.clear(correction);
    this.smooth(residual, correction, step, product);
    this.kernel.zero(this.coarseVector, 96 * this.nCoarse);
    run.restrict(this.n, this.parents, residual, this.coarseVector);
    this.coarse.solve(this.coarseVector);
    run.prolong(this.n, this.parents, this.coarseVector, step);
    this.gain(step, residual, correction, product);
    this.smooth(residual, correction, step, product, true);
    run.promote(correction, z, 12 * this.n);
  }

  /** Chebyshev of degree 2 on A z = r (Saad 2003, 12.3): z gains, the residual follows unless it is the last. */
  private smooth(residual: number, z: number, step: number, product: number, last = false): void {
    const { largest } = this;
    const { run } = this.kernel;
    const theta = (largest / 2) * (1 + 1 / SMOOTHED);
    const delta = (largest / 2) * (1 - 1 / SMOOTHED);
    const first = delta / theta;
    const second = 1 / (2 / first - first);
    this.clear(step);
    this.schwarz(residual, step);
    run.combineSingle(step, step, 0, 1 / theta, 3 * this.n);
    this.gain(step, residual, z, product);
    this.clear(product);
    this.schwarz(residual, product);
    run.combineSingle(step, product, (2 * second) / delta, second * first, 3 * this.n);
    if (last) run.combineSingle(z, step, 1, 1, 3 * this.n);
    else this.gain(step, residual, z, product);
  }

  /** z += step, residual -= A step. */
  private gain(step: number, residual: number, z: number, product: number): void {
    this.kernel.run.combineSingle(z, step, 1, 1, 3 * this.n);
    this.multiplySingle(step, product);
    this.kernel.run.combineSingle(residual, product, -1, 1, 3 * this.n);
  }

  private multiply(x: number, y: number): void {
    this.kernel.run.multiply(this.n, this.rows, this.columns, this.values, x, y);
  }

  private multiplySingle(x: number, y: number): void {
    this.kernel.run.multiplySingle(this.n, this.rows, this.columns, this.single, x, y);
  }

  private schwarz(r: number, z: number): void {
    this.kernel.run.schwarz(this.grid.nElements, this.nodes, this.factors, r, z, this.work);
  }

  private clear(x: number): void {
    this.kernel.zero(x, 48 * this.n);
  }

  private dot(a: number, b: number): number[] {
    const [out] = this.scalars;
    this.kernel.run.dot(a, b, 3 * this.n, out);
    return [...this.kernel.f64(out, LANES)];
  }

  /** y = p x + q y; p and q for all lanes or lane by lane. */
  private combine(y: number, x: number, p: number | number[], q: number | number[]): void {
    const [, atP, atQ] = this.scalars;
    const put = (at: number, v: number | number[]) =>
      typeof v === 'number' ? this.kernel.f64(at, LANES).fill(v) : this.kernel.f64(at, LANES).set(v);
    put(atP, p);
    put(atQ, q);
    this.kernel.run.combine(y, x, atP, atQ, 3 * this.n);
  }
}

/** Which nodes share an element, row by row in ascending order. */
function pattern({ nNodes, nElements, nodes }: StructureGrid): { rowStart: Int32Array; columns: Int32Array } {
  const start = new Int32Array(nNodes + 1);
  for (const node of nodes) start[node + 1]++;
  for (let i = 0; i < nNodes; i++) start[i + 1] += start[i];
  const elements = new Int32Array(nodes.length);
  const next = start.slice();
  for (let k = 0; k < NODES_PER_ELEMENT * nElements; k++)
    elements[next[nodes[k]]++] = Math.floor(k / NODES_PER_ELEMENT);
  const marker = new Int32Array(nNodes).fill(-1);
  const rowStart = new Int32Array(nNodes + 1);
  const eachNeighbour = (row: number, visit: (node: number) => void) => {
    for (let s = start[row]; s < start[row + 1]; s++)
      for (let a = 0; a < NODES_PER_ELEMENT; a++) {
        const node = nodes[NODES_PER_ELEMENT * elements[s] + a];
        if (marker[node] === row) continue;
        marker[node] = row;
        visit(node);
      }
  };
  for (let row = 0; row < nNodes; row++) eachNeighbour(row, () => rowStart[row + 1]++);
  for (let row = 0; row < nNodes; row++) rowStart[row + 1] += rowStart[row];
  marker.fill(-1);
  const columns = new Int32Array(rowStart[nNodes]);
  for (let row = 0; row < nNodes; row++) {
    let at = rowStart[row];
    eachNeighbour(row, (node) => (columns[at++] = node));
    columns.subarray(rowStart[row], at).sort();
  }
  return { rowStart, columns };
}

/** Both ends of an edge for the nodes in its middle, twice itself for a corner, in numbers of the coarse level. */
function corners({ nNodes, nElements, nodes }: StructureGrid) {
  const number = new Int32Array(nNodes).fill(-1);
  let nCoarse = 0;
  const coarseNodes = new Int32Array(8 * nElements);
  for (let e = 0; e < nElements; e++)
    for (let a = 0; a < 8; a++) {
      const node = nodes[NODES_PER_ELEMENT * e + a];
      if (number[node] < 0) number[node] = nCoarse++;
      coarseNodes[8 * e + a] = number[node];
    }
  const parents = new Int32Array(2 * nNodes);
  for (let e = 0; e < nElements; e++)
    for (let a = 0; a < NODES_PER_ELEMENT; a++) {
      const [first, second] = ends(a);
      parents[2 * nodes[NODES_PER_ELEMENT * e + a]] = coarseNodes[8 * e + first];
      parents[2 * nodes[NODES_PER_ELEMENT * e + a] + 1] = coarseNodes[8 * e + second];
    }
  return { parents, coarseNodes, nCoarse };
}

function ends(a: number): [number, number] {
  if (a < 8) return [a, a];
  const [first, second] = [a & 1, (a >> 1) & 1];
  const of = (end: number) => {
    if (a < 12) return end + 2 * first + 4 * second;
    return a < 16 ? first + 2 * end + 4 * second : first + 2 * second + 4 * end;
  };
  return [of(0), of(1)];
}
