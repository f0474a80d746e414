import { withoutStiffness, type ElasticKernel } from './kernel';

/** Elements in the smallest parts of the dissection. */
const LEAF = 6;

/** A system of element matrices, three unknowns a node. */
export interface ElementSystem {
  nNodes: number;
  /** Nodes of every element, `perElement` each. */
  nodes: Int32Array;
  perElement: number;
  /** 3 coordinates an element; they decide the order of elimination only. */
  centres: Float64Array;
  /** Address of the full symmetric matrices, 3 perElement a side, one after the other. */
  matrices: number;
}

interface Front {
  /** Elements of a leaf, else the two fronts that meet here. */
  elements: Int32Array | null;
  children: [number, number] | null;
  /** Nodes: those eliminated here first. */
  nodes: Int32Array;
  nOwn: number;
  /** In how many elements so far each node is met that goes on. */
  times: Int32Array;
}

/** Words of a front in the kernel's table. */
const WORDS = 10;

/**
 * Direct solution by multifrontal Cholesky factors (Duff & Reid 1983) over a nested dissection of the
 * elements by their places (George 1973); the two halves of the first cut are factored and solved at once. Throws
 * a StructureError where the matrix is not positive definite.
 */
export class FrontalSolver {
  private readonly fronts: Front[] = [];
  private readonly table: number;
  /** The fronts of the first half are 0 .. middle - 1, of the second middle .. top - 1; the last ones join them. */
  private readonly middle: number;
  private readonly top: number;
  /** Nodes of the cut between the halves: the second half works on copies of them. */
  private readonly shared: Int32Array;
  private readonly x: number;
  private readonly work: [number, number];

  constructor(
    private readonly kernel: ElasticKernel,
    private readonly system: ElementSystem,
  ) {
    const n = system.nodes.length / system.perElement;
    const total = new Int32Array(system.nNodes);
    for (const node of system.nodes) total[node]++;
    const all = Int32Array.from({ length: n }, (_, e) => e);
    this.dissect(all, total, new Int32Array(system.nNodes));
    const { fronts } = this;
    const root = fronts[fronts.length - 1];
    this.top = root.children ? fronts.length - 1 : 0;
    this.middle = root.children ? root.children[0] + 1 : 0;
    this.shared = this.top ? root.nodes : new Int32Array(0);
    this.x = kernel.allocate(96 * (system.nNodes + this.shared.length));
    const own = Math.max(1, ...fronts.map((f) => f.nOwn));
    this.work = [kernel.allocate(96 * own), kernel.allocate(96 * own)];
    this.table = kernel.allocate(4 * WORDS * fronts.length);
    this.layOut();
    this.factor();
  }

  /** x (4 lanes) = A^-1 x. */
  solve(x: number): void {
    const { kernel, table, middle, top, fronts, work } = this;
    const own = 96 * this.system.nNodes;
    kernel.copy(this.x, x, own);
    kernel.zero(this.x + own, 96 * this.shared.length);
    const here = [table, 0, middle, this.x, work[0]] as const;
    const there = [table, middle, top, this.x, work[1]] as const;
    kernel.both('forwardFronts', [...here], [...there]);
    const y = kernel.f64(this.x, 12 * (this.system.nNodes + this.shared.length));
    this.eachCopy((node, copy) => {
      for (let k = 0; k < 12; k++) y[12 * node + k] += y[12 * copy + k];
    });
    kernel.run.forwardFronts(table, top, fronts.length, this.x, work[0]);
    kernel.run.backwardFronts(table, top, fronts.length, this.x, work[0]);
    this.eachCopy((node, copy) => y.copyWithin(12 * copy, 12 * node, 12 * node + 12));
    kernel.both('backwardFronts', [...here], [...there]);
    kernel.copy(x, this.x, own);
  }

  private eachCopy(visit: (node: number, copy: number) => void): void {
    this.shared.forEach((node, i) => visit(node, this.system.nNodes + i));
  }

  /** Halves the elements along their longest extent; a node is eliminated where all its elements have come together. */
  private dissect(elements: Int32Array, total: Int32Array, seen: Int32Array): number {
    const { system, fronts } = this;
    let children: Front['children'] = null;
    const met: number[] = [];
    const meet = (node: number, times: number) => {
      if (!seen[node]) met.push(node);
      seen[node] += times;
    };
    if (elements.length <= LEAF) {
      for (const e of elements)
        for (let a = 0; a < system.perElement; a++) meet(system.nodes[e * system.perElement + a], 1);
    } else {
      const [low, high] = halves(elements, system.centres);
      children = [this.dissect(low, total, seen), this.dissect(high, total, seen)];
      for (const child of children) {
        const { nodes, nOwn, times } = fronts[child];
        for (let i = nOwn; i < nodes.length; i++) meet(nodes[i], times[i - nOwn]);
      }
    }
    const own = met.filter((node) => seen[node] === total[node]);
    const rest = met.filter((node) => seen[node] !== total[node]);
    const times = Int32Array.from(rest, (node) => seen[node]);
    for (const node of met) seen[node] = 0;
    const nodes = Int32Array.from([...own, ...rest]);
    return fronts.push({ elements: children ? null : elements, children, nodes, nOwn: own.length, times }) - 1;
  }

  /** Fills the kernel's table: nodes, panel, unknowns, elements or children and the Schur complement of every front. */
  private layOut(): void {
    const { kernel, fronts } = this;
    const copyOf = new Map<number, number>();
    this.eachCopy((node, copy) => copyOf.set(node, copy));
    fronts.forEach(({ nodes, nOwn, elements, children }, f) => {
      const second = f >= this.middle && f < this.top;
      const index = new Int32Array(3 * nodes.length);
      nodes.forEach((node, i) => {
        const slot = (second ? copyOf.get(node) : undefined) ?? node;
        for (let d = 0; d < 3; d++) index[3 * i + d] = 3 * slot + d;
      });
      const panel = kernel.allocate(72 * nodes.length * nOwn);
      const leaf = elements ? kernel.put(elements) : 0;
      const words = [nodes.length, nOwn, kernel.put(nodes), panel, kernel.put(index), leaf, elements?.length ?? 0];
      kernel.i32(this.table + 4 * WORDS * f, WORDS).set([...words, ...(children ?? [-1, -1]), 0]);
    });
  }

  private factor(): void {
    const { kernel, system, fronts, table, middle, top } = this;
    const mark = kernel.mark;
    this.placeComplements(0, middle);
    this.placeComplements(middle, top);
    this.placeComplements(top, fronts.length);
    const nodes = kernel.put(system.nodes);
    const room = (from: number, to: number) => {
      const largest = fronts.slice(from, to).reduce((m, f) => Math.max(m, f.nodes.length), system.perElement);
      const F = kernel.allocate(72 * largest * largest);
      const [index, place] = [kernel.allocate(12 * largest), kernel.allocate(4 * system.nNodes)];
      return [table, from, to, F, index, place, nodes, system.perElement, system.matrices] as const;
    };
    const [first, second, last] = [room(0, middle), room(middle, top), room(top, fronts.length)];
    const failed = kernel.both('factorFronts', [...first], [...second]);
    if (failed.some((f) => f >= 0) || kernel.run.factorFronts(...last) >= 0) throw withoutStiffness();
    kernel.release(mark);
  }

  /** A stack for the Schur complements of fronts from .. to - 1, children first: one lies where its children lay. */
  private placeComplements(from: number, to: number): void {
    const { kernel, fronts, table } = this;
    const place = new Int32Array(to - from);
    const tops: number[] = [];
    let [top, most] = [0, 0];
    for (let f = from; f < to; f++) {
      const { children, nodes, nOwn } = fronts[f];
      for (const child of children ?? []) if (child >= from) top = tops.pop()!;
      tops.push(top);
      place[f - from] = top;
      top += 9 * (nodes.length - nOwn) ** 2;
      most = Math.max(most, top);
    }
    const stack = kernel.allocate(8 * most);
    place.forEach((at, i) => kernel.i32(table + 4 * (WORDS * (from + i) + 9), 1).set([stack + 8 * at]));
  }
}

function halves(elements: Int32Array, centres: Float64Array): [Int32Array, Int32Array] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const e of elements)
    for (let d = 0; d < 3; d++) {
      low[d] = Math.min(low[d], centres[3 * e + d]);
      high[d] = Math.max(high[d], centres[3 * e + d]);
    }
  const extent = high.map((h, d) => h - low[d]);
  const axis = extent.indexOf(Math.max(...extent));
  const sorted = elements.slice().sort((a, b) => centres[3 * a + axis] - centres[3 * b + axis] || a - b);
  const middle = sorted.length >> 1;
  return [sorted.subarray(0, middle), sorted.subarray(middle)];
}
