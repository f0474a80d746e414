import type { TriangleMesh } from '../geometry/mesh';
import type { Lattice } from './lattice';

/**
 * Where lines through cell centres cross the surface. Line numbers run u fastest over the two other
 * axes; `start[line] .. start[line+1]-1` are its crossings in ascending order, in grid units.
 */
export interface LineCrossings {
  axis: 0 | 1 | 2;
  start: Int32Array;
  at: Float64Array;
  /** +1 where the line leaves the solid, -1 where it enters. */
  sign: Int8Array;
  /** Number of the triangle that is crossed. */
  triangle: Int32Array;
}

/**
 * Scan conversion of the triangles onto the lines through the centres along `axis`. A line through
 * an edge or vertex is decided by a symbolic shift, the same for both triangles, so a closed
 * surface is crossed an even number of times.
 */
export function lineCrossings(mesh: TriangleMesh, lattice: Lattice, axis: 0 | 1 | 2): LineCrossings {
  const size = [lattice.nx, lattice.ny, lattice.nz];
  const places = (d: number) => Float64Array.from({ length: size[d % 3] }, (_, i) => i);
  return crossingsOf(mesh, lattice, axis, places(axis + 1), places(axis + 2), 0.5);
}

/**
 * The same for lines at any places `us`, `vs` (ascending, grid units less `shift`) of the two other
 * axes.
 */
export function crossingsOf(
  mesh: TriangleMesh,
  { origin, spacing }: Lattice,
  axis: 0 | 1 | 2,
  us: Float64Array,
  vs: Float64Array,
  shift = 0,
): LineCrossings {
  const u = (axis + 1) % 3;
  const v = (axis + 2) % 3;
  const nu = us.length;
  const lines = new Growable();
  const span = new RowSpan();
  const { positions: p, triangles: t } = mesh;
  const coordinate = (vertex: number, d: number) =>
    (p[3 * vertex + d] - origin[d]) / spacing - (d === axis ? 0 : shift);
  for (let i = 0; i < t.length; i += 3) {
    const [ia, ib, ic] = [t[i], t[i + 1], t[i + 2]];
    const [au, av, aw] = [coordinate(ia, u), coordinate(ia, v), coordinate(ia, axis)];
    const [bu, bv, bw] = [coordinate(ib, u), coordinate(ib, v), coordinate(ib, axis)];
    const [cu, cv, cw] = [coordinate(ic, u), coordinate(ic, v), coordinate(ic, axis)];
    const area = (bu - au) * (cv - av) - (bv - av) * (cu - au);
    if (area === 0) continue;
    const sign = area > 0 ? 1 : -1;
    const inside = (x: number, y: number) =>
      side(au, av, bu, bv, x, y) === sign && side(bu, bv, cu, cv, x, y) === sign && side(cu, cv, au, av, x, y) === sign;
    const v0 = firstFrom(vs, Math.min(av, bv, cv));
    const vEnd = Math.max(av, bv, cv);
    for (let row = v0; row < vs.length && vs[row] <= vEnd; row++) {
      const y = vs[row];
      span.begin();
      span.add(au, av, bu, bv, y);
      span.add(bu, bv, cu, cv, y);
      span.add(cu, cv, au, av, y);
      let column = firstFrom(us, span.low);
      let last = firstAfter(us, span.high) - 1;
      // Only places near an edge are in doubt: those between the first and the last one inside are inside.
      if (!span.grazes) {
        while (column <= last && !inside(us[column], y)) column++;
        while (last > column && !inside(us[last], y)) last--;
      }
      for (; column <= last; column++) {
        const x = us[column];
        if (span.grazes && !inside(x, y)) continue;
        const s = ((x - au) * (cv - av) - (y - av) * (cu - au)) / area;
        const r = ((bu - au) * (y - av) - (bv - av) * (x - au)) / area;
        lines.push(column + nu * row, aw + s * (bw - aw) + r * (cw - aw), sign, i / 3);
      }
    }
  }
  return lines.sorted(axis, nu * vs.length);
}

/** The first place of an ascending list at or after x. */
function firstFrom(list: Float64Array, x: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle] < x) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The first place of an ascending list after x. */
function firstAfter(list: Float64Array, x: number): number {
  const at = firstFrom(list, x);
  return at < list.length && list[at] === x ? at + 1 : at;
}

/** Grid units: far above rounding, far below the distance of two lines. */
const NEAR = 1e-6;

/** Between which places a row meets a triangle, with a margin; `grazes` where it runs along an edge. */
class RowSpan {
  low = Infinity;
  high = -Infinity;
  grazes = false;

  begin(): void {
    this.low = Infinity;
    this.high = -Infinity;
    this.grazes = false;
  }

  add(au: number, av: number, bu: number, bv: number, y: number): void {
    if (y < Math.min(av, bv) - NEAR || y > Math.max(av, bv) + NEAR) return;
    if (Math.abs(bv - av) < NEAR) {
      this.grazes = true;
      this.include(au);
      this.include(bu);
      return;
    }
    // Past its ends an edge is met at an end.
    const t = Math.min(1, Math.max(0, (y - av) / (bv - av)));
    this.include(au + t * (bu - au));
  }

  private include(u: number): void {
    this.low = Math.min(this.low, u - NEAR);
    this.high = Math.max(this.high, u + NEAR);
  }
}

/** Which side of the directed edge a -> b the point lies on; never 0. */
function side(au: number, av: number, bu: number, bv: number, x: number, y: number): number {
  // The edge is always evaluated from its lexicographically smaller end, so rounding is shared.
  const swap = au > bu || (au === bu && av > bv);
  const [pu, pv, qu, qv] = swap ? [bu, bv, au, av] : [au, av, bu, bv];
  let e = (qu - pu) * (y - pv) - (qv - pv) * (x - pu);
  if (e === 0) e = qv !== pv ? -(qv - pv) : qu - pu;
  return e > 0 === swap ? -1 : 1;
}

class Growable {
  private line = new Int32Array(1 << 16);
  private at = new Float64Array(1 << 16);
  private sign = new Int8Array(1 << 16);
  private triangle = new Int32Array(1 << 16);
  private n = 0;

  push(line: number, at: number, sign: number, triangle: number): void {
    if (this.n === this.line.length) {
      const grow = <T extends Int32Array | Float64Array | Int8Array>(old: T, made: T): T => {
        made.set(old);
        return made;
      };
      this.line = grow(this.line, new Int32Array(2 * this.n));
      this.at = grow(this.at, new Float64Array(2 * this.n));
      this.sign = grow(this.sign, new Int8Array(2 * this.n));
      this.triangle = grow(this.triangle, new Int32Array(2 * this.n));
    }
    this.line[this.n] = line;
    this.at[this.n] = at;
    this.triangle[this.n] = triangle;
    this.sign[this.n++] = sign;
  }

  sorted(axis: 0 | 1 | 2, nLines: number): LineCrossings {
    const start = new Int32Array(nLines + 1);
    for (let i = 0; i < this.n; i++) start[this.line[i] + 1]++;
    for (let l = 0; l < nLines; l++) start[l + 1] += start[l];
    const end = start.slice(0, nLines);
    const at = new Float64Array(this.n);
    const sign = new Int8Array(this.n);
    const triangle = new Int32Array(this.n);
    for (let i = 0; i < this.n; i++) {
      const line = this.line[i];
      let slot = end[line]++;
      // Insertion: a line crosses a thin-walled part a few times only.
      while (slot > start[line] && at[slot - 1] > this.at[i]) {
        at[slot] = at[slot - 1];
        sign[slot] = sign[slot - 1];
        triangle[slot] = triangle[slot - 1];
        slot--;
      }
      at[slot] = this.at[i];
      sign[slot] = this.sign[i];
      triangle[slot] = this.triangle[i];
    }
    return { axis, start, at, sign, triangle };
  }
}

/** Nearest wall distances are cut here: closer centres would make the wall function's rows singular. */
const MIN_DISTANCE = 1e-5;

/**
 * For every cell centre of `indices` (dense) the distance to the first wall both ways along one
 * axis in grid units (Infinity where there is none); `inside` is 1 where the winding number is
 * positive.
 */
export function distancesAlong(
  lattice: Lattice,
  crossings: LineCrossings,
  indices: Int32Array,
): { minus: Float64Array; plus: Float64Array; inside: Uint8Array } {
  const { nx, ny } = lattice;
  const size = [nx, ny, lattice.nz];
  const { axis, start, at, sign } = crossings;
  const u = (axis + 1) % 3;
  const v = (axis + 2) % 3;
  const minus = new Float64Array(indices.length);
  const plus = new Float64Array(indices.length);
  const inside = new Uint8Array(indices.length);
  const ijk = [0, 0, 0];
  for (let c = 0; c < indices.length; c++) {
    const index = indices[c];
    ijk[0] = index % nx;
    ijk[1] = Math.floor(index / nx) % ny;
    ijk[2] = Math.floor(index / (nx * ny));
    const line = ijk[u] + size[u] * ijk[v];
    const centre = ijk[axis] + 0.5;
    let winding = 0;
    let before = -Infinity;
    let after = Infinity;
    for (let s = start[line]; s < start[line + 1]; s++) {
      if (at[s] <= centre) {
        winding -= sign[s];
        before = at[s];
      } else {
        after = at[s];
        break;
      }
    }
    inside[c] = winding > 0 ? 1 : 0;
    minus[c] = Math.max(MIN_DISTANCE, centre - before);
    plus[c] = Math.max(MIN_DISTANCE, after - centre);
  }
  return { minus, plus, inside };
}
