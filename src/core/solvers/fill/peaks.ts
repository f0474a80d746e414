import { onNodes, perNode, type PerNode } from '../shot/located';
import type { Columns } from '../melt/columns';
import type { FillResult } from './outcome';
import type { FlowSolver } from '../melt/pressure';

/** Apparent shear rate below which the melt stands, 1/s. */
const STANDING = 1;

/** Largest shear rate through the wall [1/s] and wall shear stress [Pa] that each node has seen. */
export class Peaks {
  readonly shearRate: PerNode;
  readonly stress: PerNode;

  constructor(n: number, before?: FillResult['node']) {
    this.shearRate = before ? onNodes(before.peakShearRate, n) : perNode(n, 1, 0);
    this.stress = before ? onNodes(before.peakStress, n) : perNode(n, 1, 0);
  }

  /** Looks at the flow in the nodes that were full (1) of melt and are no inlet. */
  look(solver: FlowSolver, columns: Columns | null, full: Uint8Array, pinned: Uint8Array): void {
    const { shearRate, stress } = this;
    for (let i = 0; i < shearRate.length; i++) {
      // Where nothing flows any more the stress in the solid is not the melt's.
      if (!full[i] || pinned[i] || solver.shearRate[i] < STANDING) continue;
      const rate = columns ? columns.peakRate[i] : solver.shearRate[i];
      const wall = columns ? columns.wallStress[i] : solver.shearRate[i] / solver.fluidity[i];
      if (rate > shearRate[i]) shearRate[i] = rate;
      if (wall > stress[i]) stress[i] = wall;
    }
  }
}
