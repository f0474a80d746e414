import type { PressureGrid } from '../../grid/pressureGrid';
import type { Carried, FlowingLayers } from './carrier';
import type { FlowSolver } from './pressure';

/**
 * Takes out of a share that is all or nothing what the implicit upwind step has spread along the stream: from what comes
 * out of a cell to what goes into the next, and half of what flows through in a step. What is taken back is limited so
 * that no layer leaves the range of those around it (flux-corrected transport: Zalesak, J. Comput. Phys. 31 (1979) 335),
 * and only moved, so that none is lost.
 */
export class Sharpener {
  private readonly full: Uint8Array;
  private readonly gain: Float64Array;
  private readonly loss: Float64Array;
  private readonly high: Float64Array;
  private readonly low: Float64Array;
  private readonly moved: Float64Array;
  private readonly before: Float64Array;

  constructor(
    private readonly grid: PressureGrid,
    private readonly layers: FlowingLayers,
  ) {
    const size = grid.n * layers.nLayers;
    this.full = new Uint8Array(grid.n);
    [this.gain, this.loss, this.high, this.low] = [0, 0, 0, 0].map(() => new Float64Array(size));
    this.before = new Float64Array(size);
    this.moved = new Float64Array(grid.linkFrom.length * layers.nLayers);
  }

  /** Before a step: what the layers had is within their range as well. */
  begin({ values }: Carried): void {
    this.before.set(values);
  }

  /** After a step of `dt` [s] of the nodes in `order`. */
  sharpen({ values }: Carried, dt: number, { linkFlow }: FlowSolver, order: Int32Array): void {
    const { grid, layers, full, gain, loss, high, low, moved, before } = this;
    const { nLayers, flowShare } = layers;
    full.fill(0);
    for (const i of order) full[i] = 1;
    gain.fill(0);
    loss.fill(0);
    for (let k = 0; k < values.length; k++) {
      high[k] = Math.max(values[k], before[k]);
      low[k] = Math.min(values[k], before[k]);
    }
    const room = (node: number, t: number) => grid.volume[node] * layers.layersOf(node).share[t];
    for (let l = 0; l < linkFlow.length; l++) {
      const q = Math.abs(linkFlow[l]);
      const [from, to] = linkFlow[l] > 0 ? [grid.linkFrom[l], grid.linkTo[l]] : [grid.linkTo[l], grid.linkFrom[l]];
      const counts = q > 0 && full[from] && full[to];
      for (let t = 0; t < nLayers; t++) {
        const at = l * nLayers + t;
        moved[at] = 0;
        if (!counts) continue;
        const [a, b] = [from * nLayers + t, to * nLayers + t];
        high[a] = Math.max(high[a], values[b], before[b]);
        high[b] = Math.max(high[b], values[a], before[a]);
        low[a] = Math.min(low[a], values[b], before[b]);
        low[b] = Math.min(low[b], values[a], before[a]);
        const volume = q * flowShare[a] * dt;
        const through = volume / Math.max(1e-30, Math.min(room(from, t), room(to, t)));
        // From the upstream layer to the one downstream.
        const amount = volume * (1 + 0.5 * through) * (values[b] - values[a]);
        moved[at] = amount;
        if (amount > 0) {
          gain[b] += amount;
          loss[a] += amount;
        } else {
          gain[a] -= amount;
          loss[b] -= amount;
        }
      }
    }
    for (const i of order)
      for (let t = 0; t < nLayers; t++) {
        const at = i * nLayers + t;
        const space = room(i, t);
        gain[at] = gain[at] > 0 ? Math.min(1, (space * (high[at] - values[at])) / gain[at]) : 0;
        loss[at] = loss[at] > 0 ? Math.min(1, (space * (values[at] - low[at])) / loss[at]) : 0;
      }
    for (let l = 0; l < linkFlow.length; l++)
      for (let t = 0; t < nLayers; t++) {
        const amount = moved[l * nLayers + t];
        if (amount === 0) continue;
        const [from, to] = linkFlow[l] > 0 ? [grid.linkFrom[l], grid.linkTo[l]] : [grid.linkTo[l], grid.linkFrom[l]];
        const [a, b] = [from * nLayers + t, to * nLayers + t];
        const kept = amount * (amount > 0 ? Math.min(gain[b], loss[a]) : Math.min(gain[a], loss[b]));
        values[a] -= kept / room(from, t);
        values[b] += kept / room(to, t);
      }
  }
}
