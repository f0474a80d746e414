import { Matrix } from 'ml-matrix';
import type { Vec3 } from '../../geometry/mesh';
import { frameOn } from '../../geometry/vec';
import { cornerOf, locate, NODES_PER_ELEMENT, nodePlace, type StructureGrid } from '../../grid/structureGrid';
import { COMPONENTS, hooke, lame, LANES, shape, type Solid } from './elements';
import type { ElasticSolution } from './elastic';

/** Points of an element whose strains enter the fits. */
const SAMPLES = 12;
/** Reach of a fit over the edge of a cell. */
const REACH = 1.5;
const TERMS = 10;

/** Gradients (3 a node, 1/m) of the shape functions at a local place. */
export function shapeGradients(local: ArrayLike<number>, at: number, edges: Vec3, out: Float64Array): void {
  const x = [local[at], local[at + 1], local[at + 2]];
  for (let a = 0; a < NODES_PER_ELEMENT; a++) {
    const p = PLACES[a];
    const along = p.indexOf(0);
    for (let d = 0; d < 3; d++) {
      let g: number;
      if (along < 0) {
        const sum = p[0] * x[0] + p[1] * x[1] + p[2] * x[2];
        g = 0.125 * p[d] * (sum + p[d] * x[d] - 1);
        for (let o = 0; o < 3; o++) if (o !== d) g *= 1 + p[o] * x[o];
      } else {
        g = d === along ? -0.5 * x[d] : 0.25 * p[d] * (1 - x[along] ** 2);
        for (let o = 0; o < 3; o++) if (o !== d && o !== along) g *= 1 + p[o] * x[o];
      }
      out[3 * a + d] = (2 * g) / edges[d];
    }
  }
}
const PLACES = Array.from({ length: NODES_PER_ELEMENT }, (_, a) => nodePlace(a));

/** Displacement (3 x LANES, m) at a local place of an element. */
export function displacementAt(
  grid: StructureGrid,
  u: Float64Array,
  element: number,
  local: ArrayLike<number>,
  out: Float64Array,
): void {
  shape(local, functions);
  out.fill(0);
  for (let a = 0; a < NODES_PER_ELEMENT; a++) {
    const from = 3 * LANES * grid.nodes[NODES_PER_ELEMENT * element + a];
    for (let k = 0; k < 3 * LANES; k++) out[k] += functions[a] * u[from + k];
  }
}
const functions = new Float64Array(NODES_PER_ELEMENT);

/**
 * Total strain of the sum of all load cases, smoothed: a weighted quadratic in place through the strains of the
 * points around, of one body only. The raw strain of cut elements is ten times as rough.
 */
export class SmoothStrain {
  private readonly sampleStart: Int32Array;
  private readonly samplePlace: number[] = [];
  private readonly sampleStrain: number[] = [];
  private readonly elementsOfNode: number[][];
  private readonly fits = new Map<number, Float64Array | null>();
  private readonly terms = new Float64Array(TERMS);
  private readonly normal = new Float64Array(TERMS * TERMS);
  private readonly right = new Float64Array(TERMS * COMPONENTS);
  private readonly local = new Float64Array(3);

  constructor(
    private readonly grid: StructureGrid,
    private readonly solution: ElasticSolution,
    /** Body whose strain it is. */
    private readonly body: number,
  ) {
    this.sampleStart = new Int32Array(grid.nElements + 1);
    this.elementsOfNode = Array.from({ length: grid.nNodes }, () => []);
    for (let e = 0; e < grid.nElements; e++) {
      this.sample(e);
      this.sampleStart[e + 1] = this.samplePlace.length / 3;
      for (let a = 0; a < NODES_PER_ELEMENT; a++) this.elementsOfNode[grid.nodes[NODES_PER_ELEMENT * e + a]].push(e);
    }
  }

  /** Strain (xx yy zz xy yz xz) at a place [m]; false where there is no part. */
  at(p: Vec3, out: Float64Array): boolean {
    const element = locate(this.grid, p[0], p[1], p[2], this.local);
    if (element < 0) return false;
    let fit = this.fits.get(element);
    if (fit === undefined) this.fits.set(element, (fit = this.fit(element)));
    if (!fit) return false;
    const corner = cornerOf(this.grid.cellOf[element], this.grid.lattice);
    const [u, v, w] = p.map((x, d) => this.inCells(x, d) - corner[d] - 0.5);
    quadratic(u, v, w, this.terms);
    for (let k = 0; k < COMPONENTS; k++) {
      out[k] = 0;
      for (let t = 0; t < TERMS; t++) out[k] += fit[TERMS * k + t] * this.terms[t];
    }
    return true;
  }

  private inCells(x: number, d: number): number {
    const { origin, edges } = this.grid.lattice;
    return (x - origin[d]) / edges[d];
  }

  /** Strains at some of the element's points of the body. */
  private sample(e: number): void {
    const { grid, solution } = this;
    const { pointStart, body, local, lattice } = grid;
    const own: number[] = [];
    for (let p = pointStart[e]; p < pointStart[e + 1]; p++) if (body[p] === this.body) own.push(p);
    const corner = cornerOf(grid.cellOf[e], lattice);
    const jump = solution.jumps.get(e);
    const modes = jump ? new Float64Array(COMPONENTS * jump.modes.count) : null;
    const amplitudes = jump ? this.amplitudes(e) : null;
    const n = Math.min(SAMPLES, own.length);
    for (let s = 0; s < n; s++) {
      const p = own[Math.floor(((s + 0.5) * own.length) / n)];
      const strain = this.compatible(e, p);
      if (jump && modes && amplitudes) {
        jump.modes.at(local, 3 * p, this.body > 0, modes);
        for (let k = 0; k < COMPONENTS; k++)
          amplitudes.forEach((alpha, m) => (strain[k] += alpha * modes[COMPONENTS * m + k]));
      }
      for (let d = 0; d < 3; d++) this.samplePlace.push(corner[d] + (local[3 * p + d] + 1) / 2);
      this.sampleStrain.push(...strain);
    }
  }

  /** Strain of the displacements, all lanes together. */
  private compatible(e: number, point: number): number[] {
    const { grid, solution } = this;
    shapeGradients(grid.local, 3 * point, grid.lattice.edges, gradients);
    const H = new Array<number>(9).fill(0);
    for (let a = 0; a < NODES_PER_ELEMENT; a++) {
      const from = 3 * LANES * grid.nodes[NODES_PER_ELEMENT * e + a];
      for (let i = 0; i < 3; i++) {
        let u = 0;
        for (let lane = 0; lane < LANES; lane++) u += solution.displacement[from + LANES * i + lane];
        for (let j = 0; j < 3; j++) H[3 * i + j] += u * gradients[3 * a + j];
      }
    }
    return [H[0], H[4], H[8], (H[1] + H[3]) / 2, (H[5] + H[7]) / 2, (H[2] + H[6]) / 2];
  }

  private amplitudes(e: number): number[] {
    const { Q, ready } = this.solution.jumps.get(e)!;
    const u = Matrix.zeros(60, 1);
    for (let a = 0; a < NODES_PER_ELEMENT; a++)
      for (let i = 0; i < 3; i++) {
        const from = 3 * LANES * this.grid.nodes[NODES_PER_ELEMENT * e + a] + LANES * i;
        for (let lane = 0; lane < LANES; lane++)
          u.set(3 * a + i, 0, u.get(3 * a + i, 0) + this.solution.displacement[from + lane]);
      }
    const less = Q.mmul(u);
    return Array.from({ length: Q.rows }, (_, m) => {
      let sum = -less.get(m, 0);
      for (let lane = 0; lane < LANES; lane++) sum += ready.get(m, lane);
      return sum;
    });
  }

  private fit(element: number): Float64Array | null {
    const corner = cornerOf(this.grid.cellOf[element], this.grid.lattice);
    const near = new Set<number>();
    for (let a = 0; a < NODES_PER_ELEMENT; a++)
      for (const e of this.elementsOfNode[this.grid.nodes[NODES_PER_ELEMENT * element + a]]) near.add(e);
    const { normal: A, right: b, terms, samplePlace, sampleStrain } = this;
    A.fill(0);
    b.fill(0);
    let total = 0;
    for (const e of near)
      for (let s = this.sampleStart[e]; s < this.sampleStart[e + 1]; s++) {
        const u = samplePlace[3 * s] - corner[0] - 0.5;
        const v = samplePlace[3 * s + 1] - corner[1] - 0.5;
        const w = samplePlace[3 * s + 2] - corner[2] - 0.5;
        const r2 = (u * u + v * v + w * w) / REACH ** 2;
        if (r2 >= 1) continue;
        const weight = (1 - r2) ** 2;
        total += weight;
        quadratic(u, v, w, terms);
        for (let i = 0; i < TERMS; i++) {
          const wi = weight * terms[i];
          for (let j = 0; j <= i; j++) A[TERMS * i + j] += wi * terms[j];
          for (let k = 0; k < COMPONENTS; k++) b[TERMS * k + i] += wi * sampleStrain[COMPONENTS * s + k];
        }
      }
    if (!(total > 0)) return null;
    // Where points lie in a plane or on a line the higher terms are left at rest.
    for (let i = 1; i < TERMS; i++) A[TERMS * i + i] += (i < 4 ? 1e-9 : 1e-5) * total;
    return solveSymmetric(A, b);
  }
}

/** x of A x = b for COMPONENTS right sides by Cholesky; the lower half of A is overwritten. */
function solveSymmetric(A: Float64Array, b: Float64Array): Float64Array {
  for (let j = 0; j < TERMS; j++)
    for (let i = j; i < TERMS; i++) {
      let sum = A[TERMS * i + j];
      for (let k = 0; k < j; k++) sum -= A[TERMS * i + k] * A[TERMS * j + k];
      A[TERMS * i + j] = i === j ? Math.sqrt(sum) : sum / A[TERMS * j + j];
    }
  const x = b.slice();
  for (let c = 0; c < COMPONENTS; c++) {
    const at = TERMS * c;
    for (let i = 0; i < TERMS; i++) {
      for (let k = 0; k < i; k++) x[at + i] -= A[TERMS * i + k] * x[at + k];
      x[at + i] /= A[TERMS * i + i];
    }
    for (let i = TERMS - 1; i >= 0; i--) {
      for (let k = i + 1; k < TERMS; k++) x[at + i] -= A[TERMS * k + i] * x[at + k];
      x[at + i] /= A[TERMS * i + i];
    }
  }
  return x;
}
const gradients = new Float64Array(3 * NODES_PER_ELEMENT);

function quadratic(u: number, v: number, w: number, out: Float64Array): void {
  out[0] = 1;
  out[1] = u;
  out[2] = v;
  out[3] = w;
  out[4] = u * u;
  out[5] = v * v;
  out[6] = w * w;
  out[7] = u * v;
  out[8] = v * w;
  out[9] = u * w;
}

const INDEX = [
  [0, 3, 5],
  [3, 1, 4],
  [5, 4, 2],
];

/** Stress [Pa] of elastic strain with none across the direction n (plane stress): xx yy zz xy yz xz. */
export function planeStress(strain: ArrayLike<number>, n: Vec3, solid: Solid, out: Float64Array): void {
  const [t1, t2] = frameOn(n);
  const { young: E, poisson: nu } = solid;
  const along = (a: Vec3, b: Vec3) => {
    let sum = 0;
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) sum += a[i] * b[j] * strain[INDEX[i][j]];
    return sum;
  };
  const [e1, e2, e12] = [along(t1, t1), along(t2, t2), along(t1, t2)];
  const s1 = (E / (1 - nu * nu)) * (e1 + nu * e2);
  const s2 = (E / (1 - nu * nu)) * (e2 + nu * e1);
  const s12 = (E / (1 + nu)) * e12;
  for (let i = 0; i < 3; i++)
    for (let j = i; j < 3; j++)
      out[INDEX[i][j]] = s1 * t1[i] * t1[j] + s2 * t2[i] * t2[j] + s12 * (t1[i] * t2[j] + t2[i] * t1[j]);
}

/** Stress [Pa] of elastic strain in all directions. */
export function solidStress(strain: ArrayLike<number>, solid: Solid, out: Float64Array): void {
  const { lambda, mu } = lame(solid);
  hooke(strain, 0, lambda, mu, out);
}

/** von Mises stress of a tensor xx yy zz xy yz xz. */
export const vonMises = (s: ArrayLike<number>, at = 0): number =>
  Math.sqrt(
    0.5 * ((s[at] - s[at + 1]) ** 2 + (s[at + 1] - s[at + 2]) ** 2 + (s[at + 2] - s[at]) ** 2) +
      3 * (s[at + 3] ** 2 + s[at + 4] ** 2 + s[at + 5] ** 2),
  );
