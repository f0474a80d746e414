import type { PressureGrid } from '../../grid/pressureGrid';
import { onNodes, perNode, type PerNode } from '../shot/located';
import type { FillResult } from './outcome';
import { meanVelocity } from '../melt/velocity';

/** What the front was like when it passed each node: speed [m/s], direction (3 per node) and temperature [K]; NaN before. */
export class FrontTrace {
  readonly speed: PerNode;
  readonly direction: PerNode;
  readonly temperature: PerNode;

  constructor(
    private readonly grid: PressureGrid,
    /** 1 for nodes that links of a gate's near field lead to: the melt comes from everywhere at once. */
    private readonly underGate: Uint8Array,
    before?: FillResult['node'],
  ) {
    this.speed = before ? onNodes(before.frontSpeed, grid.n) : perNode(grid.n);
    this.direction = before ? onNodes(before.frontDirection, grid.n) : perNode(grid.n, 3);
    this.temperature = before ? onNodes(before.frontTemperature, grid.n) : perNode(grid.n);
  }

  /** Notes nodes that have become full with the flow of their links [m3/s]. */
  pass(filled: readonly number[], linkFlow: Float64Array, temperatureOf: (node: number) => number): void {
    const { grid, speed, direction, underGate } = this;
    for (const i of filled) this.temperature[i] = temperatureOf(i);
    for (const i of filled) {
      const v = meanVelocity(grid, linkFlow, i);
      const now = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
      if (!(now > 0)) {
        this.passOn(i);
        continue;
      }
      speed[i] = now;
      if (!underGate[i]) for (let d = 0; d < 3; d++) direction[3 * i + d] = v[d] / now;
    }
  }

  /** What an overflowing neighbour passed on came with no flow of its own: the front goes on as it came to them. */
  private passOn(node: number): void {
    const { grid, speed, direction } = this;
    const sum = [0, 0, 0];
    let [speeds, weight] = [0, 0];
    for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
      const [j, link] = [grid.rowNode[k], grid.rowLink[k]];
      // Links of the feed lie along no axis.
      if (grid.linkAxis[link] > 2) continue;
      const towards = direction[3 * j + grid.linkAxis[link]] * (grid.linkFrom[link] === j ? 1 : -1);
      if (!(towards > 0)) continue;
      const w = grid.transmissibility[link] * towards;
      for (let d = 0; d < 3; d++) sum[d] += w * direction[3 * j + d];
      speeds += w * speed[j];
      weight += w;
    }
    const length = Math.hypot(sum[0], sum[1], sum[2]);
    // Two that came from opposite sides leave none.
    if (!(length > 0.5 * weight)) return;
    speed[node] = speeds / weight;
    for (let d = 0; d < 3; d++) direction[3 * node + d] = sum[d] / length;
  }
}
