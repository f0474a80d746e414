import type { PressureGrid } from '../../grid/pressureGrid';
import type { Gating } from '../melt/gating';

/**
 * Which nodes a molten way leads to from the nozzle: through nodes whose middle still flows (`open`), over
 * links that no pin has shut. Nodes under a gate that is the inlet itself are always open.
 */
export class Reach {
  /** 1 for nodes that can be fed. Length n. */
  readonly fed: Uint8Array;
  private readonly queue: Int32Array;

  constructor(
    private readonly grid: PressureGrid,
    private readonly gating: Gating,
    /** Where else pressure comes from: nodes of a fluid in the core, or of a tool that closes. */
    private readonly sources: () => Iterable<number> = () => [],
  ) {
    this.fed = new Uint8Array(grid.n);
    this.queue = new Int32Array(grid.n);
  }

  /** Returns how many nodes can be fed. */
  update(open: Uint8Array): number {
    const { grid, gating, fed, queue } = this;
    fed.fill(0);
    let n = 0;
    const take = (i: number) => {
      if (fed[i] || !open[i]) return;
      fed[i] = 1;
      queue[n++] = i;
    };
    for (let i = 0; i < grid.n; i++) if (gating.gateOfNode[i] >= 0) take(i);
    for (const { node } of gating.attached) take(node);
    for (const node of this.sources()) take(node);
    for (let q = 0; q < n; q++) {
      const i = queue[q];
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const link = grid.rowLink[k];
        if (gating.linkFactor[link] > 0 && grid.transmissibility[link] > 0) take(grid.rowNode[k]);
      }
    }
    return n;
  }
}
