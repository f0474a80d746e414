import type { PressureGrid } from '../../grid/pressureGrid';

/** How full every node is, and when it became so. Volumes in m3, times in s. */
export interface FrontState {
  /** Melt in the node. Length n. */
  held: Float64Array;
  /** 1 where it is full; 2 where nothing can go and nothing comes from. */
  full: Uint8Array;
  /** Time at which the node was half full; NaN before. */
  fillTime: Float64Array;
}

/** Share of its volume from which a node counts as full: sums of shares miss 1 by rounding. */
const FULL = 1 - 1e-9;

export function emptyFront(grid: PressureGrid): FrontState {
  return {
    held: new Float64Array(grid.n),
    full: new Uint8Array(grid.n),
    fillTime: new Float64Array(grid.n).fill(NaN),
  };
}

/**
 * Flow into every node that is not full, from the link flows and from gates straight into nodes [any flow unit, the
 * same in both]. Writes `inflow` (length n) and returns the total.
 */
export function frontInflow(
  grid: PressureGrid,
  state: Pick<FrontState, 'full'>,
  { linkFlow, attachedFlow }: { linkFlow: Float64Array; attachedFlow: Float64Array },
  inflow: Float64Array,
): number {
  let total = 0;
  for (let i = 0; i < inflow.length; i++) {
    inflow[i] = state.full[i] ? 0 : attachedFlow[i];
    total += inflow[i];
  }
  for (let l = 0; l < linkFlow.length; l++) {
    const q = linkFlow[l];
    if (q === 0) continue;
    const target = q > 0 ? grid.linkTo[l] : grid.linkFrom[l];
    if (state.full[target]) continue;
    inflow[target] += Math.abs(q);
    total += Math.abs(q);
  }
  return total;
}

/**
 * Puts volumes of melt into the front during one time step. A node that overflows becomes full and
 * passes its excess to neighbours with space, in proportion to the transmissibilities; what finds
 * none is spread over the rest of the front. Nothing is lost: the sum of `held` grows by exactly what
 * the cavity could take.
 */
export class FrontStep {
  readonly filled: number[] = [];
  /** Volume [m3] that found no place: positive only when the cavity is full. */
  left = 0;
  private readonly before = new Map<number, number>();
  private readonly received = new Map<number, number>();
  private readonly overfull: number[] = [];

  constructor(
    private readonly grid: PressureGrid,
    private readonly state: FrontState,
  ) {}

  /** What nodes hold that have become smaller than that goes on from them, with what is put next. */
  overflow(): void {
    const { grid, state } = this;
    for (let i = 0; i < grid.n; i++) if (!state.full[i] && state.held[i] > grid.volume[i] * FULL) this.put(i, 0);
  }

  /** Shares `volume` as `inflow` (summing to `total`) says and stamps fill times within [t, t + dt]. */
  advance(inflow: Float64Array, total: number, volume: number, t: number, dt: number): void {
    for (let i = 0; i < inflow.length; i++) if (inflow[i] > 0) this.put(i, (inflow[i] / total) * volume);
    this.settle();
    this.stamp(t, dt);
  }

  /** Puts the given nodes' free space full at once, in [t, t + dt]; used for the nodes under a gate. */
  fillNodes(nodes: number[], t: number, dt: number): void {
    for (const i of nodes) this.put(i, this.grid.volume[i] - this.state.held[i]);
    this.settle();
    this.stamp(t, dt);
  }

  private put(node: number, amount: number): void {
    const { held, full } = this.state;
    if (!this.before.has(node)) this.before.set(node, held[node]);
    this.received.set(node, (this.received.get(node) ?? 0) + amount);
    held[node] += amount;
    if (held[node] >= this.grid.volume[node] * FULL && !full[node]) {
      full[node] = 1;
      this.filled.push(node);
    }
    if (held[node] > this.grid.volume[node]) this.overfull.push(node);
  }

  private settle(): void {
    const { grid, state } = this;
    this.spill();
    for (let round = 0; this.left > 0 && round < 50; round++) {
      const open = nodesAtFront(grid, state);
      const space = open.reduce((s, i) => s + grid.volume[i] - state.held[i], 0);
      if (space <= 0) break;
      const share = Math.min(1, this.left / space);
      this.left = Math.max(0, this.left - share * space);
      for (const i of open) this.put(i, share * (grid.volume[i] - state.held[i]));
      this.spill();
    }
  }

  private spill(): void {
    const { grid, overfull } = this;
    const { held, full } = this.state;
    const targets: number[] = [];
    while (overfull.length) {
      const i = overfull.pop() as number;
      const excess = held[i] - grid.volume[i];
      if (!(excess > 0)) continue;
      held[i] = grid.volume[i];
      let sum = 0;
      targets.length = 0;
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        if (full[grid.rowNode[k]]) continue;
        targets.push(k);
        sum += grid.transmissibility[grid.rowLink[k]];
      }
      if (sum === 0) this.left += excess;
      else for (const k of targets) this.put(grid.rowNode[k], (excess * grid.transmissibility[grid.rowLink[k]]) / sum);
    }
  }

  /** Fill time: when the node was half full, so the time has no bias of half a step. */
  private stamp(t: number, dt: number): void {
    const { grid, state } = this;
    for (const [node, received] of this.received) {
      const half = 0.5 * grid.volume[node];
      if (!Number.isNaN(state.fillTime[node]) || (state.held[node] < half && !state.full[node])) continue;
      const start = this.before.get(node) as number;
      const share = received > 0 ? (half - start) / received : 1;
      state.fillTime[node] = t + dt * Math.min(1, Math.max(0, share));
    }
  }
}

/** Nodes with space next to a full one. */
function nodesAtFront(grid: PressureGrid, state: FrontState): number[] {
  const front: number[] = [];
  for (let i = 0; i < grid.n; i++) {
    if (state.full[i]) continue;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      if (state.full[grid.rowNode[k]] === 1) {
        front.push(i);
        break;
      }
    }
  }
  return front;
}
