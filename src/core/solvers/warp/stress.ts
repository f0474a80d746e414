import { Matrix } from 'ml-matrix';
import type { TriangleMesh, Vec3 } from '../../geometry/mesh';
import { cross, dot, SYMMETRIC } from '../../geometry/vec';
import { elementsOfNodes, locate, NODES_PER_ELEMENT, nodePlace, type StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import { shape } from './elements';
import { solve6 } from '../../material/fibres/stiffness';
import { PLACE } from '../../material/fibres/tensor';
import { COMPONENTS, LANES, lanesTogether, stressOf } from './solid';
import type { ElasticSolution } from './elastic';
import { ElasticKernel } from './kernel';

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

/** Surface points are read this far inside, in cells. */
const INSET = 1e-3;

/** The place [m] below vertex v of a surface where what it carries is read, or so deep. */
export function below(
  { lattice }: StructureGrid,
  positions: ArrayLike<number>,
  normals: ArrayLike<number>,
  v: number,
  depth = INSET * lattice.edges[0],
): Vec3 {
  return [0, 1, 2].map((d) => positions[3 * v + d] - depth * normals[3 * v + d]) as Vec3;
}

/** Displacement of all load cases together at the vertices of a surface, 3 each [m]; NaN where there is no cell. */
export function surfaceDisplacement(
  grid: StructureGrid,
  u: Float64Array,
  { positions }: TriangleMesh,
  normals: Float64Array,
): Float32Array {
  const out = new Float32Array(positions.length).fill(NaN);
  const local = new Float64Array(3);
  const there = new Float64Array(3 * LANES);
  for (let v = 0; v < out.length / 3; v++) {
    const element = locate(grid, ...below(grid, positions, normals, v), local);
    if (element < 0) continue;
    displacementAt(grid, u, element, local, there);
    for (let d = 0; d < 3; d++) out[3 * v + d] = lanesTogether(there, d);
  }
  return out;
}

/**
 * Total strain of the sum of all load cases, smoothed: a weighted quadratic in place through the strains of the
 * points around, of one body only. The raw strain of cut elements is ten times as rough.
 */
export class SmoothStrain {
  private readonly sampleStart: Int32Array;
  /** 3 a sample, in cells, and 6. */
  private readonly samplePlace: Float64Array;
  private readonly sampleStrain: Float64Array;
  /** Displacement of the sum of all load cases, 3 a node. */
  private readonly displacement: Float64Array;
  /** TERMS a component, COMPONENTS an element: NaN where no point of the body is around. */
  private readonly fits: Float64Array;
  private readonly terms = new Float64Array(TERMS);
  private readonly local = new Float64Array(3);

  constructor(
    private readonly grid: StructureGrid,
    private readonly solution: ElasticSolution,
    /** Body whose strain it is. */
    private readonly body: number,
  ) {
    const { nElements, nNodes, pointStart } = grid;
    this.displacement = Float64Array.from({ length: 3 * nNodes }, (_, i) => lanesTogether(solution.displacement, i));
    this.sampleStart = new Int32Array(nElements + 1);
    for (let e = 0; e < nElements; e++) {
      let own = 0;
      // Along an insert's edge strain has a peak no fit follows: its cells would bend those around.
      const edge = body === 0 && (grid.interfaces.get(e)?.length ?? 0) > 1;
      for (let p = pointStart[e]; p < pointStart[e + 1]; p++) if (grid.body[p] === body && !edge) own++;
      this.sampleStart[e + 1] = this.sampleStart[e] + Math.min(SAMPLES, own);
    }
    const n = this.sampleStart[nElements];
    this.samplePlace = new Float64Array(3 * n);
    this.sampleStrain = new Float64Array(COMPONENTS * n);
    for (let e = 0; e < nElements; e++) this.sample(e);
    this.fits = this.fitted();
  }

  /** The fits of all elements, by the kernel. */
  private fitted(): Float64Array {
    const { grid, sampleStart, samplePlace, sampleStrain } = this;
    const { nElements, nodes } = grid;
    const { start, elements } = elementsOfNodes(grid);
    const corners = Float64Array.from({ length: 3 * nElements }, (_, i) => elementCorner(grid, i));
    const kernel = new ElasticKernel();
    const given = [nodes, start, elements, sampleStart, samplePlace, sampleStrain, corners].map((a) => kernel.put(a));
    const length = COMPONENTS * TERMS * nElements;
    const fits = kernel.allocate(8 * length);
    const scratch = kernel.allocate(8 * (TERMS * (TERMS + COMPONENTS + 1) + 6));
    const seen = kernel.put(new Int32Array(nElements).fill(-1));
    kernel.run.fitStrains(0, nElements, kernel.put(Int32Array.of(...given, fits)), REACH, scratch, seen);
    return kernel.f64(fits, length).slice();
  }

  /** Strain (xx yy zz xy yz xz) at a place [m]; false where there is no part. */
  at(p: Vec3, out: Float64Array): boolean {
    const element = locate(this.grid, p[0], p[1], p[2], this.local);
    if (element < 0) return false;
    const { fits } = this;
    const at = COMPONENTS * TERMS * element;
    if (Number.isNaN(fits[at])) return false;
    const corner = cornerOf(this.grid.cellOf[element], this.grid.lattice);
    const [u, v, w] = p.map((x, d) => this.inCells(x, d) - corner[d] - 0.5);
    quadratic(u, v, w, this.terms);
    for (let k = 0; k < COMPONENTS; k++) {
      out[k] = 0;
      for (let t = 0; t < TERMS; t++) out[k] += fits[at + TERMS * k + t] * this.terms[t];
    }
    return true;
  }

  private inCells(x: number, d: number): number {
    const { origin, edges } = this.grid.lattice;
    return (x - origin[d]) / edges[d];
  }

  /** Strains at some of the element's points of the body. */
  private sample(e: number): void {
    const { grid, solution, sampleStart, samplePlace, sampleStrain } = this;
    const { pointStart, body, local, lattice } = grid;
    const own: number[] = [];
    for (let p = pointStart[e]; p < pointStart[e + 1]; p++) if (body[p] === this.body) own.push(p);
    const corner = cornerOf(grid.cellOf[e], lattice);
    const jump = solution.jumps.get(e);
    const amplitudes = jump ? this.amplitudes(e) : null;
    const n = sampleStart[e + 1] - sampleStart[e];
    for (let s = 0; s < n; s++) {
      const p = own[Math.floor(((s + 0.5) * own.length) / n)];
      const at = sampleStart[e] + s;
      this.compatible(e, p, COMPONENTS * at);
      if (jump && amplitudes)
        jump.modes.addStrain(local, 3 * p, this.body > 0, amplitudes, sampleStrain, COMPONENTS * at);
      for (let d = 0; d < 3; d++) samplePlace[3 * at + d] = corner[d] + (local[3 * p + d] + 1) / 2;
    }
  }

  /** Writes the strain of the displacements. */
  private compatible(e: number, point: number, to: number): void {
    const { grid, displacement: u, sampleStrain: out } = this;
    shapeGradients(grid.local, 3 * point, grid.lattice.edges, gradients);
    for (let k = 0; k < COMPONENTS; k++) out[to + k] = 0;
    for (let a = 0; a < NODES_PER_ELEMENT; a++) {
      const from = 3 * grid.nodes[NODES_PER_ELEMENT * e + a];
      const [ux, uy, uz] = [u[from], u[from + 1], u[from + 2]];
      const [gx, gy, gz] = [gradients[3 * a], gradients[3 * a + 1], gradients[3 * a + 2]];
      out[to] += ux * gx;
      out[to + 1] += uy * gy;
      out[to + 2] += uz * gz;
      out[to + 3] += (ux * gy + uy * gx) / 2;
      out[to + 4] += (uy * gz + uz * gy) / 2;
      out[to + 5] += (ux * gz + uz * gx) / 2;
    }
  }

  private amplitudes(e: number): number[] {
    const { Q, ready } = this.solution.jumps.get(e)!;
    const u = Matrix.zeros(60, 1);
    for (let a = 0; a < NODES_PER_ELEMENT; a++)
      for (let i = 0; i < 3; i++)
        u.set(3 * a + i, 0, this.displacement[3 * this.grid.nodes[NODES_PER_ELEMENT * e + a] + i]);
    const less = Q.mmul(u);
    return Array.from({ length: Q.rows }, (_, m) => {
      return lanesTogether(ready.getRow(m), 0) - less.get(m, 0);
    });
  }
}

/** Coordinate i % 3 of the lower corner of an element's cell, in cells. */
const elementCorner = (grid: StructureGrid, i: number) => cornerOf(grid.cellOf[Math.floor(i / 3)], grid.lattice)[i % 3];

const gradients = new Float64Array(3 * NODES_PER_ELEMENT);

/** Terms of a full quadratic, in the order of the kernel. */
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

/**
 * Stress [Pa] of elastic strain with none across the direction n (plane stress): xx yy zz xy yz xz. `C`: 6 x 6. The strain across
 * n and its shear, sym(n v), are those that leave the face without a load.
 */
export function planeStress(strain: ArrayLike<number>, n: Vec3, C: Float64Array, out: Float64Array): void {
  const add = new Float64Array(COMPONENTS);
  const traction = (s: ArrayLike<number>) =>
    [0, 3, 6].map((r) => s[PLACE[r]] * n[0] + s[PLACE[r + 1]] * n[1] + s[PLACE[r + 2]] * n[2]);
  const A = new Float64Array(9);
  for (let j = 0; j < 3; j++) {
    for (let i = 0; i < 3; i++)
      for (let k = i; k < 3; k++) add[PLACE[3 * i + k]] = ((k === j ? n[i] : 0) + (i === j ? n[k] : 0)) / 2;
    stressOf(C, 0, add, out);
    traction(out).forEach((t, i) => (A[3 * i + j] = t));
  }
  stressOf(C, 0, strain, out);
  const v = solve3(A, traction(out));
  for (let i = 0; i < 3; i++)
    for (let k = i; k < 3; k++) add[PLACE[3 * i + k]] = strain[PLACE[3 * i + k]] - (n[i] * v[k] + n[k] * v[i]) / 2;
  stressOf(C, 0, add, out);
}

/** Solution of a system of three equations by Cramer's rule. */
function solve3(A: ArrayLike<number>, b: readonly number[]): Vec3 {
  const [a, c, d] = [0, 1, 2].map((j): Vec3 => [A[j], A[3 + j], A[6 + j]]);
  const whole = dot(a, cross(c, d));
  const r = b as unknown as Vec3;
  return [dot(r, cross(c, d)) / whole, dot(a, cross(r, d)) / whole, dot(a, cross(c, r)) / whole];
}

/** Stress [Pa] of elastic strain along a direction where faces on either side bear none; none where it is 0. */
export function lineStress(strain: ArrayLike<number>, along: Vec3, C: Float64Array, out: Float64Array): void {
  let stretch = 0;
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) stretch += along[i] * along[j] * strain[PLACE[3 * i + j]];
  if (!along[0] && !along[1] && !along[2]) return void out.fill(0);
  const young = youngAlong(C, along);
  for (let i = 0; i < 3; i++) for (let j = i; j < 3; j++) out[PLACE[3 * i + j]] = young * stretch * along[i] * along[j];
}

/** Young's modulus [Pa] of a stiffness (6 x 6) along a unit direction. */
export function youngAlong(C: Float64Array, along: Vec3): number {
  const dyad = SYMMETRIC.map(([i, j]) => along[i] * along[j]);
  const strain = solve6(C, dyad);
  return 1 / dyad.reduce((sum, d, k) => sum + (k < 3 ? 1 : 2) * d * strain[k], 0);
}

/** von Mises stress of a tensor xx yy zz xy yz xz. */
export const vonMises = (s: ArrayLike<number>, at = 0): number =>
  Math.sqrt(
    0.5 * ((s[at] - s[at + 1]) ** 2 + (s[at + 1] - s[at + 2]) ** 2 + (s[at + 2] - s[at]) ** 2) +
      3 * (s[at + 3] ** 2 + s[at + 4] ** 2 + s[at + 5] ** 2),
  );
