import { NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { Vec3 } from '../../geometry/mesh';
import { JumpModes, JumpTerms, type Jump, type StressOf } from './jumps';
import type { ElasticKernel } from './kernel';
import { COMPONENTS, hooke, lame, LANES, PAIRS, stressOf, type Solid, type StiffnessAt, type StrainAt } from './solid';

/** A place held in one direction by a spring. */
export interface Spring {
  element: number;
  /** Local coordinates in the element. */
  local: Vec3;
  direction: Vec3;
  /** N/m */
  stiffness: number;
}

/** Number of nodes' functions, 20: N_a at a local place. */
export function shape(local: ArrayLike<number>, out: Float64Array): void {
  const [x, y, z] = [local[0], local[1], local[2]];
  for (let a = 0; a < 8; a++) {
    const [xa, ya, za] = [a & 1 ? x : -x, a & 2 ? y : -y, a & 4 ? z : -z];
    out[a] = 0.125 * (1 + xa) * (1 + ya) * (1 + za) * (xa + ya + za - 2);
  }
  for (let e = 0; e < 4; e++) {
    const [first, second] = [e & 1 ? 1 : -1, e & 2 ? 1 : -1];
    out[8 + e] = 0.25 * (1 - x * x) * (1 + first * y) * (1 + second * z);
    out[12 + e] = 0.25 * (1 - y * y) * (1 + first * x) * (1 + second * z);
    out[16 + e] = 0.25 * (1 - z * z) * (1 + first * x) * (1 + second * y);
  }
}

/** Where the matrices and loads of elements go: addresses in the kernel's memory. */
export interface SystemAddresses {
  nodes: number;
  /** Rows, columns and values of a block-compressed matrix, and the matrices on the corners alone; or null. */
  compressed: { rows: number; columns: number; values: number; corners: number } | null;
  /** Whole matrices of all elements one after the other, where there is no compressed one. */
  whole: number;
  /** 12 numbers a node. */
  loads: number;
}

/** Elements whose matrices are made at a time. */
const BATCH = 32;

/**
 * Matrices and loads of all elements, added to a system. Points and strains of one batch are laid out here while
 * the second thread, if there is one, makes the matrices of the batch before.
 */
export class ElementMatrices {
  readonly jumps = new Map<number, Jump>();
  /** 60 x 60 matrix and 60 x 4 loads of an element made here. */
  readonly K: number;
  readonly f: number;
  private readonly G: number;
  private readonly T: number;
  private readonly batches: [Batch, Batch];
  private readonly system: number;
  private readonly scratch: number;
  private readonly marker: number;
  private readonly springs = new Map<number, Spring[]>();
  private readonly strain = new Float64Array(COMPONENTS * LANES);
  private readonly stiffness = new Float64Array(PAIRS);

  constructor(
    private readonly kernel: ElasticKernel,
    private readonly grid: StructureGrid,
    private readonly solids: readonly Solid[],
    private readonly strainAt: StrainAt,
    springs: readonly Spring[],
    { nodes, compressed, whole, loads }: SystemAddresses,
    private readonly stiffnessAt: StiffnessAt | null = null,
  ) {
    let most = 0;
    for (let e = 0; e < grid.nElements; e++) most = Math.max(most, grid.pointStart[e + 1] - grid.pointStart[e]);
    const room = 4 * Math.ceil(most / 4);
    this.K = kernel.allocate(8 * 3600);
    this.G = kernel.allocate(8 * 3600);
    this.f = kernel.allocate(8 * 240);
    this.T = kernel.allocate(8 * 360);
    this.scratch = kernel.allocate(8 * (7200 + 240 + 60 * Math.max(room, 24)));
    this.marker = kernel.allocate(4 * grid.nNodes);
    const { rows, columns, values, corners } = compressed ?? { rows: 0, columns: 0, values: 0, corners: 0 };
    this.system = kernel.put(
      Int32Array.of(nodes, rows, columns, values, corners, loads, compressed ? 0 : whole, this.T),
    );
    // Points come in fours: the last element is laid out with up to three more.
    const own = stiffnessAt !== null;
    this.batches = [new Batch(kernel, BATCH * room + 4, own), new Batch(kernel, BATCH * room + 4, own)];
    for (const spring of springs)
      this.springs.set(spring.element, [...(this.springs.get(spring.element) ?? []), spring]);
  }

  /** Elements from .. to - 1. */
  add(from: number, to: number): void {
    const { kernel } = this;
    const apart: number[] = [];
    let started = false;
    for (let first = from; first < to; first += BATCH) {
      const [batch] = this.batches.reverse();
      batch.clear();
      for (let e = first; e < Math.min(first + BATCH, to); e++)
        if (this.isPlain(e)) this.fill(batch, e, null);
        else apart.push(e);
      if (started) kernel.wait();
      const scale = this.grid.lattice.edges.map((edge) => 2 / edge) as Vec3;
      kernel.start('makeElements', batch.nElements, batch.head, this.system, this.scratch, this.marker, ...scale);
      started = true;
    }
    if (started) kernel.wait();
    for (const e of apart) this.addApart(e);
  }

  /** One material, no spring. */
  private isPlain(e: number): boolean {
    return !this.grid.interfaces.get(e)?.length && !this.springs.has(e) && this.bodiesOf(e).size === 1;
  }

  private bodiesOf(e: number): Set<number> {
    const { body, pointStart } = this.grid;
    if (this.solids.length === 1) return ONE_BODY;
    return new Set(body.subarray(pointStart[e], pointStart[e + 1]));
  }

  /** An element of several materials or with springs. */
  private addApart(e: number): void {
    const { kernel, grid } = this;
    const [batch] = this.batches;
    kernel.zero(this.K, 8 * 3600);
    kernel.zero(this.f, 8 * 240);
    const normals = grid.interfaces.get(e);
    const jump = normals?.length ? new JumpTerms(new JumpModes(normals, grid, e)) : null;
    const g = this.scratch;
    for (const body of [...this.bodiesOf(e)].sort((a, b) => a - b)) {
      batch.clear();
      const n = this.fill(batch, e, body);
      kernel.zero(this.G, 8 * 3600);
      const [ex, ey, ez] = grid.lattice.edges;
      kernel.run.gradients(batch.local, n, 2 / ex, 2 / ey, 2 / ez, g);
      const law = this.addBody(batch, n, body, jump !== null);
      jump?.add(kernel, { ...batch, g }, n, body, law);
    }
    if (jump) this.jumps.set(e, jump.condense(kernel, this));
    for (const spring of this.springs.get(e) ?? []) this.hold(spring);
    kernel.run.addElement(e, this.K, this.f, this.system, this.scratch, this.marker);
  }

  /**
   * Adds the points of one body to the matrix at hand; returns its law. Where strain jumps, the body has one stiffness all over the cell: its
   * mean.
   */
  private addBody(batch: Batch, n: number, body: number, jumps: boolean): StressOf {
    const { kernel, scratch: g, K, G, T, f } = this;
    if (!batch.lastIsFull) {
      const { lambda, mu } = lame(this.solids[body]);
      kernel.run.rankUpdate(G, g, batch.weights, n);
      kernel.run.stiffness(K, G, lambda, mu);
      kernel.run.loads(f, g, batch.weights, batch.strain, n, lambda, mu);
      return (strain, out) => {
        for (let k = 0; k < COMPONENTS; k++) out[k] = strain[k];
        hooke(out, 0, lambda, mu, out);
      };
    }
    const mean = new Float64Array(PAIRS);
    if (jumps) {
      const all = kernel.f64(batch.stiffness, PAIRS * n);
      const weights = kernel.f64(batch.weights, n);
      const whole = weights.reduce((s, w) => s + w, 0);
      for (let p = 0; p < n; p++)
        for (let k = 0; k < PAIRS; k++) mean[k] += (weights[p] / whole) * (weights[p] ? all[PAIRS * p + k] : 0);
      for (let p = 0; p < n; p++) all.set(mean, PAIRS * p);
    }
    kernel.run.fullStiffness(K, G, T, g, batch.weights, batch.stiffness, n);
    kernel.run.fullLoads(f, T, g, batch.weights, batch.strain, batch.stiffness, n);
    return (strain, out) => stressOf(mean, 0, strain, out);
  }

  /** Lays out the points of an element, of one of its bodies or of all, padded to a multiple of four. */
  private fill(batch: Batch, e: number, only: number | null): number {
    const { grid, kernel, strain: at } = this;
    const { pointStart, lattice, local: place } = grid;
    const start = batch.nPoints;
    const room = pointStart[e + 1] - pointStart[e] + 3;
    const local = kernel.f64(batch.local + 24 * start, 3 * room);
    const weights = kernel.f64(batch.weights + 8 * start, room);
    const strain = kernel.f64(batch.strain + 8 * at.length * start, at.length * room);
    const own = this.stiffnessAt && kernel.f64(batch.stiffness + 8 * PAIRS * start, PAIRS * room);
    let full = false;
    const corner = cornerOf(grid.cellOf[e], lattice);
    const half = lattice.edges.map((edge) => edge / 2);
    const [x0, y0, z0] = corner.map((c, d) => lattice.origin[d] + half[d] * (2 * c + 1));
    let n = 0;
    for (let p = pointStart[e]; p < pointStart[e + 1]; p++) {
      if (only !== null && grid.body[p] !== only) continue;
      const [x, y, z] = [place[3 * p], place[3 * p + 1], place[3 * p + 2]];
      local[3 * n] = x;
      local[3 * n + 1] = y;
      local[3 * n + 2] = z;
      weights[n] = grid.weight[p];
      const [px, py, pz] = [x0 + half[0] * x, y0 + half[1] * y, z0 + half[2] * z];
      this.strainAt(px, py, pz, grid.body[p], at);
      strain.set(at, at.length * n);
      if (own && this.stiffnessAt?.(px, py, pz, grid.body[p], this.stiffness)) {
        own.set(this.stiffness, PAIRS * n);
        full = true;
      }
      n++;
    }
    const padded = 4 * Math.ceil(n / 4);
    weights.fill(0, n, padded);
    batch.push(e, padded, lame(this.solids[only ?? grid.body[pointStart[e]]]), full);
    return padded;
  }

  private hold({ local, direction, stiffness }: Spring): void {
    const N = new Float64Array(NODES_PER_ELEMENT);
    shape(local, N);
    const K = this.kernel.f64(this.K, 3600);
    for (let r = 0; r < 60; r++)
      for (let c = 0; c < 60; c++)
        K[60 * r + c] += stiffness * N[Math.floor(r / 3)] * direction[r % 3] * N[Math.floor(c / 3)] * direction[c % 3];
  }
}

const ONE_BODY = new Set([0]);

/** Points of some elements as the kernel takes them. */
class Batch {
  readonly head: number;
  readonly local: number;
  readonly weights: number;
  readonly strain: number;
  /** Of every point; 0 where every body is alike in all directions. */
  readonly stiffness: number;
  lastIsFull = false;
  nElements = 0;
  nPoints = 0;
  private readonly table: number;
  private readonly constants: number;

  constructor(
    private readonly kernel: ElasticKernel,
    room: number,
    own: boolean,
  ) {
    this.table = kernel.allocate(16 * BATCH);
    this.constants = kernel.allocate(16 * BATCH);
    this.local = kernel.allocate(24 * room);
    this.weights = kernel.allocate(8 * room);
    this.strain = kernel.allocate(8 * COMPONENTS * LANES * room);
    this.stiffness = own ? kernel.allocate(8 * PAIRS * room) : 0;
    const places = [this.table, this.constants, this.local, this.weights, this.strain, this.stiffness];
    this.head = kernel.put(Int32Array.from(places));
  }

  clear(): void {
    this.nElements = 0;
    this.nPoints = 0;
  }

  push(e: number, points: number, { lambda, mu }: { lambda: number; mu: number }, full: boolean): void {
    this.lastIsFull = full;
    this.kernel.i32(this.table + 16 * this.nElements, 4).set([e, this.nPoints, points, Number(full)]);
    this.kernel.f64(this.constants + 16 * this.nElements, 2).set([lambda, mu]);
    this.nElements++;
    this.nPoints += points;
  }
}
