import type { PressureGrid } from '../../grid/pressureGrid';
import type { Gating } from './gating';

/** Steps of pressure that the order tells apart, and room for the node's number below them: both fit a double. */
const ORDER_STEPS = 2 ** 30;
const ORDER_ROOM = 2 ** 22;

/** Full nodes in order of falling pressure; sorted as numbers, which is many times faster than by a comparison. */
export function downstream(
  grid: PressureGrid,
  full: Uint8Array,
  pinned: Uint8Array,
  pressure: Float64Array,
): Int32Array {
  const keys = new Float64Array(grid.n);
  let highest = 1e-30;
  for (let i = 0; i < grid.n; i++) if (full[i] && pressure[i] > highest) highest = pressure[i];
  let n = 0;
  for (let i = 0; i < grid.n; i++) {
    if (!full[i] || pinned[i]) continue;
    // A pressure below the air's would overrun the room for the steps.
    const below = Math.round(ORDER_STEPS * (1 - Math.max(0, pressure[i]) / highest));
    keys[n++] = below * ORDER_ROOM + i;
  }
  const sorted = keys.subarray(0, n).sort();
  const order = new Int32Array(n);
  for (let k = 0; k < n; k++) order[k] = sorted[k] % ORDER_ROOM;
  return order;
}

/** Volume of every node that hangs together with a gate, or with one of `starts`, by links that are not shut, 0 for the rest. */
export function reachableFrom(grid: PressureGrid, gating: Gating, starts: readonly number[] = []): Float64Array {
  const volume = new Float64Array(grid.n);
  const seen = new Uint8Array(grid.n);
  const queue: number[] = [...gating.attached.map((a) => a.node), ...starts];
  for (let i = 0; i < grid.n; i++) if (gating.gateOfNode[i] >= 0) queue.push(i);
  for (const i of queue) seen[i] = 1;
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q];
    volume[i] = grid.volume[i];
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      if (seen[j] || gating.linkFactor[grid.rowLink[k]] === 0) continue;
      seen[j] = 1;
      queue.push(j);
    }
  }
  return volume;
}
