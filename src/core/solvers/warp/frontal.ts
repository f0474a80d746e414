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
  /** Address of the full symmetric matrix of an element, 3 perElement a side. */
  matrixAt: (element: number) => number;
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
  panel: number;
  index: number;
}

/**
 * Direct solution by multifrontal Cholesky factors (Duff & Reid 1983) over a nested dissection of the
 * elements by their places (George 1973). Throws a StructureError where the matrix is not positive definite.
 */
export class FrontalSolver {
  private readonly fronts: Front[] = [];
  private readonly work: number;

  constructor(
    private readonly kernel: ElasticKernel,
    private readonly system: ElementSystem,
  ) {
    const n = system.nodes.length / system.perElement;
    const total = new Int32Array(system.nNodes);
    for (const node of system.nodes) total[node]++;
    const all = Int32Array.from({ length: n }, (_, e) => e);
    this.dissect(all, total, new Int32Array(system.nNodes));
    for (const front of this.fronts) {
      const index = Int32Array.from(
        { length: 3 * front.nodes.length },
        (_, i) => 3 * front.nodes[Math.floor(i / 3)] + (i % 3),
      );
      front.index = kernel.put(index);
      front.panel = kernel.allocate(72 * front.nodes.length * front.nOwn);
    }
    this.work = kernel.allocate(96 * Math.max(1, ...this.fronts.map((f) => f.nOwn)));
    this.factor();
  }

  /** x (4 lanes) = A^-1 x. */
  solve(x: number): void {
    const { run } = this.kernel;
    for (const { panel, nodes, nOwn, index } of this.fronts)
      run.frontForward(panel, 3 * nodes.length, 3 * nOwn, index, x, this.work);
    for (let f = this.fronts.length - 1; f >= 0; f--) {
      const { panel, nodes, nOwn, index } = this.fronts[f];
      run.frontBackward(panel, 3 * nodes.length, 3 * nOwn, index, x, this.work);
    }
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
    return (
      fronts.push({
        elements: children ? null : elements,
        children,
        nodes,
        nOwn: own.length,
        times,
        panel: 0,
        index: 0,
      }) - 1
    );
  }

  private factor(): void {
    const { kernel, system, fronts } = this;
    const largest = Math.max(0, ...fronts.map((f) => f.nodes.length));
    const mark = kernel.mark;
    const F = kernel.allocate(72 * largest * largest);
    const at = kernel.allocate(12 * Math.max(largest, system.perElement));
    const stack = kernel.allocate(8 * this.stackSize());
    const place = new Int32Array(system.nNodes);
    const tops: number[] = [];
    let top = stack;
    for (const front of fronts) {
      const m = 3 * front.nodes.length;
      const k = 3 * front.nOwn;
      kernel.zero(F, 8 * m * m);
      front.nodes.forEach((node, i) => (place[node] = 3 * i));
      const add = (S: number, stride: number, nodes: Int32Array) => {
        const index = kernel.i32(at, 3 * nodes.length);
        nodes.forEach((node, i) => {
          for (let d = 0; d < 3; d++) index[3 * i + d] = place[node] + d;
        });
        kernel.run.addFront(F, m, S, stride, 3 * nodes.length, at);
      };
      const { perElement } = system;
      for (const e of front.elements ?? [])
        add(system.matrixAt(e), 3 * perElement, system.nodes.subarray(e * perElement, (e + 1) * perElement));
      for (const child of (front.children ?? []).toReversed()) {
        const rest = fronts[child].nodes.subarray(fronts[child].nOwn);
        top = tops.pop()!;
        add(top, 3 * rest.length, rest);
      }
      if (kernel.run.factorFront(F, m, k) >= 0) throw withoutStiffness();
      for (let i = 0; i < m; i++) kernel.copy(front.panel + 8 * i * k, F + 8 * i * m, 8 * k);
      for (let i = k; i < m; i++) kernel.copy(top + 8 * (i - k) * (m - k), F + 8 * (i * m + k), 8 * (m - k));
      tops.push(top);
      top += 8 * (m - k) ** 2;
    }
    kernel.release(mark);
  }

  /** Most numbers that wait on the stack of Schur complements. */
  private stackSize(): number {
    const tops: number[] = [];
    let [top, most] = [0, 0];
    for (const { children, nodes, nOwn } of this.fronts) {
      if (children) for (let c = 0; c < 2; c++) top = tops.pop()!;
      tops.push(top);
      top += (3 * (nodes.length - nOwn)) ** 2;
      most = Math.max(most, top);
    }
    return most;
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
