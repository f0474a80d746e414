import type { Vec3 } from '../geometry/mesh';
import { addDyad, eigen } from '../geometry/vec';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';
import { sideOfNormal } from './wallSides';

/** Direction that a node has of which nothing is known. */
const ANY: Vec3 = [0, 0, 1];

/**
 * Unit directions across the wall of every node, from its first side to its second; 3 a node. The main axis of the dyads of the
 * gradients of the wall function in its cells: exact in a slab, the wider wall's in a corner.
 */
export function acrossNodes({ cells }: FineGrid, grid: PressureGrid): Float64Array {
  const dyads = new Float64Array(6 * grid.n);
  for (let c = 0; c < cells.n; c++) {
    const node = grid.nodeOfCell[c];
    if (node < 0) continue;
    addDyad(dyads, node, cells.volume[c], [cells.inward[3 * c], cells.inward[3 * c + 1], cells.inward[3 * c + 2]]);
  }
  const out = new Float64Array(3 * grid.n);
  for (let i = 0; i < grid.n; i++) {
    const [xx, yy, zz, xy, yz, xz] = dyads.subarray(6 * i, 6 * i + 6);
    const known = xx + yy + zz > 0;
    const [n] = known
      ? eigen([
          [xx, xy, xz],
          [xy, yy, yz],
          [xz, yz, zz],
        ]).vectors
      : [ANY];
    // The first wall's normal leads out of it, against the way across.
    const sign = sideOfNormal(-n[0], -n[1], -n[2]) === 0 ? 1 : -1;
    for (let d = 0; d < 3; d++) out[3 * i + d] = sign * n[d];
  }
  return out;
}
