import type { Bounds } from '../geometry/mesh';
import type { FineGrid } from './grid';

/** Each cell away from part and channels is at most this much wider than the one before it. */
const GROWTH = 1.35;
const WIDEST = 8;
/** On the way to the channels cells hardly grow: bores are told apart from the cells there. */
const SLOW_GROWTH = 1.05;
const WIDEST_AT_BORES = 1.25;
/** Planes along an axis; `fineFrom[c]` is the first fine layer of cell c, -1 for cells beyond the fine lattice. */
export interface Axis {
  planes: Float64Array;
  fineFrom: Int32Array;
  fineTo: Int32Array;
}

export const nCells = (axes: readonly Axis[]): number => axes.reduce((n, a) => n * a.fineFrom.length, 1);

/** Planes of a block around the fine lattice; cells around the part join `cube` fine cells along each edge. */
export function axesOf({ lattice }: FineGrid, block: Bounds, bores: Bounds | null, cube: number): [Axis, Axis, Axis] {
  const counts = [lattice.nx, lattice.ny, lattice.nz];
  const axis = (d: number) => {
    const near: [number, number] = bores ? [bores.min[d], bores.max[d]] : [Infinity, -Infinity];
    return axisOf(lattice.origin[d], lattice.spacing, counts[d], [block.min[d], block.max[d]], near, cube);
  };
  return [axis(0), axis(1), axis(2)];
}

function axisOf(
  origin: number,
  a: number,
  count: number,
  [low, high]: [number, number],
  near: [number, number],
  cube: number,
): Axis {
  // A face of the block that cuts the fine lattice moves onto its nearest plane.
  const snap = (x: number) => Math.min(count, Math.max(0, Math.round((x - origin) / a)));
  const [first, last] = [snap(low), snap(high)];
  const inner: number[] = [];
  for (let k = first; k < last; k += cube) inner.push(k);
  inner.push(last);
  const at = (k: number) => origin + k * a;
  const below = first > 0 ? [] : graded(at(first) - low, cube * a, at(first) - near[0]);
  const above = last < count ? [] : graded(high - at(last), cube * a, near[1] - at(last));
  const planes: number[] = [];
  let x = at(first) - below.reduce((s, w) => s + w, 0);
  for (const w of below.slice().reverse()) {
    planes.push(x);
    x += w;
  }
  inner.forEach((k) => planes.push(at(k)));
  x = at(last);
  for (const w of above) planes.push((x += w));
  const n = planes.length - 1;
  const [fineFrom, fineTo] = [new Int32Array(n).fill(-1), new Int32Array(n).fill(-1)];
  for (let c = 0; c + 1 < inner.length; c++) {
    fineFrom[below.length + c] = inner[c];
    fineTo[below.length + c] = inner[c + 1];
  }
  return { planes: Float64Array.from(planes), fineFrom, fineTo };
}

/** Widths of cells that fill `length` from cells of `first` on: slowly growing as far as `slow`, then quickly. */
export function graded(length: number, first: number, slow = 0): number[] {
  if (!(length > 1e-9)) return [];
  const widths: number[] = [];
  let sum = 0;
  let w = first;
  while (sum < length) {
    w = sum < slow ? Math.min(w * SLOW_GROWTH, WIDEST_AT_BORES * first) : Math.min(w * GROWTH, WIDEST * first);
    widths.push(w);
    sum += w;
  }
  return widths.map((x) => (x * length) / sum);
}

/** Index of the interval that holds x; -1 outside. */
export function locate(planes: ArrayLike<number>, x: number): number {
  if (!(x >= planes[0]) || x > planes[planes.length - 1]) return -1;
  let [low, high] = [0, planes.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (planes[middle] <= x) low = middle;
    else high = middle;
  }
  return low;
}
