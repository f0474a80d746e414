import type { PressureGrid } from '../../grid/pressureGrid';

const velocity: [number, number, number] = [0, 0, 0];

/**
 * Mean velocity [m/s] over the wall at a node: flow over open area, component by component; the area
 * of a link is transmissibility x spacing / mobility. The result is overwritten by the next call.
 */
export function meanVelocity(grid: PressureGrid, linkFlow: Float64Array, node: number): [number, number, number] {
  let [fx, fy, fz, tx, ty, tz] = [0, 0, 0, 0, 0, 0];
  for (let k = grid.rowStart[node], end = grid.rowStart[node + 1]; k < end; k++) {
    const l = grid.rowLink[k];
    const flow = linkFlow[l];
    // Closed or dry faces carry nothing and say nothing about the speed in the open ones.
    if (flow === 0) continue;
    const t = grid.transmissibility[l];
    const axis = grid.linkAxis[l];
    if (axis === 0) {
      fx += flow;
      tx += t;
    } else if (axis === 1) {
      fy += flow;
      ty += t;
    } else if (axis === 2) {
      fz += flow;
      tz += t;
    }
  }
  const scale = grid.thickness[node] ** 2 / 12 / grid.spacing;
  velocity[0] = tx > 0 ? (fx / tx) * scale : 0;
  velocity[1] = ty > 0 ? (fy / ty) * scale : 0;
  velocity[2] = tz > 0 ? (fz / tz) * scale : 0;
  return velocity;
}
