import type { PressureGrid } from '../../grid/pressureGrid';
import type { Inlet } from '../melt/inlet';
import type { FlowSolver } from '../melt/pressure';

/** Share of each gate in the melt of every node, carried along with it. Length n * nGates. */
export class Origins {
  readonly share: Float32Array;
  /** Gate that a node's melt counts to from here on, -1 for none. */
  private readonly gateOfNode: Int16Array;
  /** Links from the inlet into each node, where there are any: their numbers in the inlet's list. */
  private readonly attachedTo = new Map<number, number[]>();

  constructor(
    private readonly grid: PressureGrid,
    private readonly inlet: Inlet,
    readonly nGates: number,
    /** Shares so far; absent at the start. */
    before?: Float32Array,
  ) {
    this.gateOfNode = inlet.gateOfNode.slice();
    // Behind the gates come the mouths of overflow tabs: their melt has come from elsewhere.
    inlet.gateNode?.forEach((node, g) => g < nGates && (this.gateOfNode[node] = g));
    this.share = before?.slice() ?? new Float32Array(grid.n * nGates);
    for (let i = 0; i < grid.n; i++) if (this.gateOfNode[i] >= 0) this.share[i * nGates + this.gateOfNode[i]] = 1;
    if (inlet.gateNode) return;
    inlet.attached.forEach(({ node }, k) => this.attachedTo.set(node, [...(this.attachedTo.get(node) ?? []), k]));
  }

  /** Implicit upwind step: full nodes in order of falling pressure, then what the front gained. */
  advance(
    dt: number,
    solver: FlowSolver,
    full: Uint8Array,
    order: Int32Array,
    before: Float64Array,
    after: Float64Array,
  ): void {
    const { grid, nGates } = this;
    if (nGates < 2) {
      for (let i = 0; i < grid.n; i++) if (after[i] > 0) this.share[i] = 1;
      return;
    }
    for (const i of order) {
      if (this.gateOfNode[i] >= 0) continue;
      this.mix(i, grid.volume[i], dt, solver, full, this.attachedTo.get(i));
    }
    for (let i = 0; i < grid.n; i++)
      if (!full[i] && this.gateOfNode[i] < 0 && after[i] > before[i])
        this.mix(i, before[i], dt, solver, full, this.attachedTo.get(i));
  }

  private mix(
    i: number,
    own: number,
    dt: number,
    solver: FlowSolver,
    full: Uint8Array,
    attached: readonly number[] = [],
  ): void {
    const { grid, nGates, share, inlet } = this;
    let total = own;
    for (let g = 0; g < nGates; g++) share[i * nGates + g] *= own;
    for (const k of attached) {
      const fresh = Math.max(0, solver.attachedShare(k)) * dt;
      share[i * nGates + inlet.attached[k].gate] += fresh;
      total += fresh;
    }
    for (let k = grid.rowStart[i], end = grid.rowStart[i + 1]; k < end; k++) {
      const j = grid.rowNode[k];
      if (!full[j]) continue;
      const link = grid.rowLink[k];
      const flow = (grid.linkFrom[link] === i ? -1 : 1) * solver.linkFlow[link] * dt;
      if (!(flow > 0)) continue;
      total += flow;
      for (let g = 0; g < nGates; g++) share[i * nGates + g] += flow * share[j * nGates + g];
    }
    if (total > 0) for (let g = 0; g < nGates; g++) share[i * nGates + g] /= total;
    else this.takeFromNeighbours(i);
  }

  /** Melt that was passed on by an overflowing neighbour is like that neighbour's. */
  private takeFromNeighbours(i: number): void {
    const { grid, nGates, share } = this;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++)
      for (let g = 0; g < nGates; g++) share[i * nGates + g] += share[grid.rowNode[k] * nGates + g];
    let total = 0;
    for (let g = 0; g < nGates; g++) total += share[i * nGates + g];
    if (total > 0) for (let g = 0; g < nGates; g++) share[i * nGates + g] /= total;
  }
}
