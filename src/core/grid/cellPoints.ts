import { facet } from '../geometry/edges';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { eigen } from '../geometry/vec';
import { UnionFind } from '../numerics/unionFind';
import { cutCells } from './cutCells';
import type { Lattice } from './lattice';
import { crossingsOf, type LineCrossings } from './wallDistances';

/** Rays across a cell that the surface cuts through, and across one in which no ray misses. */
export const CUT_RAYS = 10;
const GAUSS4 = [0.0694318442029737, 0.3300094782075719, 0.6699905217924281, 0.9305681557970263];
const GAUSS4_WEIGHT = [0.1739274225687269, 0.3260725774312731, 0.3260725774312731, 0.1739274225687269];
const GAUSS3 = [0.1127016653792583, 0.5, 0.8872983346207417];
const GAUSS3_WEIGHT = [5 / 18, 4 / 9, 5 / 18];
/** Bodies nearer than this share of a cell touch. */
const TOUCHING = 0.02;
/** Shorter parts of a ray are rounding. */
const NOTHING = 1e-7;
/** Ends of rays that are off a plane by less lie on it. */
const SAME = 1e-6;
/** Slope of a face against the cell above which fewer rays would not do. */
const LEANING = 0.1;
/** An interface bends in a cell when its area the other way is more than this share. */
const SECOND = 0.01;
/** A volume by rays that is farther off is not a matter of edges. */
const LARGEST_BIAS = 2;

/** One connected piece of solid in one cell with the points its integrals are taken at. */
export interface CellPiece {
  /** 3 coordinates a point in the cell, -1..1. */
  local: number[];
  /** Share of the cell's volume a point stands for. */
  weight: number[];
  /** Number of the body each point lies in. */
  body: number[];
  /** Share of the cell that the piece fills. */
  fill: number;
}

interface Rays {
  places: Float64Array[];
  lines: LineCrossings[][];
}

/**
 * Integration points of the bodies on a lattice, cell by cell: rays along the axis that the surface in the
 * cell crosses most, clipped to every body, three Gauss points on every inside interval. Later bodies take
 * precedence where bodies overlap. Pieces of a cell that do not touch are kept apart.
 */
export class CellPoints {
  private readonly cut: Rays;
  private readonly whole: Rays;
  private readonly crossed: Int32Array;
  private readonly volumes: Float64Array[];

  constructor(
    private readonly bodies: readonly TriangleMesh[],
    private readonly lattice: Lattice,
  ) {
    this.crossed = new Int32Array(3 * lattice.nx * lattice.ny * lattice.nz);
    const even = Array.from({ length: CUT_RAYS }, (_, r) => (r + 0.5) / CUT_RAYS);
    this.cut = this.rays(even);
    this.whole = this.rays(GAUSS4);
    this.countCrossings();
    this.volumes = bodies.map((mesh) => cutCells(mesh, lattice).volume);
  }

  private rays(places: readonly number[]): Rays {
    const size = [this.lattice.nx, this.lattice.ny, this.lattice.nz];
    const at = size.map((n) =>
      Float64Array.from(
        { length: n * places.length },
        (_, i) => Math.floor(i / places.length) + places[i % places.length],
      ),
    );
    const lines = ([0, 1, 2] as const).map((axis) =>
      this.bodies.map((mesh) => crossingsOf(mesh, this.lattice, axis, at[(axis + 1) % 3], at[(axis + 2) % 3])),
    );
    return { places: at, lines };
  }

  private countCrossings(): void {
    const { nx, ny } = this.lattice;
    const stride = [1, nx, nx * ny];
    this.cut.lines.forEach((bodies, axis) => {
      const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
      const nu = this.cut.places[u].length;
      for (const { start, at } of bodies)
        for (let line = 0; line + 1 < start.length; line++) {
          const column = Math.floor((line % nu) / CUT_RAYS) * stride[u] + Math.floor(line / nu / CUT_RAYS) * stride[v];
          for (let s = start[line]; s < start[line + 1]; s++)
            this.crossed[3 * (column + Math.floor(at[s]) * stride[axis]) + axis]++;
        }
    });
  }

  /**
   * Directions across the surface between plastic and inserts in some cells, the main one first; an edge of an
   * insert has two. Free faces of an insert do not count.
   */
  interfaceNormals(cells: readonly number[]): Vec3[] {
    const t = new Float64Array(9);
    for (const cell of cells) for (let axis = 0; axis < 3; axis++) this.addInterface(cell, axis, t);
    if (!t.some((v) => v !== 0)) return [];
    const { values, vectors } = eigen([0, 3, 6].map((r) => [t[r], t[r + 1], t[r + 2]]));
    return vectors.slice(0, values[1] > SECOND * values[0] ? 2 : 1);
  }

  /** Adds n nT times area of the interface in a cell, of the pieces that lie across `axis` most. */
  private addInterface(cell: number, axis: number, tensor: Float64Array): void {
    const { nx, ny } = this.lattice;
    const ijk = [cell % nx, Math.floor(cell / nx) % ny, Math.floor(cell / (nx * ny))];
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const lines = this.cut.lines[axis];
    for (let r = 0; r < CUT_RAYS * CUT_RAYS; r++) {
      const row = ijk[v] * CUT_RAYS + Math.floor(r / CUT_RAYS);
      const line = ijk[u] * CUT_RAYS + (r % CUT_RAYS) + this.cut.places[u].length * row;
      for (let body = 1; body < lines.length; body++) {
        const { start, at, sign, triangle } = lines[body];
        for (let s = start[line]; s < start[line + 1]; s++) {
          if (at[s] < ijk[axis] || at[s] > ijk[axis] + 1) continue;
          const beyond = at[s] + sign[s] * TOUCHING;
          if (!lines.some((other, b) => b !== body && isInside(other, line, beyond))) continue;
          const { positions, triangles } = this.bodies[body];
          const n = facet(positions, triangles, triangle[s]).normal;
          if (Math.abs(n[axis]) < Math.abs(n[u]) || Math.abs(n[axis]) < Math.abs(n[v])) continue;
          for (let i = 0; i < 3; i++)
            for (let j = 0; j < 3; j++) tensor[3 * i + j] += (n[i] * n[j]) / Math.abs(n[axis]);
        }
      }
    }
  }

  /** The pieces of solid in cell (i, j, k). */
  pieces(i: number, j: number, k: number): CellPiece[] {
    const ijk = [i, j, k];
    const cell = i + this.lattice.nx * (j + this.lattice.ny * k);
    const counts = [0, 1, 2].map((d) => this.crossed[3 * cell + d]);
    const axis = counts.indexOf(Math.max(...counts));
    const dense = this.raysIn(this.whole, axis, ijk, GAUSS4.length);
    if (counts[axis] === 0 && dense.every((ray) => ray.runs.length === 0)) return [];
    const even = dense.every((ray) => ray.runs.length === 1);
    const pieces = even
      ? [onePiece(fewerRays(dense) ?? dense, axis)]
      : split(this.raysIn(this.cut, axis, ijk, CUT_RAYS), axis);
    this.bodies.forEach((_, body) => toVolume(pieces, body, this.volumes[body][cell]));
    return pieces;
  }

  private raysIn({ places, lines }: Rays, axis: number, ijk: readonly number[], n: number): Ray[] {
    const u = (axis + 1) % 3;
    const v = (axis + 2) % 3;
    const nu = places[u].length;
    const rays: Ray[] = [];
    for (let b = 0; b < n; b++)
      for (let a = 0; a < n; a++) {
        const [iu, iv] = [ijk[u] * n + a, ijk[v] * n + b];
        const gauss = n === GAUSS4.length;
        rays.push({
          u: 2 * (places[u][iu] - ijk[u]) - 1,
          v: 2 * (places[v][iv] - ijk[v]) - 1,
          weight: gauss ? GAUSS4_WEIGHT[a] * GAUSS4_WEIGHT[b] : 1 / (n * n),
          runs: runsOn(lines[axis], iu + nu * iv, ijk[axis]),
        });
      }
    return rays;
  }

  /** Calls `visit` for every ray along `axis` that passes the face below cell plane `k` inside the bodies. */
  eachOpening(axis: 0 | 1 | 2, visit: (u: number, v: number, k: number) => void): void {
    const { places, lines } = this.cut;
    const us = places[(axis + 1) % 3];
    const vs = places[(axis + 2) % 3];
    const inside: number[] = [];
    for (let iv = 0; iv < vs.length; iv++)
      for (let iu = 0; iu < us.length; iu++) {
        const n = insideOfAny(lines[axis], iu + us.length * iv, inside);
        // A body that ends at the plane opens nothing: what lies beyond a gap is not linked to it.
        for (let r = 0; r < n; r += 2)
          for (let k = Math.floor(inside[r] + NOTHING) + 1; k < inside[r + 1] - NOTHING; k++) visit(us[iu], vs[iv], k);
      }
  }
}

/** What a ray meets in a cell: runs of solid, each of one or more parts of one body, -1..1 along the ray. */
interface Ray {
  u: number;
  v: number;
  weight: number;
  runs: { from: number; to: number; parts: Part[] }[];
}

interface Part {
  from: number;
  to: number;
  body: number;
}

/** Inside intervals of a line, in grid units: writes from and to of each; returns how many numbers that are. */
function intervals({ start, at, sign }: LineCrossings, line: number, out: number[]): number {
  let winding = 0;
  let from = 0;
  let n = 0;
  for (let s = start[line]; s < start[line + 1]; s++) {
    const before = winding;
    winding -= sign[s];
    if (before <= 0 && winding > 0) from = at[s];
    if (before > 0 && winding <= 0 && at[s] > from) {
      out[n++] = from;
      out[n++] = at[s];
    }
  }
  return n;
}

/** The same for all bodies together; those that touch are one. */
function insideOfAny(bodies: readonly LineCrossings[], line: number, out: number[]): number {
  if (bodies.length === 1) return intervals(bodies[0], line, out);
  const all: [number, number][] = [];
  for (const body of bodies) {
    const n = intervals(body, line, ends);
    for (let r = 0; r < n; r += 2) all.push([ends[r], ends[r + 1]]);
  }
  all.sort((a, b) => a[0] - b[0]);
  let n = 0;
  for (const [from, to] of all)
    if (n && from - out[n - 1] <= TOUCHING) out[n - 1] = Math.max(out[n - 1], to);
    else {
      out[n++] = from;
      out[n++] = to;
    }
  return n;
}

function isInside(crossings: LineCrossings, line: number, at: number): boolean {
  const n = intervals(crossings, line, ends);
  for (let r = 0; r < n; r += 2) if (ends[r] <= at && at <= ends[r + 1]) return true;
  return false;
}
const ends: number[] = [];

function runsOn(bodies: readonly LineCrossings[], line: number, k: number): Ray['runs'] {
  let parts: Part[] = [];
  for (let body = 0; body < bodies.length; body++) {
    const n = intervals(bodies[body], line, ends);
    for (let r = 0; r < n; r += 2) {
      const from = Math.max(-1, 2 * (ends[r] - k) - 1);
      const to = Math.min(1, 2 * (ends[r + 1] - k) - 1);
      if (!(to - from > NOTHING)) continue;
      if (body) parts = parts.flatMap((part) => without(part, from, to));
      parts.push({ from, to, body });
    }
  }
  if (bodies.length > 1) parts.sort((a, b) => a.from - b.from);
  const runs: Ray['runs'] = [];
  for (const part of parts) {
    const run = runs[runs.length - 1];
    if (run && part.from - run.to <= 2 * TOUCHING) {
      run.to = part.to;
      run.parts.push(part);
    } else runs.push({ from: part.from, to: part.to, parts: [part] });
  }
  return runs;
}

/** What is left of a part beside from .. to. */
const without = (part: Part, from: number, to: number): Part[] =>
  [
    { ...part, to: Math.min(part.to, from) },
    { ...part, from: Math.max(part.from, to) },
  ].filter((rest) => rest.to - rest.from > NOTHING);

const emptyPiece = (): CellPiece => ({ local: [], weight: [], body: [], fill: 0 });

function addRun(piece: CellPiece, ray: Ray, run: Ray['runs'][number], axis: number): void {
  const at = [0, 0, 0];
  at[(axis + 1) % 3] = ray.u;
  at[(axis + 2) % 3] = ray.v;
  for (const { from, to, body } of run.parts) {
    const length = (to - from) / 2;
    piece.fill += ray.weight * length;
    for (let g = 0; g < 3; g++) {
      at[axis] = from + (to - from) * GAUSS3[g];
      piece.local.push(at[0], at[1], at[2]);
      piece.weight.push(ray.weight * length * GAUSS3_WEIGHT[g]);
      piece.body.push(body);
    }
  }
}

function onePiece(rays: readonly Ray[], axis: number): CellPiece {
  const piece = emptyPiece();
  for (const ray of rays) addRun(piece, ray, ray.runs[0], axis);
  return piece;
}

/**
 * Three by three rays instead of four by four, where the solid of one body between two planes that hardly lean is all
 * that the rays meet: products of gradients are integrated exactly but for the square of the slope. Null elsewhere.
 */
function fewerRays(rays: readonly Ray[]): Ray[] | null {
  const [{ body }] = rays[0].runs[0].parts;
  if (rays.some(({ runs: [{ parts }] }) => parts.length > 1 || parts[0].body !== body)) return null;
  const from = planeThrough(rays, (ray) => ray.runs[0].from);
  const to = planeThrough(rays, (ray) => ray.runs[0].to);
  if (!from || !to) return null;
  return GAUSS3.flatMap((y, b) =>
    GAUSS3.map((x, a) => {
      const [u, v] = [2 * x - 1, 2 * y - 1];
      const part = { from: from(u, v), to: to(u, v), body };
      const weight = GAUSS3_WEIGHT[a] * GAUSS3_WEIGHT[b];
      return { u, v, weight, runs: [{ from: part.from, to: part.to, parts: [part] }] };
    }),
  );
}

/** The plane on which one end of all rays lies; null where there is none or it leans too much. */
function planeThrough(rays: readonly Ray[], end: (ray: Ray) => number): ((u: number, v: number) => number) | null {
  const n = GAUSS4.length;
  const [first, along, up] = [rays[0], rays[n - 1], rays[n * n - n]];
  const slopeU = (end(along) - end(first)) / (along.u - first.u);
  const slopeV = (end(up) - end(first)) / (up.v - first.v);
  if (Math.abs(slopeU) > LEANING || Math.abs(slopeV) > LEANING) return null;
  const at = (u: number, v: number) => end(first) + slopeU * (u - first.u) + slopeV * (v - first.v);
  return rays.every((ray) => Math.abs(end(ray) - at(ray.u, ray.v)) < SAME) ? at : null;
}

/** Runs of neighbouring rays that overlap belong together. */
function split(rays: readonly Ray[], axis: number): CellPiece[] {
  const first: number[] = [];
  let n = 0;
  for (const ray of rays) {
    first.push(n);
    n += ray.runs.length;
  }
  const sets = new UnionFind(n);
  const join = (a: number, b: number) => {
    rays[a].runs.forEach((p, i) =>
      rays[b].runs.forEach((q, j) => {
        if (p.from < q.to && q.from < p.to) sets.union(first[a] + i, first[b] + j);
      }),
    );
  };
  for (let r = 0; r < rays.length; r++) {
    if (r % CUT_RAYS) join(r - 1, r);
    if (r >= CUT_RAYS) join(r - CUT_RAYS, r);
  }
  const pieces = new Map<number, CellPiece>();
  rays.forEach((ray, r) =>
    ray.runs.forEach((run, i) => {
      const root = sets.find(first[r] + i);
      let piece = pieces.get(root);
      if (!piece) pieces.set(root, (piece = emptyPiece()));
      addRun(piece, ray, run, axis);
    }),
  );
  return [...pieces.values()];
}

/** Rays count an edge in steps of their distance; the exact volume takes the bias out of it. */
function toVolume(pieces: readonly CellPiece[], body: number, volume: number): void {
  let sum = 0;
  for (const { weight, body: of } of pieces) weight.forEach((w, p) => (sum += of[p] === body ? w : 0));
  const factor = volume / sum;
  // Bodies that overlap share their volume; the rays alone know whose it is.
  if (!(factor > 1 / LARGEST_BIAS && factor < LARGEST_BIAS)) return;
  for (const piece of pieces) {
    piece.weight.forEach((w, p) => {
      if (piece.body[p] !== body) return;
      piece.weight[p] = factor * w;
      piece.fill += (factor - 1) * w;
    });
  }
}
