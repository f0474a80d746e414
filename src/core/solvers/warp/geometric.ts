import { NODES_PER_ELEMENT, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { StageContext } from '../../stage/context';
import {
  COMPONENTS,
  hooke,
  lame,
  LANES,
  lanesTogether,
  PAIRS,
  stressOf,
  type Solid,
  type StiffnessAt,
  type StrainAt,
} from './solid';
import { shapeGradients } from './stress';

/** Octants of the points of a body in a cell, about their middle. */
const OCTANTS = 8;
/** Elements between two looks at whether to stop. */
const CHUNK = 512;
const OWN = 3 * NODES_PER_ELEMENT;

/**
 * What large deflections add to the energy of a structure: with H = grad u, e = sym H - stress-free strain and
 * n = H^T H / 2, the energy of (e + n) less that of e (total Lagrangian, St. Venant-Kirchhoff; Bathe 1996, ch. 6). The
 * energy of e is that of the linear system, with all its points; this part changes slowly through a wall and is taken at
 * one point an octant of a cell, with the means of gradients and stress-free strain there: the energy of a mean is never above
 * the mean energy, so that the whole is bounded from below.
 */
export class GeometricModel {
  /** Points of element e: start[e] .. start[e + 1] - 1. */
  private readonly start: Int32Array;
  private readonly weight: Float64Array;
  /** Lame's constants, 2 a point; stress-free strain of small deflections, COMPONENTS a point; gradients, OWN a point. */
  private readonly constants: Float64Array;
  /** PAIRS a point where it has a stiffness of its own: their places by point, -1 elsewhere. */
  private readonly own: Float64Array;
  private readonly ownOf: Int32Array;
  private readonly free: Float64Array;
  /** That strain as Green's: of stretches 1 + strain. */
  private readonly green: Float64Array;
  private readonly gradients: Float64Array;

  private constructor(
    private readonly grid: StructureGrid,
    points: readonly Gathered[],
  ) {
    const n = points.length;
    this.start = new Int32Array(grid.nElements + 1);
    this.weight = new Float64Array(n);
    this.constants = new Float64Array(2 * n);
    this.free = new Float64Array(COMPONENTS * n);
    this.green = new Float64Array(COMPONENTS * n);
    this.gradients = new Float64Array(OWN * n);
    const squared = new Float64Array(COMPONENTS);
    this.ownOf = new Int32Array(n).fill(-1);
    this.own = new Float64Array(PAIRS * points.filter((p) => p.stiffness).length);
    let owners = 0;
    points.forEach(({ element, weight, gradients, free, lambda, mu, stiffness }, p) => {
      this.start[element + 1] = p + 1;
      this.weight[p] = weight;
      this.constants.set([lambda, mu], 2 * p);
      if (stiffness) {
        this.ownOf[p] = PAIRS * owners++;
        this.own.set(stiffness, this.ownOf[p]);
      }
      this.free.set(free, COMPONENTS * p);
      const [xx, yy, zz, xy, yz, xz] = free;
      const tensor = Float64Array.of(xx, xy, xz, xy, yy, yz, xz, yz, zz);
      product(tensor, tensor, 0.5, squared);
      for (let c = 0; c < COMPONENTS; c++) this.green[COMPONENTS * p + c] = free[c] + squared[c];
      this.gradients.set(gradients, OWN * p);
    });
    for (let e = 0; e < grid.nElements; e++) this.start[e + 1] = Math.max(this.start[e + 1], this.start[e]);
  }

  static async of(
    grid: StructureGrid,
    solids: readonly Solid[],
    strainAt: StrainAt,
    ctx: StageContext,
    stiffnessAt?: StiffnessAt,
  ): Promise<GeometricModel> {
    const points: Gathered[] = [];
    for (let e = 0; e < grid.nElements; e++) {
      if (e % CHUNK === 0) await ctx.checkpoint();
      points.push(...gathered(grid, { solids, strainAt, stiffnessAt }, e));
    }
    return new GeometricModel(grid, points);
  }

  /**
   * Energy that is added along u + a p: coefficients of a, a^2, a^3 and a^4, J. Vectors have 3 numbers a node.
   */
  along(u: Float64Array, p: Float64Array): [number, number, number, number] {
    const { grid, start, weight, free, green } = this;
    const sums: [number, number, number, number] = [0, 0, 0, 0];
    const [ue, pe] = [new Float64Array(OWN), new Float64Array(OWN)];
    const [H, Q] = [new Float64Array(9), new Float64Array(9)];
    const [e0, e1, e2, linear, step, s0, s1, s2, own] = Array.from({ length: 9 }, () => new Float64Array(COMPONENTS));
    for (let e = 0; e < grid.nElements; e++) {
      this.gather(e, u, ue);
      this.gather(e, p, pe);
      for (let k = start[e]; k < start[e + 1]; k++) {
        this.gradient(k, ue, H);
        this.gradient(k, pe, Q);
        symmetric(H, linear);
        symmetric(Q, step);
        product(H, H, 0.5, e0);
        product(H, Q, 1, e1);
        product(Q, Q, 0.5, e2);
        for (let c = 0; c < COMPONENTS; c++) {
          e0[c] += linear[c] - green[COMPONENTS * k + c];
          linear[c] -= free[COMPONENTS * k + c];
          e1[c] += step[c];
        }
        this.stress(k, e0, s0);
        this.stress(k, e1, s1);
        this.stress(k, e2, s2);
        const w = weight[k];
        this.stress(k, linear, own);
        sums[0] += w * (doubled(s0, e1) - doubled(own, step));
        this.stress(k, step, own);
        sums[1] += w * (0.5 * doubled(s1, e1) + doubled(s0, e2) - 0.5 * doubled(own, step));
        sums[2] += w * doubled(s1, e2);
        sums[3] += 0.5 * w * doubled(s2, e2);
      }
    }
    return sums;
  }

  /** Adds the gradient of the added energy at u, N, to `out`: 3 numbers a node. */
  addForces(u: Float64Array, out: Float64Array): void {
    const { grid, start, weight, free, green } = this;
    const ue = new Float64Array(OWN);
    const fe = new Float64Array(OWN);
    const H = new Float64Array(9);
    const [strain, linear, S, sigma] = Array.from({ length: 4 }, () => new Float64Array(COMPONENTS));
    const P = new Float64Array(9);
    for (let e = 0; e < grid.nElements; e++) {
      this.gather(e, u, ue);
      fe.fill(0);
      for (let k = start[e]; k < start[e + 1]; k++) {
        this.gradient(k, ue, H);
        symmetric(H, linear);
        product(H, H, 0.5, strain);
        for (let c = 0; c < COMPONENTS; c++) {
          strain[c] += linear[c] - green[COMPONENTS * k + c];
          linear[c] -= free[COMPONENTS * k + c];
        }
        this.stress(k, strain, S);
        this.stress(k, linear, sigma);
        // F S - sigma, F = 1 + H.
        for (let i = 0; i < 3; i++)
          for (let d = 0; d < 3; d++) {
            let sum = S[AT[3 * i + d]] - sigma[AT[3 * i + d]];
            for (let m = 0; m < 3; m++) sum += H[3 * i + m] * S[AT[3 * m + d]];
            P[3 * i + d] = weight[k] * sum;
          }
        const { gradients } = this;
        const from = OWN * k;
        for (let a = 0; a < OWN; a += 3) {
          const gx = gradients[from + a];
          const gy = gradients[from + a + 1];
          const gz = gradients[from + a + 2];
          fe[a] += P[0] * gx + P[1] * gy + P[2] * gz;
          fe[a + 1] += P[3] * gx + P[4] * gy + P[5] * gz;
          fe[a + 2] += P[6] * gx + P[7] * gy + P[8] * gz;
        }
      }
      for (let a = 0; a < NODES_PER_ELEMENT; a++) {
        const to = 3 * grid.nodes[NODES_PER_ELEMENT * e + a];
        for (let i = 0; i < 3; i++) out[to + i] += fe[3 * a + i];
      }
    }
  }

  /**
   * Minus the geometric stiffness of the stress at linear displacements u (3 numbers a node): y = -K_s x, vectors of
   * 3 x LANES numbers a node.
   */
  softening(u: Float64Array): (x: Float64Array, y: Float64Array) => void {
    const { grid, start, weight, free, gradients } = this;
    const n = NODES_PER_ELEMENT;
    const matrices = new Float64Array(n * n * grid.nElements);
    const ue = new Float64Array(OWN);
    const H = new Float64Array(9);
    const [strain, S] = [new Float64Array(COMPONENTS), new Float64Array(COMPONENTS)];
    for (let e = 0; e < grid.nElements; e++) {
      this.gather(e, u, ue);
      for (let k = start[e]; k < start[e + 1]; k++) {
        this.gradient(k, ue, H);
        symmetric(H, strain);
        for (let c = 0; c < COMPONENTS; c++) strain[c] -= free[COMPONENTS * k + c];
        this.stress(k, strain, S);
        for (let a = 0; a < n; a++) {
          const g = OWN * k + 3 * a;
          const [x, y, z] = [gradients[g], gradients[g + 1], gradients[g + 2]];
          const t = [
            weight[k] * (S[0] * x + S[3] * y + S[5] * z),
            weight[k] * (S[3] * x + S[1] * y + S[4] * z),
            weight[k] * (S[5] * x + S[4] * y + S[2] * z),
          ];
          for (let b = 0; b < n; b++) {
            const h = OWN * k + 3 * b;
            matrices[n * (n * e + a) + b] -= t[0] * gradients[h] + t[1] * gradients[h + 1] + t[2] * gradients[h + 2];
          }
        }
      }
    }
    return (x, y) => {
      y.fill(0);
      for (let e = 0; e < grid.nElements; e++)
        for (let a = 0; a < n; a++) {
          const to = 3 * LANES * grid.nodes[n * e + a];
          for (let b = 0; b < n; b++) {
            const k = matrices[n * (n * e + a) + b];
            const from = 3 * LANES * grid.nodes[n * e + b];
            for (let d = 0; d < 3 * LANES; d++) y[to + d] += k * x[from + d];
          }
        }
    };
  }

  /** Stress of a strain at point k. */
  private stress(k: number, strain: Float64Array, out: Float64Array): void {
    const own = this.ownOf[k];
    if (own >= 0) return stressOf(this.own, own, strain, out);
    out.set(strain);
    hooke(out, 0, this.constants[2 * k], this.constants[2 * k + 1], out);
  }

  private gather(e: number, u: Float64Array, out: Float64Array): void {
    const { nodes } = this.grid;
    for (let a = 0; a < NODES_PER_ELEMENT; a++) {
      const from = 3 * nodes[NODES_PER_ELEMENT * e + a];
      out[3 * a] = u[from];
      out[3 * a + 1] = u[from + 1];
      out[3 * a + 2] = u[from + 2];
    }
  }

  /** grad u at a point: row i has the derivatives of component i. */
  private gradient(k: number, ue: Float64Array, out: Float64Array): void {
    const { gradients } = this;
    const from = OWN * k;
    let [xx, xy, xz, yx, yy, yz, zx, zy, zz] = NINE;
    for (let a = 0; a < OWN; a += 3) {
      const gx = gradients[from + a];
      const gy = gradients[from + a + 1];
      const gz = gradients[from + a + 2];
      const ux = ue[a];
      const uy = ue[a + 1];
      const uz = ue[a + 2];
      xx += ux * gx;
      xy += ux * gy;
      xz += ux * gz;
      yx += uy * gx;
      yy += uy * gy;
      yz += uy * gz;
      zx += uz * gx;
      zy += uz * gy;
      zz += uz * gz;
    }
    out[0] = xx;
    out[1] = xy;
    out[2] = xz;
    out[3] = yx;
    out[4] = yy;
    out[5] = yz;
    out[6] = zx;
    out[7] = zy;
    out[8] = zz;
  }
}

const NINE = [0, 0, 0, 0, 0, 0, 0, 0, 0];

/** Points of an element in one octant and one body, as one: means of gradients and stress-free strain. */
interface Gathered {
  element: number;
  weight: number;
  gradients: Float64Array;
  free: Float64Array;
  lambda: number;
  mu: number;
  /** PAIRS; null: as Lame's constants say. */
  stiffness: Float64Array | null;
}

interface Materials {
  solids: readonly Solid[];
  strainAt: StrainAt;
  stiffnessAt?: StiffnessAt;
}

function gathered(grid: StructureGrid, { solids, strainAt, stiffnessAt }: Materials, element: number): Gathered[] {
  const { lattice, pointStart, local, weight, body } = grid;
  const corner = cornerOf(grid.cellOf[element], lattice);
  const strain = new Float64Array(COMPONENTS * LANES);
  const g = new Float64Array(OWN);
  const own = new Float64Array(PAIRS);
  const middle = middlesOf(grid, element);
  const found = new Map<number, Gathered>();
  for (let p = pointStart[element]; p < pointStart[element + 1]; p++) {
    const place = [0, 1, 2].map((d) => local[3 * p + d]);
    const above = place.map((s, d) => (s > middle[4 * body[p] + d] ? 1 << d : 0));
    const key = OCTANTS * body[p] + above[0] + above[1] + above[2];
    let group = found.get(key);
    if (!group) {
      const empty = { gradients: new Float64Array(OWN), free: new Float64Array(COMPONENTS) };
      found.set(key, (group = { element, weight: 0, ...empty, ...lame(solids[body[p]]), stiffness: null }));
    }
    const [x, y, z] = place.map((s, d) => lattice.origin[d] + lattice.edges[d] * (corner[d] + (s + 1) / 2));
    strainAt(x, y, z, body[p], strain);
    shapeGradients(local, 3 * p, lattice.edges, g);
    group.weight += weight[p];
    if (stiffnessAt?.(x, y, z, body[p], own)) {
      const sum = (group.stiffness ??= new Float64Array(PAIRS));
      for (let k = 0; k < PAIRS; k++) sum[k] += weight[p] * own[k];
    }
    for (let k = 0; k < OWN; k++) group.gradients[k] += weight[p] * g[k];
    for (let c = 0; c < COMPONENTS; c++) group.free[c] += weight[p] * lanesTogether(strain, c);
  }
  const groups = [...found.values()];
  for (const { weight: w, gradients, free, stiffness } of groups) {
    stiffness?.forEach((c, k) => (stiffness[k] = c / w));
    for (let k = 0; k < OWN; k++) gradients[k] /= w;
    for (let c = 0; c < COMPONENTS; c++) free[c] /= w;
  }
  return groups;
}

/** Middle of the points of every body in an element, local: 4 numbers a body, the last its weight. */
function middlesOf({ pointStart, local, weight, body }: StructureGrid, element: number): number[] {
  const sums: number[] = [];
  for (let p = pointStart[element]; p < pointStart[element + 1]; p++) {
    const at = 4 * body[p];
    while (sums.length < at + 4) sums.push(0);
    for (let d = 0; d < 3; d++) sums[at + d] += weight[p] * local[3 * p + d];
    sums[at + 3] += weight[p];
  }
  return sums.map((v, k) => (k % 4 < 3 ? v / sums[4 * Math.floor(k / 4) + 3] : v));
}

/** Component (xx yy zz xy yz xz) of a symmetric tensor at row i, column j: 3 i + j. */
const AT = [0, 3, 5, 3, 1, 4, 5, 4, 2];

function symmetric(H: Float64Array, out: Float64Array): void {
  out[0] = H[0];
  out[1] = H[4];
  out[2] = H[8];
  out[3] = (H[1] + H[3]) / 2;
  out[4] = (H[5] + H[7]) / 2;
  out[5] = (H[2] + H[6]) / 2;
}

/** Column d of A times column f of B. */
const column = (A: Float64Array, B: Float64Array, d: number, f: number): number =>
  A[d] * B[f] + A[3 + d] * B[3 + f] + A[6 + d] * B[6 + f];

/** out = factor sym(A^T B). */
function product(A: Float64Array, B: Float64Array, factor: number, out: Float64Array): void {
  const half = factor / 2;
  out[0] = factor * column(A, B, 0, 0);
  out[1] = factor * column(A, B, 1, 1);
  out[2] = factor * column(A, B, 2, 2);
  out[3] = half * (column(A, B, 0, 1) + column(A, B, 1, 0));
  out[4] = half * (column(A, B, 1, 2) + column(A, B, 2, 1));
  out[5] = half * (column(A, B, 0, 2) + column(A, B, 2, 0));
}

/** s : e of two symmetric tensors. */
const doubled = (s: Float64Array, e: Float64Array): number =>
  s[0] * e[0] + s[1] * e[1] + s[2] * e[2] + 2 * (s[3] * e[3] + s[4] * e[4] + s[5] * e[5]);
