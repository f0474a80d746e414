import type { PressureGrid } from '../../grid/pressureGrid';
import { CompiledMultigrid } from '../../numerics/compiledMultigrid';
import type { Gating } from './gating';
import type { Drive, Storage } from './pressure';

/** Link between a node that is the inlet itself and the rest; `sign` 1 where it leads out of the inlet. */
export interface PinnedLink {
  link: number;
  gate: number;
  outer: number;
  sign: number;
}

/** What the rows of one solve are made of. SI. */
export interface RowsOfFlow {
  /** Pressures of all nodes: to start from, and of those that are no unknowns. Length n. */
  pressure: Float64Array;
  inletPressure: number;
  /** Of every link, and from the inlet straight into nodes. */
  conductance: Float64Array;
  attached: ReadonlyMap<number, number>;
  /** See FlowSolver.datum. */
  datum: Float64Array | null;
  inletDatum: number;
  storage: Storage | null;
}

/**
 * Rows of the pressures of the filled region, and their solution: what flows into a node through its links flows out, or
 * stays where there is storage. All gates are one unknown, the inlet, where the flow is set.
 */
export class PressureRows {
  iterations = 0;
  private readonly unknown: Int32Array;
  private readonly nodeOfUnknown: Int32Array;
  private readonly rowStart: Int32Array;
  private readonly rowSplit: Int32Array;
  private readonly columns: Int32Array;
  private readonly values: Float64Array;
  private readonly diagonal: Float64Array;
  private readonly right: Float64Array;
  private readonly solution: Float64Array;
  private readonly multigrid = new CompiledMultigrid();

  constructor(
    private readonly grid: PressureGrid,
    private readonly gating: Gating,
    private readonly pinnedLinks: readonly PinnedLink[],
    /** Whether melt can come in at all. */
    private readonly hasInlet: boolean,
  ) {
    // One more: a row keeps room for the inlet before it is known whether it leads there.
    const size = 2 * grid.linkFrom.length + 2 * gating.attached.length + 1;
    this.unknown = new Int32Array(grid.n);
    this.nodeOfUnknown = new Int32Array(grid.n + 1);
    this.rowStart = new Int32Array(grid.n + 2);
    this.rowSplit = new Int32Array(grid.n + 1);
    this.columns = new Int32Array(size);
    this.values = new Float64Array(size);
    this.diagonal = new Float64Array(grid.n + 1);
    this.right = new Float64Array(grid.n + 1);
    this.solution = new Float64Array(grid.n + 1);
  }

  /** How many unknowns there are: the full nodes, and the inlet where its flow is set. Nodes that are not full take the pressure of the `air`. */
  unknowns(full: Uint8Array, air: Float64Array, pressure: Float64Array, drive: Drive): number {
    const { grid, gating, unknown, nodeOfUnknown } = this;
    // Where nothing leads in, a shut inlet is no unknown.
    const atInlet = 'flow' in drive && this.hasInlet ? 0 : -1;
    let n = atInlet + 1;
    for (let i = 0; i < grid.n; i++) {
      unknown[i] = -1;
      if (gating.gateOfNode[i] >= 0) unknown[i] = atInlet;
      else if (full[i]) {
        unknown[i] = n;
        nodeOfUnknown[n++] = i;
      } else pressure[i] = air[i];
    }
    return n;
  }

  /**
   * Pressures of the unknowns of a flow, in place, and that of the inlet, Pa. `n` unknowns as `unknowns` has found them.
   * `sameRegion`: the hierarchy of the last solve serves on.
   */
  solve(n: number, flow: RowsOfFlow, drive: Drive, tolerance: number, sameRegion: boolean): number {
    const { grid, gating, unknown, nodeOfUnknown, rowStart, rowSplit, columns, values } = this;
    const { pressure, conductance, attached, datum, inletDatum, storage } = flow;
    const diagonal = this.diagonal.subarray(0, n);
    const b = this.right.subarray(0, n).fill(0);
    const x = this.solution.subarray(0, n);
    let nnz = 0;
    let first = 0;
    if ('flow' in drive && this.hasInlet) {
      nnz = this.inletRow(diagonal, b, drive.flow, flow);
      x[0] = flow.inletPressure - inletDatum;
      first = 1;
    }
    for (let u = first; u < n; u++) {
      const i = nodeOfUnknown[u];
      let diag = attached.get(i) ?? 0;
      rowSplit[u] = nnz;
      const own = datum ? datum[i] : 0;
      x[u] = pressure[i] - own;
      let inletSum = diag;
      const inletSlot = first ? nnz++ : -1;
      const firstSlot = nnz;
      for (let k = grid.rowStart[i], end = grid.rowStart[i + 1]; k < end; k++) {
        const j = grid.rowNode[k];
        const c = conductance[grid.rowLink[k]];
        diag += c;
        if (gating.gateOfNode[j] >= 0) inletSum += c;
        else if (unknown[j] >= 0) {
          // Two rims of one gate may lead to the same node.
          if (nnz > firstSlot && columns[nnz - 1] === unknown[j]) values[nnz - 1] -= c;
          else {
            columns[nnz] = unknown[j];
            values[nnz++] = -c;
          }
          // The grid's rows ascend, so the lower entries come first.
          if (j < i) rowSplit[u] = nnz;
          if (datum) b[u] += c * (datum[j] - own);
        } else b[u] += c * (pressure[j] - own);
      }
      if (first && inletSum > 0) {
        if (datum) b[u] += inletSum * (inletDatum - own);
        columns[inletSlot] = 0;
        values[inletSlot] = -inletSum;
        rowSplit[u] = Math.max(rowSplit[u], inletSlot + 1);
      } else if (first) {
        // No link to the inlet: close the gap that was kept for it.
        for (let k = inletSlot; k < nnz - 1; k++) {
          columns[k] = columns[k + 1];
          values[k] = values[k + 1];
        }
        nnz--;
        rowSplit[u] = Math.max(inletSlot, rowSplit[u] - 1);
      } else b[u] += inletSum * (flow.inletPressure - own);
      if (storage) {
        diag += storage.diagonal[i];
        b[u] += storage.right[i] - storage.diagonal[i] * own;
      }
      diagonal[u] = diag;
      rowStart[u + 1] = nnz;
    }
    for (let u = 0; u < n; u++) if (!(diagonal[u] > 0)) diagonal[u] = 1;
    const A = { n, rowStart, rowSplit, columns, values, diagonal };
    if (!sameRegion) this.multigrid.setMatrix(A);
    this.iterations += this.multigrid.solve(A, b, x, tolerance).iterations;
    for (let u = first; u < n; u++) {
      const i = nodeOfUnknown[u];
      pressure[i] = datum ? x[u] + datum[i] : x[u];
    }
    return first ? x[0] + inletDatum : flow.inletPressure;
  }

  /** Row of the inlet: what flows through the rims is the set flow. Returns the number of entries. */
  private inletRow(
    diagonal: Float64Array,
    b: Float64Array,
    set: number,
    { pressure, conductance, attached, datum, inletDatum }: RowsOfFlow,
  ): number {
    const { unknown, columns, values } = this;
    const sums = new Map<number, number>();
    b[0] = set;
    diagonal[0] = 0;
    const add = (outer: number, c: number) => {
      if (!(c > 0)) return;
      diagonal[0] += c;
      if (unknown[outer] > 0) {
        sums.set(unknown[outer], (sums.get(unknown[outer]) ?? 0) + c);
        if (datum) b[0] += c * (datum[outer] - inletDatum);
      } else b[0] += c * (pressure[outer] - inletDatum);
    };
    for (const { link, outer } of this.pinnedLinks) add(outer, conductance[link]);
    for (const [node, c] of attached) add(node, c);
    let nnz = 0;
    this.rowStart[0] = 0;
    this.rowSplit[0] = 0;
    for (const [u, c] of [...sums].sort((p, q) => p[0] - q[0])) {
      columns[nnz] = u;
      values[nnz++] = -c;
    }
    this.rowStart[1] = nnz;
    return nnz;
  }
}
