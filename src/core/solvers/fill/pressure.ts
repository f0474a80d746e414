import type { PressureGrid } from '../../grid/pressureGrid';
import type { SectionFlow } from '../../material/sectionFlow';
import { CompiledMultigrid } from '../../numerics/compiledMultigrid';
import type { Inlet } from './inlet';

/**
 * Pressure and flow in the filled nodes for given fluidities. div(K M grad p) = 0 with p = 0 in
 * nodes that are not full (Hieber & Shen, J. Non-Newtonian Fluid Mech. 7 (1980) 1).
 *
 * Everything is solved for unit pressure at the inlet and scaled: with frozen fluidities the flow is
 * linear in the inlet pressure.
 */
export class FlowSolver {
  /** Pressure over inlet pressure. Length n; 0 where not full. */
  readonly unitPressure: Float64Array;
  /** Fluidity M [1/(Pa s)] of full nodes. Length n. */
  readonly fluidity: Float64Array;
  /** Apparent shear rate [1/s] of full nodes at the last `updateFluidity`; 0 under gates. Length n. */
  readonly shearRate: Float64Array;
  /** Flow of every link for unit inlet pressure, from -> to [m3/(Pa s)]. Length nLinks. */
  readonly unitFlow: Float64Array;
  /** Flow through all gates for unit inlet pressure. */
  unitInflow = 0;
  iterations = 0;
  solves = 0;

  /** Transmissibility x factor x fluidity of every link that touches melt [m3/(Pa s)]. */
  private readonly conductance: Float64Array;
  private readonly unknown: Int32Array;
  private readonly nodeOfUnknown: Int32Array;
  private readonly rowStart: Int32Array;
  private readonly rowSplit: Int32Array;
  private readonly columns: Int32Array;
  private readonly values: Float64Array;
  /** Links with one end pinned, the gate they feed from, and their own fluidity (0 before it is known). */
  private readonly gateLinks: { link: number; gate: number; sign: number; fluidity: number }[] = [];
  private readonly multigrid = new CompiledMultigrid();

  constructor(
    private readonly grid: PressureGrid,
    private readonly inlet: Inlet,
    private readonly flow: SectionFlow,
  ) {
    const nLinks = grid.linkFrom.length;
    this.unitPressure = new Float64Array(grid.n);
    this.fluidity = new Float64Array(grid.n);
    this.shearRate = new Float64Array(grid.n);
    this.unitFlow = new Float64Array(nLinks);
    this.conductance = new Float64Array(nLinks);
    this.unknown = new Int32Array(grid.n);
    this.nodeOfUnknown = new Int32Array(grid.n);
    this.rowStart = new Int32Array(grid.n + 1);
    this.rowSplit = new Int32Array(grid.n);
    this.columns = new Int32Array(2 * nLinks);
    this.values = new Float64Array(2 * nLinks);
    for (let link = 0; link < nLinks; link++) {
      const from = inlet.gateOfNode[grid.linkFrom[link]];
      const to = inlet.gateOfNode[grid.linkTo[link]];
      if (from >= 0 && to < 0) this.gateLinks.push({ link, gate: from, sign: 1, fluidity: 0 });
      if (to >= 0 && from < 0) this.gateLinks.push({ link, gate: to, sign: -1, fluidity: 0 });
    }
  }

  private linkFluidity(a: number, b: number, full: Uint8Array): number {
    const { fluidity } = this;
    const { gateOfNode } = this.inlet;
    // A pinned node has no flow of its own: its outer neighbour speaks for the link.
    const useA = full[a] === 1 && gateOfNode[a] < 0;
    const useB = full[b] === 1 && gateOfNode[b] < 0;
    if (useA && useB) return (2 * fluidity[a] * fluidity[b]) / (fluidity[a] + fluidity[b]);
    if (useA) return fluidity[a];
    if (useB) return fluidity[b];
    return Math.max(full[a] ? fluidity[a] : 0, full[b] ? fluidity[b] : 0);
  }

  private updateConductances(full: Uint8Array): void {
    const { grid, inlet, conductance } = this;
    for (let l = 0; l < conductance.length; l++) {
      const a = grid.linkFrom[l];
      const b = grid.linkTo[l];
      conductance[l] =
        full[a] || full[b] ? grid.transmissibility[l] * inlet.linkFactor[l] * this.linkFluidity(a, b, full) : 0;
    }
    for (const { link, fluidity } of this.gateLinks) {
      if (fluidity > 0 && conductance[link] > 0)
        conductance[link] = grid.transmissibility[link] * inlet.linkFactor[link] * fluidity;
    }
  }

  /**
   * Assembles and solves for the filled region; updates unitPressure, unitFlow and unitInflow.
   * `sameRegion` says that only fluidities changed since the last call: its multigrid hierarchy is
   * then still a good preconditioner and is kept.
   */
  solve(full: Uint8Array, tolerance: number, sameRegion = false): void {
    const { grid, inlet, unknown, nodeOfUnknown, unitPressure } = this;
    this.updateConductances(full);
    let n = 0;
    for (let i = 0; i < grid.n; i++) {
      unknown[i] = -1;
      if (inlet.gateOfNode[i] >= 0) unitPressure[i] = 1;
      else if (full[i]) {
        unknown[i] = n;
        nodeOfUnknown[n++] = i;
      } else unitPressure[i] = 0;
    }
    if (n > 0) this.solveUnknowns(n, tolerance, sameRegion);
    this.updateFlows();
    this.solves++;
  }

  private solveUnknowns(n: number, tolerance: number, sameRegion: boolean): void {
    const { grid, inlet, unknown, nodeOfUnknown, unitPressure, conductance, rowStart, rowSplit, columns, values } =
      this;
    const diagonal = new Float64Array(n);
    const b = new Float64Array(n);
    let nnz = 0;
    for (let u = 0; u < n; u++) {
      const i = nodeOfUnknown[u];
      let diag = 0;
      rowSplit[u] = nnz;
      for (let k = grid.rowStart[i], end = grid.rowStart[i + 1]; k < end; k++) {
        const j = grid.rowNode[k];
        const c = conductance[grid.rowLink[k]];
        diag += c;
        if (unknown[j] >= 0) {
          columns[nnz] = unknown[j];
          values[nnz++] = -c;
          // The grid's rows ascend, so the lower entries come first.
          if (j < i) rowSplit[u] = nnz;
        } else if (inlet.gateOfNode[j] >= 0) b[u] += c;
      }
      diagonal[u] = diag;
      rowStart[u + 1] = nnz;
    }
    for (const attached of inlet.attached) {
      const u = unknown[attached.node];
      if (u < 0) continue;
      const c = attached.conductance * this.fluidity[attached.node];
      diagonal[u] += c;
      b[u] += c;
    }
    for (let u = 0; u < n; u++) if (!(diagonal[u] > 0)) diagonal[u] = 1;
    const x = new Float64Array(n);
    for (let u = 0; u < n; u++) x[u] = unitPressure[nodeOfUnknown[u]];
    const A = { n, rowStart, rowSplit, columns, values, diagonal };
    if (!sameRegion) this.multigrid.setMatrix(A);
    this.iterations += this.multigrid.solve(A, b, x, tolerance).iterations;
    for (let u = 0; u < n; u++) unitPressure[nodeOfUnknown[u]] = x[u];
  }

  private updateFlows(): void {
    const { grid, unitPressure, unitFlow, conductance } = this;
    for (let l = 0; l < unitFlow.length; l++)
      unitFlow[l] = conductance[l] * (unitPressure[grid.linkFrom[l]] - unitPressure[grid.linkTo[l]]);
    this.unitInflow = 0;
    for (const { link, sign } of this.gateLinks) this.unitInflow += sign * unitFlow[link];
    for (const { node, conductance: c } of this.inlet.attached)
      this.unitInflow += c * this.fluidity[node] * (1 - unitPressure[node]);
  }

  /** Flow of each gate for unit inlet pressure [m3/(Pa s)]. */
  gateInflow(nGates: number): Float64Array {
    const inflow = new Float64Array(nGates);
    for (const { link, gate, sign } of this.gateLinks) inflow[gate] += sign * this.unitFlow[link];
    for (const { gate, node, conductance: c } of this.inlet.attached)
      inflow[gate] += c * this.fluidity[node] * (1 - this.unitPressure[node]);
    return inflow;
  }

  /**
   * Apparent shear rate [1/s] of a node at the given inlet pressure [Pa]: H_w |q|, where q is the
   * flow of its links divided by their transmissibility, component by component.
   */
  apparentShearRate(node: number, inletPressure: number): number {
    const { grid, unitFlow } = this;
    let fx = 0;
    let fy = 0;
    let fz = 0;
    let tx = 0;
    let ty = 0;
    let tz = 0;
    for (let k = grid.rowStart[node], end = grid.rowStart[node + 1]; k < end; k++) {
      const l = grid.rowLink[k];
      const axis = grid.linkAxis[l];
      const flow = unitFlow[l];
      const t = grid.transmissibility[l];
      if (axis === 0) {
        fx += flow;
        tx += t;
      } else if (axis === 1) {
        fy += flow;
        ty += t;
      } else {
        fz += flow;
        tz += t;
      }
    }
    const qx = tx > 0 ? fx / tx : 0;
    const qy = ty > 0 ? fy / ty : 0;
    const qz = tz > 0 ? fz / tz : 0;
    return (Math.sqrt(qx * qx + qy * qy + qz * qz) * inletPressure * grid.wallGap[node]) / grid.spacing;
  }

  /**
   * Moves the fluidities of full nodes towards those of the present flow; returns the root mean square
   * of the change of ln M wanted (a maximum would follow slivers).
   */
  updateFluidity(full: Uint8Array, inletPressure: number, relaxation: number): number {
    const { grid, inlet, fluidity, unitPressure } = this;
    let change = 0;
    let n = 0;
    for (let i = 0; i < grid.n; i++) {
      if (!full[i] || inlet.gateOfNode[i] >= 0) continue;
      const rate = this.apparentShearRate(i, inletPressure);
      this.shearRate[i] = rate;
      const target = 1 / this.flow.effectiveViscosity(rate, grid.shape[i], unitPressure[i] * inletPressure);
      const step = Math.log(target / fluidity[i]);
      fluidity[i] *= Math.exp(relaxation * step);
      change += step * step;
      n++;
    }
    for (const gateLink of this.gateLinks) {
      const outer = gateLink.sign > 0 ? grid.linkTo[gateLink.link] : grid.linkFrom[gateLink.link];
      if (!full[outer]) continue;
      // Between rim and node the flow is faster than at the node: its mean counts for the link.
      const rate = this.apparentShearRate(outer, inletPressure) * inlet.linkShear[gateLink.link];
      const pressure = unitPressure[outer] * inletPressure;
      const target = 1 / this.flow.effectiveViscosity(rate, grid.shape[outer], pressure);
      const old = gateLink.fluidity || target;
      gateLink.fluidity = old * Math.pow(target / old, relaxation);
    }
    return n ? Math.sqrt(change / n) : 0;
  }
}
