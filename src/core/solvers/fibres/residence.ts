import type { PressureGrid } from '../../grid/pressureGrid';
import type { FlowSolver } from '../melt/pressure';

/** Share of a node that flows through it before it is moved on. */
const MOVED = 1;

/** How long melt stays in the nodes of a grid that it flows through, and how long they have waited to be moved on. */
export class Residence {
  /** Flow into every node, m3/s. */
  private readonly through: Float64Array;
  /** s */
  readonly waiting: Float64Array;

  constructor(private readonly grid: PressureGrid) {
    this.through = new Float64Array(grid.n);
    this.waiting = new Float64Array(grid.n);
  }

  /** Takes the flow of a step. */
  look({ linkFlow, attachedFlow }: FlowSolver): void {
    const { grid, through } = this;
    for (let i = 0; i < grid.n; i++) through[i] = Math.max(0, attachedFlow[i]);
    for (let l = 0; l < linkFlow.length; l++) {
      const q = linkFlow[l];
      if (q > 0) through[grid.linkTo[l]] += q;
      else through[grid.linkFrom[l]] -= q;
    }
  }

  /** How often a node's melt is renewed, 1/s. */
  renewal(node: number): number {
    return this.through[node] / this.grid.volume[node];
  }

  /** How long melt has been in a node at the end of a step of `dt` s, in the mean, s. */
  in(node: number, dt: number): number {
    return 1 / (1 / dt + this.renewal(node));
  }

  /** Time that a node is moved on by now, s, with what it has waited; 0 while it waits for more to flow through it. */
  due(node: number, dt: number): number {
    const waited = (this.waiting[node] += dt);
    if (this.renewal(node) * waited < MOVED) return 0;
    this.waiting[node] = 0;
    return waited;
  }

  /** Lets nodes that still wait change: nothing more comes to them. */
  finish(change: (node: number, dt: number) => void): void {
    this.waiting.forEach((dt, i) => dt > 0 && change(i, dt));
    this.waiting.fill(0);
  }
}
