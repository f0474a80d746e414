import type { Bounds, Vec3 } from '../geometry/mesh';
import { UnionFind } from '../numerics/unionFind';
import type { FineGrid } from './grid';
import { axesOf, locate, nCells, type Axis } from './mouldAxes';
import { absorbed, type Links } from './mouldSlivers';

/**
 * Cells of the mould block: fine cells of the part joined in cubes where the part is, wider and wider ones from
 * there to the faces of the block. One unknown per connected piece of steel in a cell, so that the two sides of
 * a thin wall never mix. Lengths in metres.
 */
export interface MouldGrid extends Links {
  /** Planes between the cells along each axis, ascending. */
  planes: [Float64Array, Float64Array, Float64Array];
  size: [number, number, number];
  /** Edge of the cells around the part. */
  spacing: number;
  n: number;
  /** Cell of every node, x fastest. */
  cellOf: Int32Array;
  /** Largest node of every cell; -1 where there is no steel. */
  nodeOf: Int32Array;
  /** Centre of the node's cell (3 per node), even where it lies in the cavity: see PressureGrid. */
  position: Float64Array;
  /** Steel in the node, m3. */
  volume: Float64Array;
  /** Node of the steel at a point, -1 outside the block or where there is none. */
  nodeAt(x: number, y: number, z: number): number;
}

/** Fine cells along the edge of a cell around the part; more when the block would get too many cells. */
const CUBE = 4;
const MOST_CELLS = 350_000;
/** A piece with less of its cell than this is absorbed by its neighbour. */
const SLIVER = 0.1;
/** Steel shares and apertures below this are none. */
const NONE = 1e-6;

export class BlockError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
}

/** `bores`: the box that holds the channels, null for none. Throws BlockError when the block does not hold the part. */
export function buildMouldGrid(fine: FineGrid, block: Bounds, part: Bounds, bores: Bounds | null = null): MouldGrid {
  for (let d = 0; d < 3; d++)
    if (!(block.max[d] - block.min[d] > 0) || part.max[d] <= block.min[d] || part.min[d] >= block.max[d])
      throw new BlockError('The mould block does not hold the part.', 'Make the block larger, or move it.');
  let cube = CUBE;
  let axes = axesOf(fine, block, bores, cube);
  while (nCells(axes) > MOST_CELLS && cube < 32) axes = axesOf(fine, block, bores, (cube += 2));
  return new Builder(fine, axes, cube * fine.lattice.spacing).build();
}

class Builder {
  private readonly idOf: Int32Array;
  private readonly size: [number, number, number];
  private readonly nodeOf: Int32Array;
  /** Node of each fine cell in cells that hold some of the part, by cell; null elsewhere. */
  private readonly pieces = new Map<number, Int32Array>();
  private cellOf: number[] = [];
  private volume: number[] = [];

  constructor(
    private readonly fine: FineGrid,
    private readonly axes: [Axis, Axis, Axis],
    private readonly spacing: number,
  ) {
    const { lattice, cells: fineCells } = fine;
    this.idOf = new Int32Array(lattice.nx * lattice.ny * lattice.nz).fill(-1);
    for (let c = 0; c < fineCells.n; c++) this.idOf[fineCells.index[c]] = c;
    this.size = axes.map((a) => a.fineFrom.length) as [number, number, number];
    this.nodeOf = new Int32Array(this.size[0] * this.size[1] * this.size[2]).fill(-1);
  }

  build(): MouldGrid {
    const { size, nodeOf } = this;
    const [nx, ny] = size;
    for (let c = 0; c < nodeOf.length; c++) this.addCell(c);
    const links = this.absorbSlivers(this.links());
    const n = this.cellOf.length;
    const planes = this.axes.map((a) => a.planes) as MouldGrid['planes'];
    const position = new Float64Array(3 * n);
    const centre = (d: number, i: number) => (planes[d][i] + planes[d][i + 1]) / 2;
    for (let i = 0; i < n; i++) {
      const c = this.cellOf[i];
      position[3 * i] = centre(0, c % nx);
      position[3 * i + 1] = centre(1, Math.floor(c / nx) % ny);
      position[3 * i + 2] = centre(2, Math.floor(c / (nx * ny)));
    }
    const find = (d: number, x: number) => locate(planes[d], x);
    return {
      planes,
      size,
      spacing: this.spacing,
      n,
      cellOf: Int32Array.from(this.cellOf),
      nodeOf,
      position,
      volume: Float64Array.from(this.volume),
      ...links,
      nodeAt: (x, y, z) => {
        const [i, j, k] = [find(0, x), find(1, y), find(2, z)];
        if (i < 0 || j < 0 || k < 0) return -1;
        const c = i + nx * (j + ny * k);
        const piece = this.pieces.get(c);
        return piece ? piece[this.fineWithin([i, j, k], [x, y, z])] : nodeOf[c];
      },
    };
  }

  /** See `absorbed`; renames nodes wherever they are named. */
  private absorbSlivers(links: Links): Links {
    const sliver = Uint8Array.from(this.volume, (v, i) => (v < SLIVER * this.wholeVolume(this.cellOf[i]) ? 1 : 0));
    const { now, hosts, volume, links: left } = absorbed(this.volume, sliver, links);
    const renamed = (i: number) => (i < 0 ? -1 : now[i]);
    for (const piece of this.pieces.values()) piece.forEach((i, s) => (piece[s] = renamed(i)));
    this.nodeOf.forEach((i, c) => (this.nodeOf[c] = renamed(i)));
    this.cellOf = hosts.map((i) => this.cellOf[i]);
    this.volume = volume;
    return left;
  }

  /** Fine layers of a cell: first ones and counts; null for a cell beyond the fine lattice. */
  private span(c: number): { from: Vec3; count: Vec3 } | null {
    const [nx, ny] = this.size;
    const at = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))];
    const from = this.axes.map((a, d) => a.fineFrom[at[d]]) as Vec3;
    if (from.some((f) => f < 0)) return null;
    return { from, count: this.axes.map((a, d) => a.fineTo[at[d]] - from[d]) as Vec3 };
  }

  private fineWithin(at: Vec3, p: Vec3): number {
    const { lattice } = this.fine;
    const from = this.axes.map((a, d) => a.fineFrom[at[d]]);
    const count = this.axes.map((a, d) => a.fineTo[at[d]] - from[d]);
    const i = p.map((x, d) =>
      Math.min(count[d] - 1, Math.max(0, Math.floor((x - lattice.origin[d]) / lattice.spacing) - from[d])),
    );
    return i[0] + count[0] * (i[1] + count[1] * i[2]);
  }

  private wholeVolume(c: number): number {
    const [nx, ny] = this.size;
    const width = (d: number, i: number) => this.axes[d].planes[i + 1] - this.axes[d].planes[i];
    return width(0, c % nx) * width(1, Math.floor(c / nx) % ny) * width(2, Math.floor(c / (nx * ny)));
  }

  private addNode(c: number, volume: number): number {
    this.volume.push(volume);
    return this.cellOf.push(c) - 1;
  }

  private addCell(c: number): void {
    const span = this.span(c);
    if (!span) {
      this.nodeOf[c] = this.addNode(c, this.wholeVolume(c));
      return;
    }
    const { lattice, cells: fineCells } = this.fine;
    const { from, count } = span;
    const total = count[0] * count[1] * count[2];
    const ids = new Int32Array(total);
    let any = false;
    for (let k = 0, s = 0; k < count[2]; k++)
      for (let j = 0; j < count[1]; j++)
        for (let i = 0; i < count[0]; i++, s++) {
          ids[s] = this.idOf[from[0] + i + lattice.nx * (from[1] + j + lattice.ny * (from[2] + k))];
          if (ids[s] >= 0) any = true;
        }
    if (!any) {
      this.nodeOf[c] = this.addNode(c, this.wholeVolume(c));
      return;
    }
    const unit = lattice.spacing ** 3;
    const steel = Float64Array.from(ids, (id) => (id < 0 ? 1 : Math.max(0, 1 - fineCells.volume[id] / unit)));
    const sets = new UnionFind(total);
    const strides = [1, count[0], count[0] * count[1]];
    for (let s = 0; s < total; s++) {
      if (steel[s] < NONE) continue;
      const at = [s % count[0], Math.floor(s / count[0]) % count[1], Math.floor(s / strides[2])];
      for (let d = 0; d < 3; d++) {
        const t = s + strides[d];
        if (at[d] + 1 >= count[d] || steel[t] < NONE) continue;
        if (this.aperture(ids[s], d) > NONE) sets.union(s, t);
      }
    }
    const piece = new Int32Array(total).fill(-1);
    const nodes = new Map<number, number>();
    let best = 0;
    for (let s = 0; s < total; s++) {
      if (steel[s] < NONE) continue;
      const root = sets.find(s);
      let node = nodes.get(root);
      if (node === undefined) nodes.set(root, (node = this.addNode(c, 0)));
      piece[s] = node;
      this.volume[node] += steel[s] * unit;
    }
    for (const node of nodes.values())
      if (this.volume[node] > best) {
        best = this.volume[node];
        this.nodeOf[c] = node;
      }
    this.pieces.set(c, piece);
  }

  /** Steel share of the face of a fine cell towards + along axis d. */
  private aperture(id: number, d: number): number {
    return id < 0 ? 1 : 1 - this.fine.cells.face[3 * id + d];
  }

  private links(): Links {
    const [nx, ny, nz] = this.size;
    const from: number[] = [];
    const to: number[] = [];
    const axis: number[] = [];
    const area: number[] = [];
    const outer: MouldGrid['outer'] = [];
    const strides = [1, nx, nx * ny];
    const sizes = [nx, ny, nz];
    for (let c = 0; c < this.nodeOf.length; c++) {
      const at = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))];
      for (let d = 0; d < 3; d++) {
        if (at[d] === 0) this.outside(c, d, 0, outer);
        if (at[d] + 1 === sizes[d]) {
          this.outside(c, d, 1, outer);
          continue;
        }
        for (const [key, a] of this.between(c, c + strides[d], d)) {
          const n = this.cellOf.length;
          from.push(Math.floor(key / n));
          to.push(key % n);
          axis.push(d);
          area.push(a);
        }
      }
    }
    return {
      linkFrom: Int32Array.from(from),
      linkTo: Int32Array.from(to),
      linkAxis: Uint8Array.from(axis),
      linkArea: Float64Array.from(area),
      outer,
    };
  }

  private faceArea(c: number, d: number): number {
    const [nx, ny] = this.size;
    const at = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))];
    return [0, 1, 2].reduce(
      (s, e) => (e === d ? s : s * (this.axes[e].planes[at[e] + 1] - this.axes[e].planes[at[e]])),
      1,
    );
  }

  /** Steel areas between the pieces of two cells that lie side by side along d, by from * n + to. */
  private between(c: number, next: number, d: number): Map<number, number> {
    const out = new Map<number, number>();
    const n = this.cellOf.length;
    const add = (i: number, j: number, area: number) => {
      if (i < 0 || j < 0 || !(area > 0)) return;
      const key = Math.min(i, j) * n + Math.max(i, j);
      out.set(key, (out.get(key) ?? 0) + area);
    };
    const [a, b] = [this.pieces.get(c), this.pieces.get(next)];
    if (!a && !b) {
      add(this.nodeOf[c], this.nodeOf[next], this.faceArea(c, d));
      return out;
    }
    // At least one of them holds some of the part, so both lie across the same fine layers, or one lies beyond them.
    const span = this.span(a ? c : next) as { from: Vec3; count: Vec3 };
    const { lattice } = this.fine;
    const unit = lattice.spacing ** 2;
    const other = this.span(a ? next : c);
    const spanA = a ? span : other;
    const spanB = a ? other : span;
    const [e, f] = [0, 1, 2].filter((x) => x !== d);
    for (let q = 0; q < span.count[f]; q++)
      for (let p = 0; p < span.count[e]; p++) {
        const last = spanA ? spanA.count[d] - 1 : 0;
        const i = a && spanA ? a[within(spanA.count, d, last, e, p, f, q)] : this.nodeOf[c];
        const j = b && spanB ? b[within(spanB.count, d, 0, e, p, f, q)] : this.nodeOf[next];
        let open = 1;
        if (spanA) {
          const at: Vec3 = [0, 0, 0];
          at[d] = spanA.from[d] + last;
          at[e] = spanA.from[e] + p;
          at[f] = spanA.from[f] + q;
          open = this.aperture(this.idOf[at[0] + lattice.nx * (at[1] + lattice.ny * at[2])], d);
        }
        if (open > NONE) add(i, j, open * unit);
      }
    return out;
  }

  private outside(c: number, d: number, end: 0 | 1, outer: MouldGrid['outer']): void {
    const planes = this.axes[d].planes;
    const [nx, ny] = this.size;
    const at = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))][d];
    const depth = (planes[at + 1] - planes[at]) / 2;
    const piece = this.pieces.get(c);
    if (!piece) {
      if (this.nodeOf[c] >= 0)
        outer.push({ node: this.nodeOf[c], side: 2 * d + end, area: this.faceArea(c, d), depth });
      return;
    }
    const { from, count } = this.span(c) as { from: Vec3; count: Vec3 };
    const { lattice, cells: fineCells } = this.fine;
    const unit = lattice.spacing ** 2;
    const [e, f] = [0, 1, 2].filter((x) => x !== d);
    const sums = new Map<number, number>();
    for (let q = 0; q < count[f]; q++)
      for (let p = 0; p < count[e]; p++) {
        const layer = end ? count[d] - 1 : 0;
        const node = piece[within(count, d, layer, e, p, f, q)];
        if (node < 0) continue;
        const at3: Vec3 = [0, 0, 0];
        at3[d] = from[d] + layer - (end ? 0 : 1);
        at3[e] = from[e] + p;
        at3[f] = from[f] + q;
        const beyond = at3[d] < 0;
        const id = beyond ? -1 : this.idOf[at3[0] + lattice.nx * (at3[1] + lattice.ny * at3[2])];
        const open = id < 0 ? 1 : 1 - fineCells.face[3 * id + d];
        sums.set(node, (sums.get(node) ?? 0) + open * unit);
      }
    for (const [node, area] of sums) outer.push({ node, side: 2 * d + end, area, depth });
  }
}

function within(count: Vec3, d: number, layer: number, e: number, p: number, f: number, q: number): number {
  const at = [0, 0, 0];
  at[d] = layer;
  at[e] = p;
  at[f] = q;
  return at[0] + count[0] * (at[1] + count[1] * at[2]);
}
