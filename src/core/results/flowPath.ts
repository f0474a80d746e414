import type { PressureGrid } from '../grid/pressureGrid';

export interface FlowPath {
  /** Nodes from the gate to the end. */
  nodes: number[];
  /** m, along the smoothed path */
  length: number;
  /** Mean wall thickness along it, m */
  thickness: number;
  /** Share of the pressure drop lost where the wall is thinner than 0.75 of the path's mean. */
  thinShare: number;
  /** Mean thickness of that thin stretch, m; 0 when there is none. */
  thinThickness: number;
}

const THIN = 0.75;
/** Nodes between the corners used to measure length: the staircase of neighbours would be too long. */
const STRIDE = 6;

/** The way of the melt to `end`, followed back through the neighbours that filled earliest. */
export function flowPath(
  grid: PressureGrid,
  fillTime: ArrayLike<number>,
  pressure: ArrayLike<number>,
  end: number,
): FlowPath {
  const nodes = [end];
  for (let node = end; ;) {
    let best = node;
    for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
      const j = grid.rowNode[k];
      if (fillTime[j] < fillTime[best]) best = j;
    }
    if (best === node || nodes.length > grid.n) break;
    nodes.push(best);
    node = best;
  }
  nodes.reverse();
  const thickness = nodes.reduce((s, i) => s + grid.thickness[i], 0) / nodes.length;
  let thinLoss = 0;
  let thinSum = 0;
  let nThin = 0;
  for (let s = 1; s < nodes.length; s++) {
    const [a, b] = [nodes[s - 1], nodes[s]];
    const t = 0.5 * (grid.thickness[a] + grid.thickness[b]);
    if (t >= THIN * thickness) continue;
    thinLoss += Math.max(0, (pressure[a] || 0) - (pressure[b] || 0));
    thinSum += t;
    nThin++;
  }
  const total = pressure[nodes[0]] || 0;
  return {
    nodes,
    length: pathLength(grid, nodes),
    thickness,
    thinShare: total > 0 ? Math.min(1, thinLoss / total) : 0,
    thinThickness: nThin ? thinSum / nThin : 0,
  };
}

function pathLength(grid: PressureGrid, nodes: number[]): number {
  const corners = nodes.filter((_, s) => s % STRIDE === 0 || s === nodes.length - 1);
  let sum = 0;
  for (let s = 1; s < corners.length; s++) {
    let squared = 0;
    for (let d = 0; d < 3; d++)
      squared += (grid.centroid[3 * corners[s] + d] - grid.centroid[3 * corners[s - 1] + d]) ** 2;
    sum += Math.sqrt(squared);
  }
  return sum;
}
