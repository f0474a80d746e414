import { Matrix, inverse } from 'ml-matrix';
import { NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { Vec3 } from '../../geometry/mesh';
import { frameOn } from '../../geometry/vec';
import type { ElasticKernel } from './kernel';

/** Load cases that are solved side by side. */
export const LANES = 4;
/** Components of a strain or stress: xx yy zz xy yz xz, tensor shear. */
export const COMPONENTS = 6;

/** Number k of all load cases together, from numbers with the lanes side by side. */
export function lanesTogether(values: ArrayLike<number>, k: number): number {
  let sum = 0;
  for (let lane = 0; lane < LANES; lane++) sum += values[LANES * k + lane];
  return sum;
}

/** Isotropic elastic solid. */
export interface Solid {
  /** Young's modulus, Pa. */
  young: number;
  poisson: number;
}

/** Lame's constants, Pa. */
export const lame = ({ young, poisson }: Solid) => ({
  lambda: (young * poisson) / ((1 + poisson) * (1 - 2 * poisson)),
  mu: young / (2 * (1 + poisson)),
});

/**
 * Stress-free strain of each load case at a point (m) of a body: writes COMPONENTS x LANES numbers, lanes
 * side by side.
 */
export type StrainAt = (x: number, y: number, z: number, body: number, out: Float64Array) => void;

/** A place held in one direction by a spring. */
export interface Spring {
  element: number;
  /** Local coordinates in the element. */
  local: Vec3;
  direction: Vec3;
  /** N/m */
  stiffness: number;
}

/** What the jump modes of an element amount to: alpha = ready - Q u, n x 4 and n x 60 for n modes. */
export interface Jump {
  modes: JumpModes;
  Q: Matrix;
  ready: Matrix;
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

/**
 * Strain modes sym(c x n) (s p - mean) by which strain may jump at the surface between two materials: n across
 * the surface (two directions at an edge), c one of n and two directions t along it, s = +1 in the plastic and
 * -1 in the insert, p in {1, t1.x, t2.x}, for c = n also n.x. (Shear that varied along n would let the stiffer
 * body warp its sections for nothing.) The mean over the element is nothing, so a linear displacement is still
 * exact (assumed strains of Simo & Rifai 1990).
 */
export class JumpModes {
  /** s p - mean over the place: gradient of p (p = 1 where there is none) and the mean of s p. */
  private readonly profiles: { gradient: Vec3 | null; mean: number }[] = [];
  /** sym(c x n) of every mode, and which profile it has. */
  readonly modes: { strain: number[]; profile: number }[] = [];

  constructor(normals: readonly Vec3[], grid: StructureGrid, element: number) {
    const { pointStart, weight, local, body } = grid;
    const means = new Float64Array(4);
    let volume = 0;
    for (let p = pointStart[element]; p < pointStart[element + 1]; p++) {
      const s = body[p] ? -weight[p] : weight[p];
      volume += weight[p];
      means[0] += s;
      for (let d = 0; d < 3; d++) means[1 + d] += s * local[3 * p + d];
    }
    for (const n of normals) {
      const [t1, t2] = frameOn(n);
      const first = this.profiles.length;
      for (const gradient of [null, t1, t2, n]) {
        const sum = gradient ? gradient.reduce((s, g, d) => s + g * means[1 + d], 0) : means[0];
        this.profiles.push({ gradient, mean: sum / volume });
      }
      for (const c of [n, t1, t2])
        for (let k = 0; k < (c === n ? 4 : 3); k++) this.modes.push({ strain: symmetric(c, n), profile: first + k });
    }
  }

  get count(): number {
    return this.modes.length;
  }

  get profileCount(): number {
    return this.profiles.length;
  }

  /** The numbers s p - mean of all profiles at a local place in plastic or insert. */
  profilesAt(local: ArrayLike<number>, at: number, insert: boolean, out: Float64Array): void {
    const sign = insert ? -1 : 1;
    for (let k = 0; k < this.profiles.length; k++) {
      const { gradient: g, mean } = this.profiles[k];
      const p = g ? g[0] * local[at] + g[1] * local[at + 1] + g[2] * local[at + 2] : 1;
      out[k] = sign * p - mean;
    }
  }

  /** The strain of amplitudes (one a mode) at a local place in plastic or insert, added to `out`. */
  addStrain(
    local: ArrayLike<number>,
    at: number,
    insert: boolean,
    amplitudes: readonly number[],
    out: Float64Array,
    to: number,
  ): void {
    const profile = new Float64Array(this.profiles.length);
    this.profilesAt(local, at, insert, profile);
    this.modes.forEach((mode, m) => {
      const a = amplitudes[m] * profile[mode.profile];
      for (let k = 0; k < COMPONENTS; k++) out[to + k] += a * mode.strain[k];
    });
  }
}

/** sym(c x n) as xx yy zz xy yz xz. */
function symmetric(c: Vec3, n: Vec3): number[] {
  const of = (i: number, j: number) => (c[i] * n[j] + c[j] * n[i]) / 2;
  return [of(0, 0), of(1, 1), of(2, 2), of(0, 1), of(1, 2), of(0, 2)];
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
  private readonly batches: [Batch, Batch];
  private readonly system: number;
  private readonly scratch: number;
  private readonly marker: number;
  private readonly springs = new Map<number, Spring[]>();
  private readonly strain = new Float64Array(COMPONENTS * LANES);

  constructor(
    private readonly kernel: ElasticKernel,
    private readonly grid: StructureGrid,
    private readonly solids: readonly Solid[],
    private readonly strainAt: StrainAt,
    springs: readonly Spring[],
    { nodes, compressed, whole, loads }: SystemAddresses,
  ) {
    let most = 0;
    for (let e = 0; e < grid.nElements; e++) most = Math.max(most, grid.pointStart[e + 1] - grid.pointStart[e]);
    const room = 4 * Math.ceil(most / 4);
    this.K = kernel.allocate(8 * 3600);
    this.G = kernel.allocate(8 * 3600);
    this.f = kernel.allocate(8 * 240);
    this.scratch = kernel.allocate(8 * (7200 + 240 + 60 * Math.max(room, 24)));
    this.marker = kernel.allocate(4 * grid.nNodes);
    const { rows, columns, values, corners } = compressed ?? { rows: 0, columns: 0, values: 0, corners: 0 };
    this.system = kernel.put(Int32Array.of(nodes, rows, columns, values, corners, loads, compressed ? 0 : whole));
    // Points come in fours: the last element is laid out with up to three more.
    this.batches = [new Batch(kernel, BATCH * room + 4), new Batch(kernel, BATCH * room + 4)];
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
      const { lambda, mu } = lame(this.solids[body]);
      kernel.zero(this.G, 8 * 3600);
      const [ex, ey, ez] = grid.lattice.edges;
      kernel.run.gradients(batch.local, n, 2 / ex, 2 / ey, 2 / ez, g);
      kernel.run.rankUpdate(this.G, g, batch.weights, n);
      kernel.run.stiffness(this.K, this.G, lambda, mu);
      kernel.run.loads(this.f, g, batch.weights, batch.strain, n, lambda, mu);
      jump?.add(kernel, { ...batch, g }, n, body, lambda, mu);
    }
    if (jump) this.jumps.set(e, jump.condense(kernel, this));
    for (const spring of this.springs.get(e) ?? []) this.hold(spring);
    kernel.run.addElement(e, this.K, this.f, this.system, this.scratch, this.marker);
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
      this.strainAt(x0 + half[0] * x, y0 + half[1] * y, z0 + half[2] * z, grid.body[p], at);
      strain.set(at, at.length * n);
      n++;
    }
    const padded = 4 * Math.ceil(n / 4);
    weights.fill(0, n, padded);
    batch.push(e, padded, lame(this.solids[only ?? grid.body[pointStart[e]]]));
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
  nElements = 0;
  nPoints = 0;
  private readonly table: number;
  private readonly constants: number;

  constructor(
    private readonly kernel: ElasticKernel,
    room: number,
  ) {
    this.table = kernel.allocate(16 * BATCH);
    this.constants = kernel.allocate(16 * BATCH);
    this.local = kernel.allocate(24 * room);
    this.weights = kernel.allocate(8 * room);
    this.strain = kernel.allocate(8 * COMPONENTS * LANES * room);
    this.head = kernel.put(Int32Array.of(this.table, this.constants, this.local, this.weights, this.strain));
  }

  clear(): void {
    this.nElements = 0;
    this.nPoints = 0;
  }

  push(e: number, points: number, { lambda, mu }: { lambda: number; mu: number }): void {
    this.kernel.i32(this.table + 16 * this.nElements, 3).set([e, this.nPoints, points]);
    this.kernel.f64(this.constants + 16 * this.nElements, 2).set([lambda, mu]);
    this.nElements++;
    this.nPoints += points;
  }
}

/** Addresses of laid out points and of the gradients there. */
interface PointAddresses {
  local: number;
  weights: number;
  strain: number;
  g: number;
}

/**
 * Integrals over the jump modes of one element, and their static condensation. A mode is a constant tensor times one
 * of a few profiles, so that only the profiles are integrated.
 */
class JumpTerms {
  /** 60 x n, n x n and n x LANES by rows, n modes. */
  private readonly Kua: Float64Array;
  private readonly Kaa: Float64Array;
  private readonly fa: Float64Array;
  private readonly profile: Float64Array;
  /** Integrals over a body of profile times gradients, profile times profile, profile times stress-free strain. */
  private readonly withGradients: Float64Array;
  private readonly withProfiles: Float64Array;
  private readonly withStrain: Float64Array;

  constructor(private readonly modes: JumpModes) {
    const [n, k] = [modes.count, modes.profileCount];
    this.Kua = new Float64Array(60 * n);
    this.Kaa = new Float64Array(n * n);
    this.fa = new Float64Array(n * LANES);
    this.profile = new Float64Array(k);
    this.withGradients = new Float64Array(60 * k);
    this.withProfiles = new Float64Array(k * k);
    this.withStrain = new Float64Array(COMPONENTS * LANES * k);
  }

  add(kernel: ElasticKernel, at: PointAddresses, n: number, body: number, lambda: number, mu: number): void {
    this.integrate(kernel, at, n, body);
    const { Kua, Kaa, fa, withGradients: g, withProfiles, withStrain } = this;
    const { modes, count, profileCount } = this.modes;
    const s = new Float64Array(COMPONENTS);
    for (let m = 0; m < count; m++) {
      const { strain, profile } = modes[m];
      hooke(strain, 0, lambda, mu, s);
      for (let a = 0; a < NODES_PER_ELEMENT; a++) {
        const from = 60 * profile + 3 * a;
        const [gx, gy, gz] = [g[from], g[from + 1], g[from + 2]];
        const to = 3 * a * count + m;
        Kua[to] += gx * s[0] + gy * s[3] + gz * s[5];
        Kua[to + count] += gx * s[3] + gy * s[1] + gz * s[4];
        Kua[to + 2 * count] += gx * s[5] + gy * s[4] + gz * s[2];
      }
      modes.forEach((o, k) => {
        Kaa[count * m + k] += withProfiles[profileCount * profile + o.profile] * work(s, 0, o.strain, 0, 1);
      });
      for (let lane = 0; lane < LANES; lane++)
        fa[LANES * m + lane] += work(s, 0, withStrain, COMPONENTS * LANES * profile + lane, LANES);
    }
  }

  private integrate(kernel: ElasticKernel, at: PointAddresses, n: number, body: number): void {
    const local = kernel.f64(at.local, 3 * n);
    const weights = kernel.f64(at.weights, n);
    const strain = kernel.f64(at.strain, COMPONENTS * LANES * n);
    const g = kernel.f64(at.g, 60 * n);
    const { profile, withGradients, withProfiles, withStrain } = this;
    const nProfiles = profile.length;
    for (const sums of [withGradients, withProfiles, withStrain]) sums.fill(0);
    for (let p = 0; p < n; p++) {
      if (!weights[p]) continue;
      this.modes.profilesAt(local, 3 * p, body > 0, profile);
      for (let k = 0; k < nProfiles; k++) {
        const w = weights[p] * profile[k];
        for (let i = 0; i < 60; i++) withGradients[60 * k + i] += w * g[60 * p + i];
        for (let o = 0; o < nProfiles; o++) withProfiles[nProfiles * k + o] += w * profile[o];
        for (let i = 0; i < COMPONENTS * LANES; i++)
          withStrain[COMPONENTS * LANES * k + i] += w * strain[COMPONENTS * LANES * p + i];
      }
    }
  }

  condense(kernel: ElasticKernel, matrices: { K: number; f: number }): Jump {
    const n = this.modes.count;
    const Kua = Matrix.from1DArray(60, n, this.Kua);
    const Kaa = Matrix.from1DArray(n, n, this.Kaa);
    // Two directions share one shear, and a mode may do nothing: the shift leaves such modes at rest.
    const Kinv = inverse(Matrix.add(Kaa, Matrix.eye(n).mul(1e-9 * Kaa.trace())));
    const Q = Kinv.mmul(Kua.transpose());
    const ready = Kinv.mmul(Matrix.from1DArray(n, LANES, this.fa));
    const K = kernel.f64(matrices.K, 3600);
    const f = kernel.f64(matrices.f, 240);
    const less = Kua.mmul(Q);
    const lessLoad = Kua.mmul(ready);
    for (let r = 0; r < 60; r++) {
      for (let c = 0; c < 60; c++) K[60 * r + c] -= (less.get(r, c) + less.get(c, r)) / 2;
      for (let lane = 0; lane < LANES; lane++) f[LANES * r + lane] -= lessLoad.get(r, lane);
    }
    return { modes: this.modes, Q, ready };
  }
}

/** Stress of an isotropic solid for the strain at `from`. */
export function hooke(e: ArrayLike<number>, from: number, lambda: number, mu: number, out: Float64Array): void {
  const volume = lambda * (e[from] + e[from + 1] + e[from + 2]);
  for (let c = 0; c < COMPONENTS; c++) out[from + c] = 2 * mu * e[from + c] + (c < 3 ? volume : 0);
}

/** Stress at `k` times the strain whose components stand `stride` apart from `at` on. */
const work = (s: ArrayLike<number>, k: number, e: ArrayLike<number>, at: number, stride: number) =>
  s[k] * e[at] +
  s[k + 1] * e[at + stride] +
  s[k + 2] * e[at + 2 * stride] +
  2 * (s[k + 3] * e[at + 3 * stride] + s[k + 4] * e[at + 4 * stride] + s[k + 5] * e[at + 5 * stride]);
