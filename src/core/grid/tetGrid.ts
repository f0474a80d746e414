import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import type { Lattice } from './lattice';
import { crossingsOf } from './wallDistances';

/** Conforming tetrahedra: 3 coordinates (m) a vertex, 4 vertices an element, all of positive volume. */
export interface TetGrid {
  positions: Float64Array;
  tets: Int32Array;
}

/**
 * A mesher of another program: tetrahedra of about one edge [m] that keep the surfaces of the bodies; null where it
 * cannot.
 */
export type TetMesher = (
  bodies: readonly TriangleMesh[],
  edge: number,
  signal?: AbortSignal,
) => Promise<TetGrid | null>;

/** A vertex moves onto the surface when it is this near, by the length of its long and its short edges. */
const NEAR_LONG = 0.24999;
const NEAR_SHORT = 0.41189;
/** The box begins such a share of an edge below the part: faces then lie beside the vertices. */
const OFFSET: Vec3 = [0.5347, 0.5113, 0.5251];
/** Parts of a line inside two bodies that touch are one. */
const TOUCHING = 1e-6;

/** The four ways from a corner up to the middle of a cell: -1 or 1 along x and y over one step along z. */
const DIAGONALS = [
  [1, 1],
  [-1, 1],
  [1, -1],
  [-1, -1],
] as const;

/**
 * Tetrahedra of one size for closed surfaces: isosurface stuffing of a body-centred cubic lattice (Labelle & Shewchuk,
 * ACM Trans. Graph. 26 (2007) 57), with the true crossings of its edges in place of a level set. Plane and
 * curved walls are met exactly at the vertices, sharp edges are cut off by up to half an `edge` [m]. Walls thinner
 * than 0.7 `edge` may be lost. Bodies are taken together.
 */
export function stuffed(bodies: readonly TriangleMesh[], edge: number): TetGrid {
  return new Stuffing(bodies, edge).grid();
}

class Stuffing {
  private readonly lattice: Lattice;
  private readonly nCorners: number;
  private readonly nVertices: number;
  /** +1 inside, -1 outside, 0 moved onto the surface. */
  private readonly sign: Int8Array;
  /** 3 a vertex, in edges. */
  private readonly position: Float64Array;
  /** Ends of the edges that the surface cuts, and 3 coordinates a cut. */
  private readonly cutEnds: number[] = [];
  private readonly cutAt: number[] = [];
  /** Number of the cut by the ends of its edge. */
  private readonly cutOf = new Map<number, number>();

  constructor(bodies: readonly TriangleMesh[], edge: number) {
    const boxes = bodies.map((b) => boundsOf(b.positions));
    const min = [0, 1, 2].map((d) => Math.min(...boxes.map((b) => b.min[d])));
    const max = [0, 1, 2].map((d) => Math.max(...boxes.map((b) => b.max[d])));
    const origin = min.map((x, d) => x - (1 + OFFSET[d]) * edge) as Vec3;
    const [nx, ny, nz] = max.map((x, d) => Math.ceil((x - origin[d]) / edge) + 1);
    this.lattice = { origin, spacing: edge, nx, ny, nz };
    this.nCorners = (nx + 1) * (ny + 1) * (nz + 1);
    this.nVertices = this.nCorners + nx * ny * nz;
    this.sign = new Int8Array(this.nVertices).fill(-1);
    this.position = new Float64Array(3 * this.nVertices);
    for (let k = 0; k <= nz; k++)
      for (let j = 0; j <= ny; j++)
        for (let i = 0; i <= nx; i++) {
          this.position.set([i, j, k], 3 * this.corner(i, j, k));
          if (i < nx && j < ny && k < nz) this.position.set([i + 0.5, j + 0.5, k + 0.5], 3 * this.middle(i, j, k));
        }
    const scaled = bodies.map(({ positions, triangles }) => ({
      triangles,
      positions: positions.map((x, i) => (x - origin[i % 3]) / edge),
    }));
    this.markInside(scaled);
    this.cutAxes(scaled);
    this.cutDiagonals(scaled);
    this.moveOntoSurface();
  }

  private corner(i: number, j: number, k: number): number {
    const { nx, ny } = this.lattice;
    return i + (nx + 1) * (j + (ny + 1) * k);
  }

  private middle(i: number, j: number, k: number): number {
    const { nx, ny } = this.lattice;
    return this.nCorners + i + nx * (j + ny * k);
  }

  /** Calls `visit` with the solid along the lines of one axis through all corners (shift 0) or middles (0.5). */
  private along(
    bodies: readonly TriangleMesh[],
    axis: 0 | 1 | 2,
    shift: 0 | 0.5,
    visit: (vertex: (k: number) => number, count: number, from: number, to: number, place: Vec3) => void,
  ): void {
    const { nx, ny, nz } = this.lattice;
    const count = [nx, ny, nz].map((n) => (shift ? n : n + 1));
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const at: Vec3 = [0, 0, 0];
    const vertex = (k: number) => {
      at[axis] = k;
      return shift ? this.middle(...at) : this.corner(...at);
    };
    solidAlong(bodies, axis, count[u], count[v], shift, (column, row, from, to) => {
      at[u] = column;
      at[v] = row;
      visit(vertex, count[axis], from - shift, to - shift, at.map((x) => x + shift) as Vec3);
    });
  }

  private markInside(bodies: readonly TriangleMesh[]): void {
    for (const shift of [0, 0.5] as const)
      this.along(bodies, 2, shift, (vertex, count, from, to) => {
        for (let k = Math.max(0, Math.ceil(from)); k <= to && k < count; k++) this.sign[vertex(k)] = 1;
      });
  }

  /** Cuts of the long edges: corner to corner and middle to middle. */
  private cutAxes(bodies: readonly TriangleMesh[]): void {
    for (const shift of [0, 0.5] as const)
      for (const axis of [0, 1, 2] as const)
        this.along(bodies, axis, shift, (vertex, count, from, to, place) => {
          for (const end of [from, to]) {
            const low = Math.floor(end);
            if (low < 0 || low + 1 >= count) continue;
            place[axis] = end + shift;
            this.cut(vertex(low), vertex(low + 1), place);
          }
        });
  }

  /** Cuts of the edges between corners and middles: a shear lays the lines along one diagonal upright. */
  private cutDiagonals(bodies: readonly TriangleMesh[]): void {
    const { nx, ny, nz } = this.lattice;
    for (const [sx, sy] of DIAGONALS) {
      const low = [sx > 0 ? -nz : 0, sy > 0 ? -nz : 0];
      const sheared = bodies.map(({ positions: p, triangles }) => {
        const positions = p.slice();
        for (let v = 0; v < p.length; v += 3) {
          positions[v] -= sx * p[v + 2] + low[0];
          positions[v + 1] -= sy * p[v + 2] + low[1];
        }
        return { positions, triangles };
      });
      solidAlong(sheared, 2, nx + nz + 1, ny + nz + 1, 0, (column, row, from, to) => {
        for (const end of [from, to]) {
          // Half steps from a corner to a middle and on to the next corner.
          const half = Math.floor(2 * end);
          const place = (z: number): Vec3 => [column + low[0] + sx * z, row + low[1] + sy * z, z];
          const ends = [half / 2, (half + 1) / 2].map((z) => this.vertexAt(place(z)));
          if (ends[0] >= 0 && ends[1] >= 0) this.cut(ends[0], ends[1], place(end));
        }
      });
    }
  }

  private vertexAt([x, y, z]: Vec3): number {
    const { nx, ny, nz } = this.lattice;
    const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
    if (x === i) return i < 0 || j < 0 || k < 0 || i > nx || j > ny || k > nz ? -1 : this.corner(i, j, k);
    return i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? -1 : this.middle(i, j, k);
  }

  private cut(a: number, b: number, place: readonly number[]): void {
    // Two crossings on one edge are a wall too thin to be seen.
    if (this.sign[a] === this.sign[b]) return;
    const key = this.edge(a, b);
    if (this.cutOf.has(key)) return;
    this.cutOf.set(key, this.cutEnds.length / 2);
    this.cutEnds.push(a, b);
    this.cutAt.push(...place);
  }

  private edge(a: number, b: number): number {
    return a < b ? a * this.nVertices + b : b * this.nVertices + a;
  }

  /** Moves vertices that the surface passes nearby onto it; their edges are cut no more. */
  private moveOntoSurface(): void {
    const { cutEnds, cutAt, position, sign, nCorners } = this;
    const cutsOf = new Map<number, number[]>();
    for (let e = 0; e < cutEnds.length; e++) {
      const list = cutsOf.get(cutEnds[e]);
      if (list) list.push(e >> 1);
      else cutsOf.set(cutEnds[e], [e >> 1]);
    }
    const gone = new Uint8Array(cutEnds.length / 2);
    for (const vertex of [...cutsOf.keys()].sort((a, b) => a - b)) {
      const cuts = cutsOf.get(vertex)!;
      let best = -1;
      let least = 1;
      for (const c of cuts) {
        if (gone[c]) continue;
        const other = cutEnds[2 * c] === vertex ? cutEnds[2 * c + 1] : cutEnds[2 * c];
        const long = vertex < nCorners === other < nCorners;
        const near = long ? NEAR_LONG : NEAR_SHORT * Math.sqrt(0.75);
        const distance = Math.hypot(...[0, 1, 2].map((d) => cutAt[3 * c + d] - position[3 * vertex + d])) / near;
        if (distance >= least) continue;
        least = distance;
        best = c;
      }
      if (best < 0) continue;
      sign[vertex] = 0;
      for (let d = 0; d < 3; d++) position[3 * vertex + d] = cutAt[3 * best + d];
      for (const c of cuts) gone[c] = 1;
    }
  }

  grid(): TetGrid {
    const { lattice, position, cutAt, nVertices } = this;
    const number = new Map<number, number>();
    const positions: number[] = [];
    const tets: number[] = [];
    const numbered = (vertex: number): number => {
      let n = number.get(vertex);
      if (n === undefined) {
        number.set(vertex, (n = positions.length / 3));
        const from = vertex < nVertices ? position : cutAt;
        const at = 3 * (vertex < nVertices ? vertex : vertex - nVertices);
        for (let d = 0; d < 3; d++) positions.push(lattice.origin[d] + lattice.spacing * from[at + d]);
      }
      return n;
    };
    this.eachTet((a, b, c, d) => {
      for (const tet of this.inside([a, b, c, d])) {
        const [p, q, r, s] = tet.map(numbered);
        if (volumeOf(positions, p, q, r, s) > 0) tets.push(p, q, r, s);
        else tets.push(p, r, q, s);
      }
    });
    return { positions: Float64Array.from(positions), tets: Int32Array.from(tets) };
  }

  /** Every tetrahedron of the lattice with a vertex inside: two middles side by side and an edge of the face between. */
  private eachTet(visit: (a: number, b: number, c: number, d: number) => void): void {
    const { nx, ny, nz } = this.lattice;
    const size = [nx, ny, nz];
    const at: Vec3 = [0, 0, 0];
    for (let axis = 0; axis < 3; axis++) {
      const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
      for (let k = 1; k < size[axis]; k++)
        for (let j = 0; j < size[v]; j++)
          for (let i = 0; i < size[u]; i++) {
            const corners = [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 1],
            ].map(([du, dv]) => {
              at[axis] = k;
              at[u] = i + du;
              at[v] = j + dv;
              return this.corner(...at);
            });
            at[u] = i;
            at[v] = j;
            const above = this.middle(...at);
            at[axis] = k - 1;
            const below = this.middle(...at);
            for (let c = 0; c < 4; c++) {
              const [p, q] = [corners[c], corners[(c + 1) % 4]];
              if (Math.max(this.sign[above], this.sign[below], this.sign[p], this.sign[q]) > 0)
                visit(below, above, p, q);
            }
          }
    }
  }

  /** The solid of a tetrahedron as tetrahedra; numbers from `nVertices` on are cuts. */
  private inside(tet: readonly number[]): number[][] {
    const plus = tet.filter((v) => this.sign[v] > 0);
    const zero = tet.filter((v) => this.sign[v] === 0);
    const minus = tet.filter((v) => this.sign[v] < 0);
    if (!minus.length) return [[...tet]];
    if (plus.length === 1) return [[plus[0], ...zero, ...minus.map((m) => this.cutBetween(plus[0], m))]];
    const cuts = plus.map((p) => minus.map((m) => this.cutBetween(p, m)));
    if (plus.length === 3) return prism([...plus, ...cuts.map(([c]) => c)]);
    if (minus.length === 2) return prism([plus[0], ...cuts[0], plus[1], ...cuts[1]]);
    return pyramid(zero[0], [plus[0], plus[1], cuts[1][0], cuts[0][0]]);
  }

  /** The cut of an edge with one end inside; where rounding has lost it, its middle. */
  private cutBetween(inside: number, outside: number): number {
    const known = this.cutOf.get(this.edge(inside, outside));
    if (known !== undefined) return this.nVertices + known;
    const middle = [0, 1, 2].map((d) => (this.position[3 * inside + d] + this.position[3 * outside + d]) / 2);
    this.cut(inside, outside, middle);
    return this.nVertices + this.cutOf.get(this.edge(inside, outside))!;
  }
}

/** Calls `visit` with every part inside any of the bodies of the lines along `axis`, places and ends in edges. */
function solidAlong(
  bodies: readonly TriangleMesh[],
  axis: 0 | 1 | 2,
  nu: number,
  nv: number,
  shift: number,
  visit: (column: number, row: number, from: number, to: number) => void,
): void {
  const us = Float64Array.from({ length: nu }, (_, i) => i + shift);
  const vs = Float64Array.from({ length: nv }, (_, j) => j + shift);
  const lattice: Lattice = { origin: [0, 0, 0], spacing: 1, nx: 0, ny: 0, nz: 0 };
  const all = bodies.map((body) => crossingsOf(body, lattice, axis, us, vs));
  for (let line = 0; line < nu * nv; line++) {
    const parts: [number, number][] = [];
    for (const { start, at, sign } of all)
      for (let depth = 0, from = 0, c = start[line]; c < start[line + 1]; c++) {
        if (depth === 0) from = at[c];
        depth -= sign[c];
        if (depth === 0) parts.push([from, at[c]]);
      }
    parts.sort((a, b) => a[0] - b[0]);
    for (let p = 0; p < parts.length; p++) {
      const [from] = parts[p];
      let [, to] = parts[p];
      while (p + 1 < parts.length && parts[p + 1][0] < to + TOUCHING) to = Math.max(to, parts[++p][1]);
      visit(line % nu, Math.floor(line / nu), from, to);
    }
  }
}

/** Orders of the corners of a prism that bring each of them to the front (Dompierre et al., 8th IMR (1999) 195). */
const PRISM_ORDERS = [
  [0, 1, 2, 3, 4, 5],
  [1, 2, 0, 4, 5, 3],
  [2, 0, 1, 5, 3, 4],
  [3, 5, 4, 0, 2, 1],
  [4, 3, 5, 1, 0, 2],
  [5, 4, 3, 2, 1, 0],
];

/** Three tetrahedra of a prism; faces of four corners are split through the lowest number, so that neighbours agree. */
function prism(v: readonly number[]): number[][] {
  const [a, b, c, d, e, f] = PRISM_ORDERS[v.indexOf(Math.min(...v))].map((i) => v[i]);
  return Math.min(b, f) < Math.min(c, e)
    ? [
        [a, b, c, f],
        [a, b, f, e],
        [a, e, f, d],
      ]
    : [
        [a, b, c, e],
        [a, e, c, f],
        [a, e, f, d],
      ];
}

function pyramid(apex: number, base: readonly number[]): number[][] {
  const from = base.indexOf(Math.min(...base)) % 2;
  const [a, b, c, d] = [0, 1, 2, 3].map((i) => base[(i + from) % 4]);
  return [
    [apex, a, b, c],
    [apex, a, c, d],
  ];
}

/** Six times the volume of a tetrahedron of vertices a, b, c, d; negative when it is inside out. */
export function volumeOf(p: ArrayLike<number>, a: number, b: number, c: number, d: number): number {
  const v = (n: number, k: number) => p[3 * n + k] - p[3 * a + k];
  return (
    v(b, 0) * (v(c, 1) * v(d, 2) - v(c, 2) * v(d, 1)) -
    v(b, 1) * (v(c, 0) * v(d, 2) - v(c, 2) * v(d, 0)) +
    v(b, 2) * (v(c, 0) * v(d, 1) - v(c, 1) * v(d, 0))
  );
}

/** Middles of the edges of a tetrahedron, in the order of quadratic elements: nodes 4 to 9. */
export const TET_EDGES = [
  [0, 1],
  [1, 2],
  [2, 0],
  [0, 3],
  [1, 3],
  [2, 3],
] as const;

/** The same with nodes in the middles of edges: 10 nodes an element. */
export function quadratic({ positions, tets }: TetGrid): { positions: Float64Array; nodes: Int32Array } {
  const n = positions.length / 3;
  const middles = new Map<number, number>();
  const all = Array.from(positions);
  const nodes = new Int32Array((10 * tets.length) / 4);
  for (let t = 0; t < tets.length / 4; t++) {
    for (let c = 0; c < 4; c++) nodes[10 * t + c] = tets[4 * t + c];
    TET_EDGES.forEach(([i, j], e) => {
      const [a, b] = [tets[4 * t + i], tets[4 * t + j]];
      const key = Math.min(a, b) * n + Math.max(a, b);
      let m = middles.get(key);
      if (m === undefined) {
        middles.set(key, (m = all.length / 3));
        for (let d = 0; d < 3; d++) all.push((positions[3 * a + d] + positions[3 * b + d]) / 2);
      }
      nodes[10 * t + 4 + e] = m;
    });
  }
  return { positions: Float64Array.from(all), nodes };
}
