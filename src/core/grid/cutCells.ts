import type { TriangleMesh } from '../geometry/mesh';
import type { Lattice } from './lattice';

/**
 * Exact geometry of a closed surface on a lattice, in grid units (cell edge = 1).
 * Dense arrays, x fastest: index i + nx (j + ny k).
 */
export interface CutCells {
  /** Open share of the face between cell (i-1) and i along x; likewise y and z. 0..1 */
  faceX: Float64Array;
  faceY: Float64Array;
  faceZ: Float64Array;
  /** Share of the cell inside the surface. 0..1 */
  volume: Float64Array;
  /** Surface area inside the cell. */
  wallArea: Float32Array;
  /** What the surface encloses twice or inside out, cells^3, and the cell with most of it; -1 where there is none. */
  doubled: { volume: number; cell: number };
}

/** A triangle cut by three planes families gains at most one corner per half space. */
const MAX_CORNERS = 16;

/**
 * Clips every triangle to the cells. A piece with vector area A (outward) in cell c closes A_d on
 * every face of c's row below it along axis d, so suffix sums of A_d give the face fractions, and
 * the suffix sum of A_z plus the piece's own moment A_z (z - k) gives the volume. Both are exact for
 * planar pieces, and face fractions and wall close over every cell to rounding.
 */
export function cutCells(mesh: TriangleMesh, lattice: Lattice): CutCells {
  const { origin, spacing, nx, ny, nz } = lattice;
  const n = nx * ny * nz;
  const cells: CutCells = {
    faceX: new Float64Array(n),
    faceY: new Float64Array(n),
    faceZ: new Float64Array(n),
    volume: new Float64Array(n),
    wallArea: new Float32Array(n),
    doubled: { volume: 0, cell: -1 },
  };
  const clipper = new Clipper(lattice, cells);
  const { positions: p, triangles: t } = mesh;
  const corner = new Float64Array(9);
  for (let i = 0; i < t.length; i += 3) {
    for (let c = 0; c < 3; c++) {
      for (let d = 0; d < 3; d++) corner[3 * c + d] = (p[3 * t[i + c] + d] - origin[d]) / spacing;
    }
    clipper.add(corner);
  }
  suffixSums(cells, nx, ny, nz);
  return cells;
}

class Clipper {
  /** Polygon at the start of the cuts along x, y, z and the last one, with the part cut off. */
  private readonly buffers = Array.from({ length: 8 }, () => new Float64Array(3 * MAX_CORNERS));

  constructor(
    private readonly lattice: Lattice,
    private readonly cells: CutCells,
  ) {}

  add(corners: Float64Array): void {
    this.buffers[0].set(corners);
    this.slab(0, 0, 3, 0);
  }

  /** Cuts the polygon in buffer `at` into the cells it meets along `axis`, then on along the next. */
  private slab(axis: number, at: number, nCorners: number, cell: number): void {
    const polygon = this.buffers[at];
    let low = Infinity;
    let high = -Infinity;
    for (let c = 0; c < nCorners; c++) {
      const x = polygon[3 * c + axis];
      if (x < low) low = x;
      if (x > high) high = x;
    }
    const { nx, ny } = this.lattice;
    const stride = axis === 0 ? 1 : axis === 1 ? nx : nx * ny;
    const first = Math.floor(low);
    const last = Math.max(first, Math.ceil(high) - 1);
    if (first === last) {
      this.next(axis, at, nCorners, cell + first * stride, first);
      return;
    }
    let n = nCorners;
    const below = this.buffers[at + 1];
    for (let i = first; i < last && n >= 3; i++) {
      const nBelow = split(polygon, n, axis, i + 1, below);
      n = cornersAbove;
      if (nBelow >= 3) this.next(axis, at + 1, nBelow, cell + i * stride, i);
    }
    if (n >= 3) this.next(axis, at, n, cell + last * stride, last);
  }

  private next(axis: number, at: number, nCorners: number, cell: number, index: number): void {
    if (axis < 2) {
      const target = this.buffers[2 * (axis + 1)];
      const from = this.buffers[at];
      // Views would cost more than the few numbers they copy.
      if (target !== from) for (let k = 0; k < 3 * nCorners; k++) target[k] = from[k];
      this.slab(axis + 1, 2 * (axis + 1), nCorners, cell);
    } else this.piece(this.buffers[at], nCorners, cell, index);
  }

  private piece(q: Float64Array, nCorners: number, cell: number, k: number): void {
    let ax = 0;
    let ay = 0;
    let az = 0;
    let moment = 0;
    for (let c = 1; c + 1 < nCorners; c++) {
      const b = 3 * c;
      const ux = q[b] - q[0];
      const uy = q[b + 1] - q[1];
      const uz = q[b + 2] - q[2];
      const vx = q[b + 3] - q[0];
      const vy = q[b + 4] - q[1];
      const vz = q[b + 5] - q[2];
      const z = 0.5 * (ux * vy - uy * vx);
      ax += 0.5 * (uy * vz - uz * vy);
      ay += 0.5 * (uz * vx - ux * vz);
      az += z;
      moment += z * ((q[2] + q[b + 2] + q[b + 5]) / 3 - k);
    }
    const cells = this.cells;
    cells.faceX[cell] += ax;
    cells.faceY[cell] += ay;
    cells.faceZ[cell] += az;
    cells.volume[cell] += moment;
    cells.wallArea[cell] += Math.sqrt(ax * ax + ay * ay + az * az);
  }
}

/**
 * Splits a convex polygon at coordinate `c` along `axis`: the part below goes to `below`, the part
 * above stays in `polygon`. Returns the corners below and leaves those above in `cornersAbove`: this runs
 * hundreds of thousands of times.
 */
function split(polygon: Float64Array, n: number, axis: number, c: number, below: Float64Array): number {
  let nBelow = 0;
  let nAbove = 0;
  const above = scratch;
  for (let i = 0; i < n; i++) {
    const a = 3 * i;
    const b = 3 * ((i + 1) % n);
    const da = polygon[a + axis] - c;
    const db = polygon[b + axis] - c;
    if (da <= 0) copyCorner(polygon, a, below, 3 * nBelow++);
    if (da >= 0) copyCorner(polygon, a, above, 3 * nAbove++);
    if ((da < 0 && db > 0) || (da > 0 && db < 0)) {
      // Always from the lower end: two triangles that share the edge get the same point.
      const up = da < 0;
      const lo = up ? a : b;
      const hi = up ? b : a;
      const dl = up ? da : db;
      const dh = up ? db : da;
      const s = dl / (dl - dh);
      for (let d = 0; d < 3; d++) {
        const x = d === axis ? c : polygon[lo + d] + s * (polygon[hi + d] - polygon[lo + d]);
        below[3 * nBelow + d] = x;
        above[3 * nAbove + d] = x;
      }
      nBelow++;
      nAbove++;
    }
  }
  for (let k = 0; k < 3 * nAbove; k++) polygon[k] = above[k];
  cornersAbove = nAbove;
  return nBelow;
}

let cornersAbove = 0;
const scratch = new Float64Array(3 * MAX_CORNERS);

function copyCorner(from: Float64Array, i: number, to: Float64Array, j: number): void {
  to[j] = from[i];
  to[j + 1] = from[i + 1];
  to[j + 2] = from[i + 2];
}

/** What sums of many pieces miss by rounding. */
const ROUNDING = 1e-7;
const clamp01 = (x: number) => (x < 1e-12 ? 0 : x > 1 ? 1 : x);

function suffixSums(cells: CutCells, nx: number, ny: number, nz: number): void {
  const { faceX, faceY, faceZ, volume } = cells;
  const nxy = nx * ny;
  for (let row = 0; row < ny * nz; row++) {
    for (let i = nx - 2, c = row * nx + nx - 2; i >= 0; i--, c--) faceX[c] += faceX[c + 1];
  }
  for (let k = 0; k < nz; k++) {
    for (let j = ny - 2; j >= 0; j--) {
      for (let i = 0, c = j * nx + k * nxy; i < nx; i++, c++) faceY[c] += faceY[c + nx];
    }
  }
  for (let k = nz - 1; k >= 0; k--) {
    for (let i = 0, c = k * nxy; i < nxy; i++, c++) {
      const above = k + 1 < nz ? faceZ[c + nxy] : 0;
      volume[c] += above;
      faceZ[c] += above;
    }
  }
  let most = ROUNDING;
  for (let c = 0; c < volume.length; c++) {
    const off = volume[c] > 1 ? volume[c] - 1 : Math.max(0, -volume[c]);
    if (off > ROUNDING) cells.doubled.volume += off;
    if (off > most) {
      most = off;
      cells.doubled.cell = c;
    }
    faceX[c] = clamp01(faceX[c]);
    faceY[c] = clamp01(faceY[c]);
    faceZ[c] = clamp01(faceZ[c]);
    volume[c] = clamp01(volume[c]);
  }
}
