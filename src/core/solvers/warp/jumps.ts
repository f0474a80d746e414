import { Matrix, inverse } from 'ml-matrix';
import { NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import type { Vec3 } from '../../geometry/mesh';
import { frameOn } from '../../geometry/vec';
import type { ElasticKernel } from './kernel';
import { COMPONENTS, LANES, work } from './solid';

/** What the jump modes of an element amount to: alpha = ready - Q u, n x 4 and n x 60 for n modes. */
export interface Jump {
  modes: JumpModes;
  Q: Matrix;
  ready: Matrix;
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

/** Stress of a strain, in what a body is made of. */
export type StressOf = (strain: ArrayLike<number>, out: Float64Array) => void;

/** Addresses of laid out points and of the gradients there. */
export interface PointAddresses {
  local: number;
  weights: number;
  strain: number;
  g: number;
}

/**
 * Integrals over the jump modes of one element, and their static condensation. A mode is a constant tensor times one
 * of a few profiles, so that only the profiles are integrated.
 */
export class JumpTerms {
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

  add(kernel: ElasticKernel, at: PointAddresses, n: number, body: number, stress: StressOf): void {
    this.integrate(kernel, at, n, body);
    const { Kua, Kaa, fa, withGradients: g, withProfiles, withStrain } = this;
    const { modes, count, profileCount } = this.modes;
    const s = new Float64Array(COMPONENTS);
    for (let m = 0; m < count; m++) {
      const { strain, profile } = modes[m];
      stress(strain, s);
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
