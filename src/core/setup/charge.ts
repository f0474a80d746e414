import type { Vec3 } from '../geometry/mesh';
import { add, cross, dot, scale } from '../geometry/vec';
import type { FineGrid } from '../grid/grid';
import type { PressureGrid } from '../grid/pressureGrid';

/** Outline of the pieces of a charge, seen along the opening direction; m. */
export interface Footprint {
  /** Middles of its pieces. */
  at: readonly Vec3[];
  /** Opening direction, a unit vector, and that of the width. */
  along: Vec3;
  across?: Vec3;
  /** Diameter of a round one; or width and length. */
  size: { diameter: number } | { width: number; length: number };
}

/** Least share that the opening direction has across a wall that a charge lies on: it does not stand in ribs. */
const LYING = 0.5;

/** Points that a cell is looked at in, along each of its edges. */
const POINTS = 3;

/**
 * How much of every node lies under a charge of a `volume` [m3] that is as high everywhere as the tool stands open, and the
 * gap [m] at which it does. The gap is negative where the charge is flatter than the walls it lies in, Infinity where it
 * lies on none.
 */
export function footprint(
  fine: FineGrid,
  grid: PressureGrid,
  growth: Float64Array,
  { at, along, across = [1, 0, 0], size }: Footprint,
  volume: number,
): { share: Float64Array; gap: number } {
  const { lattice, cells } = fine;
  const { nx, ny, spacing, origin } = lattice;
  // The width lies in the plane of the charge, however it is given.
  const flat = add(across, along, -dot(across, along));
  const u = scale(flat, 1 / Math.hypot(...flat));
  const v = cross(along, u);
  const inside = (p: Vec3) =>
    at.some((middle) => {
      const away = add(p, middle, -1);
      const [a, b] = [dot(away, u), dot(away, v)];
      if ('diameter' in size) return Math.hypot(a, b) <= size.diameter / 2;
      return Math.abs(a) <= size.width / 2 && Math.abs(b) <= size.length / 2;
    });
  const share = new Float64Array(grid.n);
  for (let c = 0; c < cells.n; c++) {
    const node = grid.nodeOfCell[c];
    if (growth[node] * grid.thickness[node] < LYING) continue;
    const index = cells.index[c];
    const corner = [index % nx, Math.floor(index / nx) % ny, Math.floor(index / (nx * ny))];
    let found = 0;
    for (let k = 0; k < POINTS ** 3; k++) {
      const step = [k % POINTS, Math.floor(k / POINTS) % POINTS, Math.floor(k / POINTS ** 2)];
      const p = corner.map((x, d) => origin[d] + (x + (step[d] + 0.5) / POINTS) * spacing) as Vec3;
      if (inside(p)) found++;
    }
    share[node] += (found / POINTS ** 3) * cells.volume[c];
  }
  let [lies, area] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    lies += share[i];
    area += share[i] * growth[i];
    share[i] = grid.volume[i] > 0 ? Math.min(1, share[i] / grid.volume[i]) : 0;
  }
  return { share, gap: area > 0 ? (volume - lies) / area : Infinity };
}
