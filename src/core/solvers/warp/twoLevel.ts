import { elementsOfNodes, NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import { fillWithNoise } from '../../numerics/noise';
import type { StageContext } from '../../stage/context';
import { elementCentres } from '../../grid/structureGrid';
import type { SystemAddresses } from './elements';
import { LANES } from './solid';
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
  private readonly nodes: number;
  private readonly parents: number;
  private readonly coarseNodes: Int32Array;
  private readonly nCoarse: number;
  private readonly coarseMatrices: number;
  private factors = 0;
  private coarse!: FrontalSolver;
  private coarseVector = 0;
  /** Of either thread: 60 x 4 numbers. */
  private readonly work: [number, number];
  private vectors: number[] = [];
  /** The preconditioner works in f32: matrix, residual, correction, step, product. */
  private single = 0;
  private singles: number[] = [];
  /** What the second thread adds up from `firstTouched` on. */
  private second = 0;
  private secondCoarse = 0;
  /** First element and row of the second thread, and the first node its elements touch. */
  private readonly halfElements: number;
  private readonly halfRows: number;
  private readonly firstTouched: number;
  /** Nodes below this are reached by the rows of the first half, and what these add beyond it. */
  private readonly reach: number;
  private beyond = 0;
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
    this.nodes = kernel.put(grid.nodes);
    this.work = [kernel.allocate(16 * 60), kernel.allocate(16 * 60)];
    this.halfElements = grid.nElements >> 1;
    this.halfRows = rowOfHalf(rowStart);
    this.reach = columns.subarray(0, rowStart[this.halfRows]).reduce((a, b) => Math.max(a, b + 1), this.halfRows);
    this.firstTouched = grid.nodes.subarray(NODES_PER_ELEMENT * this.halfElements).reduce((a, b) => Math.min(a, b), n);
    const { parents, coarseNodes, nCoarse } = corners(grid);
    this.parents = kernel.put(parents);
    this.coarseNodes = coarseNodes;
    this.nCoarse = nCoarse;
    this.coarseMatrices = kernel.allocate(8 * 576 * grid.nElements);
  }

  /** Where the matrices of the elements are added up. */
  get addresses(): Pick<SystemAddresses, 'nodes' | 'compressed'> {
    const { nodes, rows, columns, values, coarseMatrices: corners } = this;
    return { nodes, compressed: { rows, columns, values, corners } };
  }

  async setUp(ctx: StageContext, report: (share: number) => void): Promise<void> {
    const { kernel, grid } = this;
    this.factors = kernel.allocate(FACTOR_BYTES * grid.nElements);
    const room = () => [kernel.allocate(4 * this.n), kernel.allocate(8 * (3600 + 60))];
    const { nodes, rows, columns, values, factors, halfElements } = this;
    const [here, there] = [room(), room()];
    const chunk = 256;
    const longer = grid.nElements - halfElements;
    for (let e = 0; e < longer; e += chunk) {
      await ctx.checkpoint();
      report((0.6 * e) / longer);
      const part = (first: number, end: number, own: number[]) => {
        const [marker, scratch] = own;
        const to = Math.min(first + chunk, end);
        return [Math.min(first, end), to, nodes, rows, columns, values, marker, scratch, factors] as Parameters<
          typeof kernel.run.factorBlocks
        >;
      };
      const failed = kernel.both(
        'factorBlocks',
        part(e, halfElements, here),
        part(halfElements + e, grid.nElements, there),
      );
      if (failed.some((f) => f >= 0)) throw withoutStiffness();
    }
    this.coarse = new FrontalSolver(kernel, {
      nNodes: this.nCoarse,
      nodes: this.coarseNodes,
      perElement: 8,
      centres: elementCentres(grid),
      matrices: this.coarseMatrices,
    });
    await ctx.checkpoint();
    report(0.8);
    this.coarseVector = kernel.allocate(96 * this.nCoarse);
    this.secondCoarse = kernel.allocate(96 * this.nCoarse);
    this.second = kernel.allocate(48 * this.n);
    this.beyond = kernel.allocate(96 * this.n);
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
    fillWithNoise(this.kernel.f32(x, 12 * this.n));
    let value = 1;
    const [long] = this.vectors;
    for (let s = 0; s < POWER_STEPS; s++) {
      this.promote(x, long);
      const before = Math.sqrt(Math.max(...this.dot(long, long)));
      this.combineSingle(x, x, 0, 1 / before);
      this.multiplySingle(x, y);
      this.clear(x);
      this.schwarz(y, x);
      this.promote(x, long);
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
  precondition(r: number, z: number): void {
    const [residual, correction, step, product] = this.singles;
    this.inHalves('demote', (node, n) => [r + 96 * node, residual + 48 * node, 12 * n]);
    this.clear(correction);
    this.smooth(residual, correction, step, product);
    this.restrict(residual);
    this.coarse.solve(this.coarseVector);
    const { parents, coarseVector } = this;
    this.inHalves('prolong', (node, n) => [n, parents + 8 * node, coarseVector, step + 48 * node]);
    this.gain(step, residual, correction, product);
    this.smooth(residual, correction, step, product, true);
    this.promote(correction, z);
  }

  /** Chebyshev of degree 2 on A z = r (Saad 2003, 12.3): z gains, the residual follows unless it is the last. */
  private smooth(residual: number, z: number, step: number, product: number, last = false): void {
    const { largest } = this;
    const theta = (largest / 2) * (1 + 1 / SMOOTHED);
    const delta = (largest / 2) * (1 - 1 / SMOOTHED);
    const first = delta / theta;
    const second = 1 / (2 / first - first);
    this.clear(step);
    this.schwarz(residual, step);
    this.combineSingle(step, step, 0, 1 / theta);
    this.gain(step, residual, z, product);
    this.clear(product);
    this.schwarz(residual, product);
    this.combineSingle(step, product, (2 * second) / delta, second * first);
    if (last) this.combineSingle(z, step, 1, 1);
    else this.gain(step, residual, z, product);
  }

  /** z += step, residual -= A step. */
  private gain(step: number, residual: number, z: number, product: number): void {
    this.combineSingle(z, step, 1, 1);
    this.multiplySingle(step, product);
    this.combineSingle(residual, product, -1, 1);
  }

  /** y = A x, both in f64. */
  multiply(x: number, y: number): void {
    this.inRows('multiply', this.values, x, y);
  }

  private multiplySingle(x: number, y: number): void {
    this.inRows('multiplySingle', this.single, x, y);
  }

  /** Rows of the first half reach into those of the second: what they add there is added last. */
  private inRows(loop: 'multiply' | 'multiplySingle', values: number, x: number, y: number): void {
    const { rows, columns, halfRows, reach, n, kernel } = this;
    const common = [rows, columns, values, x, y, this.beyond] as const;
    kernel.both(loop, [0, halfRows, ...common, reach], [halfRows, n, ...common, n]);
    const bytes = (loop === 'multiply' ? 96 : 48) * halfRows;
    const [from, to, length] = [this.beyond + bytes, y + bytes, 3 * (reach - halfRows)];
    if (loop === 'multiplySingle') kernel.run.combineSingle(to, from, 1, 1, length);
    else {
      this.fill(1, 1);
      kernel.run.combine(to, from, this.scalars[1], this.scalars[2], length);
    }
  }

  private schwarz(r: number, z: number): void {
    const { nodes, factors, halfElements, work, firstTouched, n } = this;
    const second = this.second + 48 * firstTouched;
    this.kernel.zero(second, 48 * (n - firstTouched));
    this.kernel.both(
      'schwarz',
      [0, halfElements, nodes, factors, r, z, work[0]],
      [halfElements, this.grid.nElements, nodes, factors, r, this.second, work[1]],
    );
    this.kernel.run.combineSingle(z + 48 * firstTouched, second, 1, 1, 3 * (n - firstTouched));
  }

  private restrict(residual: number): void {
    const { parents, coarseVector, secondCoarse, nCoarse, kernel } = this;
    kernel.zero(coarseVector, 96 * nCoarse);
    kernel.zero(secondCoarse, 96 * nCoarse);
    this.inHalves('restrict', (node, n) => [
      n,
      parents + 8 * node,
      residual + 48 * node,
      node ? secondCoarse : coarseVector,
    ]);
    this.fill(1, 1);
    kernel.run.combine(coarseVector, secondCoarse, this.scalars[1], this.scalars[2], 3 * nCoarse);
  }

  private clear(x: number): void {
    this.kernel.zero(x, 48 * this.n);
  }

  private promote(x: number, long: number): void {
    this.inHalves('promote', (node, n) => [x + 48 * node, long + 96 * node, 12 * n]);
  }

  private dot(a: number, b: number): number[] {
    const [out, , , second] = this.scalars;
    this.inHalves('dot', (node, n) => [a + 96 * node, b + 96 * node, 3 * n, node ? second : out]);
    const there = this.kernel.f64(second, LANES);
    return Array.from(this.kernel.f64(out, LANES), (v, l) => v + there[l]);
  }

  private combineSingle(y: number, x: number, p: number, q: number): void {
    this.inHalves('combineSingle', (node, n) => [y + 48 * node, x + 48 * node, p, q, 3 * n]);
  }

  /** y = p x + q y; p and q for all lanes or lane by lane. */
  private combine(y: number, x: number, p: number | number[], q: number | number[]): void {
    this.fill(p, q);
    const [, atP, atQ] = this.scalars;
    this.inHalves('combine', (node, n) => [y + 96 * node, x + 96 * node, atP, atQ, 3 * n]);
  }

  private fill(p: number | number[], q: number | number[]): void {
    [p, q].forEach((v, k) => {
      const to = this.kernel.f64(this.scalars[k + 1], LANES);
      if (typeof v === 'number') to.fill(v);
      else to.set(v);
    });
  }

  /** A loop over vectors: the first half of the nodes here, the rest in the second thread. */
  private inHalves<L extends VectorLoop>(loop: L, of: (node: number, n: number) => Arguments<L>): void {
    const half = this.n >> 1;
    this.kernel.both(loop, of(0, half), of(half, this.n - half));
  }
}

type VectorLoop = 'demote' | 'promote' | 'prolong' | 'restrict' | 'dot' | 'combine' | 'combineSingle';
type Arguments<L extends VectorLoop> = Parameters<ElasticKernel['run'][L]>;

/** Row at which half of the blocks of a matrix are passed. */
function rowOfHalf(rowStart: Int32Array): number {
  const half = rowStart[rowStart.length - 1] / 2;
  return Math.max(
    0,
    rowStart.findIndex((at) => at >= half),
  );
}

/** Nodes from a row's own on that share an element with it, row by row in ascending order. */
function pattern(grid: StructureGrid): { rowStart: Int32Array; columns: Int32Array } {
  const { nNodes, nodes } = grid;
  const { start, elements } = elementsOfNodes(grid);
  const marker = new Int32Array(nNodes).fill(-1);
  const rowStart = new Int32Array(nNodes + 1);
  const eachNeighbour = (row: number, visit: (node: number) => void) => {
    for (let s = start[row]; s < start[row + 1]; s++)
      for (let a = 0; a < NODES_PER_ELEMENT; a++) {
        const node = nodes[NODES_PER_ELEMENT * elements[s] + a];
        if (node < row || marker[node] === row) continue;
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
