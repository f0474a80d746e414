import type { PressureGrid } from '../../grid/pressureGrid';
import type { Carried } from '../melt/carrier';
import type { FlowSolver } from '../melt/pressure';

/** Share of a node that flows through it before it is moved on. */
const MOVED = 1;

/** Something in the melt that changes for as long as the melt stays in a node; where little flows, many steps are taken as one. */
export abstract class Resident implements Carried {
  abstract readonly name: string;
  abstract readonly components: number;
  abstract readonly values: Float64Array;
  /** Flow into every node, m3/s. */
  private readonly through: Float64Array;
  /** How long every node has waited to be moved on, s. */
  private readonly waiting: Float64Array;

  constructor(protected readonly grid: PressureGrid) {
    this.through = new Float64Array(grid.n);
    this.waiting = new Float64Array(grid.n);
  }

  abstract freshOf(gate: number): ArrayLike<number>;
  abstract change(node: number, dt: number): void;

  get beside(): Float64Array[] {
    return [this.waiting];
  }

  look({ linkFlow, attachedFlow }: FlowSolver, _full?: Uint8Array): void {
    const { grid, through } = this;
    for (let i = 0; i < grid.n; i++) through[i] = Math.max(0, attachedFlow[i]);
    for (let l = 0; l < linkFlow.length; l++) {
      const q = linkFlow[l];
      if (q > 0) through[grid.linkTo[l]] += q;
      else through[grid.linkFrom[l]] -= q;
    }
  }

  elapsed(node: number, dt: number): number {
    const waited = (this.waiting[node] += dt);
    if (this.renewal(node) * waited < MOVED) return 0;
    this.waiting[node] = 0;
    return waited;
  }

  /** Changes nodes that still wait: nothing more comes to them. */
  finish(): void {
    this.waiting.forEach((dt, i) => dt > 0 && this.change(i, dt));
    this.waiting.fill(0);
  }

  /** How often a node's melt is renewed, 1/s. */
  protected renewal(node: number): number {
    return this.through[node] / this.grid.volume[node];
  }
}
