import type { Vec3 } from '../geometry/mesh';
import type { FineGrid } from './grid';

/** The fine cell with substance whose centre is nearest to a point. */
export function nearestCell(fine: FineGrid, p: Vec3): number {
  const { lattice, cells } = fine;
  const { nx, ny, spacing, origin } = lattice;
  const enough = 0.02 * spacing ** 3;
  let best = Infinity;
  let found = 0;
  for (let c = 0; c < cells.n; c++) {
    if (cells.volume[c] < enough) continue;
    const at = cells.index[c];
    const dx = origin[0] + ((at % nx) + 0.5) * spacing - p[0];
    const dy = origin[1] + ((Math.floor(at / nx) % ny) + 0.5) * spacing - p[1];
    const dz = origin[2] + (Math.floor(at / (nx * ny)) + 0.5) * spacing - p[2];
    const d = dx * dx + dy * dy + dz * dz;
    if (d < best) {
      best = d;
      found = c;
    }
  }
  return found;
}
