import type { PressureGrid } from '../../grid/pressureGrid';
import { FrontWays } from './frontWays';
import type { Gating, Rim } from './gating';
import { PressureRows, type PinnedLink } from './pressureRows';

/** Fluidity of a way that is shut, 1/(Pa s): nothing for all practical purposes, and still solvable. */
const CLOSED = 1e-14;

/** A fluidity to begin an iteration from, 1/(Pa s). */
const GUESS = 1e-3;

/** What is set at the inlet: the flow rate [m3/s], or the pressure [Pa]. */
export type Drive = { flow: number } | { pressure: number };

/**
 * What a compressible melt adds: the density of every node [kg/m3], and in the row of each node
 * `diagonal` p = `right` (mass over time per pressure [kg/(s Pa)] and [kg/s]). Rows are then balances
 * of mass. Lengths n.
 */
export interface Storage {
  density: Float64Array;
  diagonal: Float64Array;
  right: Float64Array;
}

/** The melt's answer to flow: fluidity M [1/(Pa s)] of a node at an apparent shear rate [1/s]. */
export interface Rheology {
  fluidityAt(node: number, apparentShearRate: number, pressure: number, start: number): number;
  /**
   * The same of melt that enters through a gate, of one temperature and without a skin; `gateNode` is the end of the
   * feed that it comes from, -1 where it comes straight from the machine. Absent: as in the wall behind the gate.
   */
  enteringAt?(gateNode: number, apparentShearRate: number, pressure: number): number;
}

/**
 * Pressure and flow in the filled nodes for given fluidities: div(K M grad p) = 0, with the air's
 * pressure in nodes that are not full (Hieber & Shen, J. Non-Newtonian Fluid Mech. 7 (1980) 1).
 *
 * All gates are one unknown, the inlet: its row says that the flow through all rims is the set one.
 * With a set pressure it is a boundary value like the air. Pressures are above the atmosphere.
 */
export class FlowSolver {
  /** Pa. Length n; that of the air where not full. */
  readonly pressure: Float64Array;
  /** Fluidity M [1/(Pa s)] of full nodes. Length n. */
  readonly fluidity: Float64Array;
  /** Apparent shear rate [1/s] of full nodes at the last `updateFluidity`; 0 under gates. Length n. */
  readonly shearRate: Float64Array;
  /** Flow of every link, from -> to [m3/s]. Length nLinks. */
  readonly linkFlow: Float64Array;
  /** Pressure at the inlet, Pa, and flow through all gates, m3/s. */
  inletPressure = 0;
  inletFlow = 0;
  solves = 0;

  /** Of all solves together. */
  get iterations(): number {
    return this.rows.iterations;
  }
  /**
   * Pressure that each node's is counted from while it is solved for, Pa; null: none. The tolerance goes by the right-hand
   * side: where all of the melt has nearly the pressure of a boundary, what flows is lost in it unless that is nothing.
   */
  datum: Float64Array | null = null;
  /** The same for the inlet. */
  inletDatum = 0;

  /** Where the front stands: whoever moves it places it anew. */
  readonly front: FrontWays;
  /** Transmissibility x factor x fluidity of every link that touches melt [m3/(Pa s)]. */
  private readonly conductance: Float64Array;
  private readonly pinnedLinks: PinnedLink[] = [];
  /** Links of stars on a grid with a feed; `sign` 1 where they lead into the part. */
  private readonly starLinks: (Rim & { sign: number })[];
  /** Fluidity of every star and of its entry alone, 1/(Pa s); 0 before they are known. */
  private readonly starFluidity: Float64Array;
  private readonly entryFluidity: Float64Array;
  /** Least apparent shear rate under the gates, 1/s: the melt there has come through a narrower place. Length n. */
  private readonly leastRate: Float64Array;
  /** Flow from the inlet straight into nodes, m3/s. Length n. */
  readonly attachedFlow: Float64Array;
  private readonly rows: PressureRows;

  constructor(
    private readonly grid: PressureGrid,
    private readonly gating: Gating,
    private readonly rheology: Rheology,
  ) {
    const nLinks = grid.linkFrom.length;
    this.pressure = new Float64Array(grid.n);
    this.fluidity = new Float64Array(grid.n);
    this.shearRate = new Float64Array(grid.n);
    this.linkFlow = new Float64Array(nLinks);
    this.front = new FrontWays(grid);
    this.conductance = new Float64Array(nLinks);
    for (let link = 0; link < nLinks; link++) {
      const [from, to] = [grid.linkFrom[link], grid.linkTo[link]];
      const [a, b] = [gating.gateOfNode[from], gating.gateOfNode[to]];
      if (a >= 0 && b < 0) this.pinnedLinks.push({ link, gate: a, outer: to, sign: 1 });
      if (b >= 0 && a < 0) this.pinnedLinks.push({ link, gate: b, outer: from, sign: -1 });
    }
    const hasInlet = gating.attached.length > 0 || this.pinnedLinks.length > 0;
    this.rows = new PressureRows(grid, gating, this.pinnedLinks, hasInlet);
    this.starLinks = (gating.rims ?? []).map((rim) => ({ ...rim, sign: grid.linkTo[rim.link] === rim.outer ? 1 : -1 }));
    this.starFluidity = new Float64Array(gating.stars.length);
    this.entryFluidity = new Float64Array(gating.stars.length);
    this.leastRate = new Float64Array(grid.n);
    this.attachedFlow = new Float64Array(grid.n);
  }

  /** Adds to `mean` (length n) the pressure above the air's [Pa] in nodes that the front stands in: see FrontWays. */
  addFrontPressure(full: Uint8Array, mean: Float64Array): void {
    this.front.addPressure(full, this.pressure, this.conductance, mean);
  }

  private linkFluidity(link: number, full: Uint8Array): number {
    const { fluidity, grid } = this;
    const [a, b] = [grid.linkFrom[link], grid.linkTo[link]];
    const { gateOfNode } = this.gating;
    // A pinned node has no flow of its own: its outer neighbour speaks for the link.
    const useA = full[a] === 1 && gateOfNode[a] < 0;
    const useB = full[b] === 1 && gateOfNode[b] < 0;
    if (useA && useB) {
      const share = grid.linkShare ? grid.linkShare[link] : 0.5;
      return (fluidity[a] * fluidity[b]) / (share * fluidity[b] + (1 - share) * fluidity[a]);
    }
    if (useA) return fluidity[a];
    if (useB) return fluidity[b];
    return Math.max(full[a] ? fluidity[a] : 0, full[b] ? fluidity[b] : 0);
  }

  private updateConductances(full: Uint8Array): void {
    const { grid, gating, conductance, starLinks, starFluidity } = this;
    for (let l = 0; l < conductance.length; l++) {
      const a = grid.linkFrom[l];
      const b = grid.linkTo[l];
      if (!full[a] && !full[b]) {
        conductance[l] = 0;
        continue;
      }
      const way = full[a] && full[b] ? 1 : this.front.to(full[a] ? b : a, l);
      conductance[l] = (grid.transmissibility[l] * gating.linkFactor[l] * this.linkFluidity(l, full)) / way;
    }
    for (const { link, outer, star } of starLinks) {
      // A place that is closed stays so whatever the melt in the gate does.
      if (!(starFluidity[star] > 0) || !(conductance[link] > 0) || this.isClosed(outer)) continue;
      conductance[link] = grid.transmissibility[link] * gating.linkFactor[link] * starFluidity[star];
    }
  }

  private isClosed(node: number): boolean {
    return this.fluidity[node] > 0 && this.fluidity[node] <= CLOSED;
  }

  /** Conductance of a link from the inlet into a node at the present fluidities, m3/(Pa s). */
  private attachedConductance({ node, conductance, star }: Gating['attached'][number]): number {
    const own = this.fluidity[node];
    const fluidity = star >= 0 && !this.isClosed(node) ? this.starFluidity[star] || own : own;
    return conductance * fluidity;
  }

  /**
   * Assembles and solves for the filled region; updates pressure, linkFlow, inletPressure and inletFlow.
   * `air` is the pressure [Pa] in nodes that are not full. `sameRegion` says that only fluidities
   * changed since the last call: its multigrid hierarchy is then still a good preconditioner and is kept.
   */
  solve(
    full: Uint8Array,
    air: Float64Array,
    drive: Drive,
    tolerance: number,
    sameRegion = false,
    storage: Storage | null = null,
  ): void {
    const { grid, gating, pressure, conductance, rows, datum, inletDatum } = this;
    this.updateConductances(full);
    if (storage) this.weigh(storage.density, 1);
    const n = rows.unknowns(full, air, pressure, drive);
    if ('pressure' in drive) this.inletPressure = drive.pressure;
    const { inletPressure } = this;
    const attached = this.attachedConductances(storage?.density);
    const flow = { pressure, inletPressure, conductance, attached, datum, inletDatum, storage };
    if (n > 0) this.inletPressure = rows.solve(n, flow, drive, tolerance, sameRegion);
    if (storage) this.weigh(storage.density, -1);
    for (let i = 0; i < grid.n; i++) if (gating.gateOfNode[i] >= 0) pressure[i] = this.inletPressure;
    this.updateFlows();
    // Over the short way at the inlet the pressure hardly falls: what arrives at the front is the surer measure.
    if ('pressure' in drive && !storage) this.inletFlow = this.flowToFront(full);
    this.solves++;
  }

  /** Mean density of what a link carries: `sign` 1 makes flows of mass of those of volume, -1 the other way. */
  private weigh(density: Float64Array, sign: 1 | -1): void {
    const { grid, conductance } = this;
    for (let l = 0; l < conductance.length; l++) {
      const mean = 0.5 * (density[grid.linkFrom[l]] + density[grid.linkTo[l]]);
      conductance[l] *= sign > 0 ? mean : 1 / mean;
    }
  }

  /**
   * Mass that flows into every node [kg/s], and the sum of what comes from the gates, for the flows of the
   * last solve with this storage. `into` has length n; nodes under gates get what they pass on with a minus.
   */
  massFlows({ density }: Storage, into: Float64Array): number {
    const { grid, linkFlow, gating, pressure } = this;
    into.fill(0);
    for (let l = 0; l < linkFlow.length; l++) {
      const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
      const flow = 0.5 * (density[a] + density[b]) * linkFlow[l];
      into[a] -= flow;
      into[b] += flow;
    }
    let fromGates = 0;
    for (const a of gating.attached) {
      const { node } = a;
      const flow = density[node] * this.attachedConductance(a) * (this.inletPressure - pressure[node]);
      into[node] += flow;
      fromGates += flow;
    }
    for (let i = 0; i < grid.n; i++) if (gating.gateOfNode[i] >= 0) fromGates -= into[i];
    return fromGates;
  }

  private attachedConductances(density?: Float64Array): Map<number, number> {
    const sums = new Map<number, number>();
    for (const a of this.gating.attached)
      sums.set(a.node, (sums.get(a.node) ?? 0) + this.attachedConductance(a) * (density?.[a.node] ?? 1));
    return sums;
  }

  private updateFlows(): void {
    const { grid, pressure, linkFlow, conductance } = this;
    for (let l = 0; l < linkFlow.length; l++)
      linkFlow[l] = conductance[l] * (pressure[grid.linkFrom[l]] - pressure[grid.linkTo[l]]);
    this.scale = 1;
    this.inletFlow = 0;
    for (const { link, sign } of this.pinnedLinks) this.inletFlow += sign * linkFlow[link];
    this.attachedFlow.fill(0);
    for (const a of this.gating.attached) {
      const flow = this.attachedConductance(a) * (this.inletPressure - pressure[a.node]);
      this.attachedFlow[a.node] += flow;
      this.inletFlow += flow;
    }
  }

  private flowToFront(full: Uint8Array): number {
    const { grid, linkFlow, attachedFlow } = this;
    let sum = 0;
    for (let i = 0; i < attachedFlow.length; i++) if (!full[i]) sum += attachedFlow[i];
    for (let l = 0; l < linkFlow.length; l++)
      if (full[grid.linkFrom[l]] !== full[grid.linkTo[l]]) sum += full[grid.linkTo[l]] ? -linkFlow[l] : linkFlow[l];
    return sum;
  }

  /** Flow of each gate [m3/s]. */
  gateInflow(nGates: number): Float64Array {
    const inflow = new Float64Array(nGates);
    for (const { link, gate, sign } of this.pinnedLinks) inflow[gate] += sign * this.linkFlow[link];
    for (const { link, gate, sign } of this.starLinks) if (gate < nGates) inflow[gate] += sign * this.linkFlow[link];
    if (this.gating.gateNode) return inflow;
    this.gating.attached.forEach((a, k) => (inflow[a.gate] += this.attachedShare(k)));
    return inflow;
  }

  /** Pressure that each gate takes for itself, the entry of its near field, Pa. */
  gateLoss(nGates: number): Float64Array {
    const loss = new Float64Array(nGates);
    const flows = this.starFlows();
    this.gating.stars.forEach(({ gate, entry }, k) => {
      if (gate < nGates && this.entryFluidity[k] > 0) loss[gate] = (entry * Math.abs(flows[k])) / this.entryFluidity[k];
    });
    return loss;
  }

  private starFlows(): Float64Array {
    const flows = new Float64Array(this.gating.stars.length);
    for (const { link, star, sign } of this.starLinks) flows[star] += sign * this.linkFlow[link];
    this.gating.attached.forEach(({ star }, k) => {
      if (star >= 0) flows[star] += this.attachedShare(k);
    });
    return flows;
  }

  /** What the next solve starts from, and the present flows: what a state keeps of the solver. */
  get memory() {
    const { pressure, fluidity, shearRate, leastRate, attachedFlow, linkFlow, starFluidity, entryFluidity } = this;
    return {
      node: { pressure, fluidity, shearRate, leastRate, attachedFlow },
      link: { flow: linkFlow },
      star: { fluidity: starFluidity, entryFluidity },
    };
  }

  /** The same, kept; the returned function puts it back. */
  mark(): () => void {
    const { node, link, star } = this.memory;
    const kept = [node, link, star].flatMap((group) => Object.values(group));
    const copies = kept.map((values) => values.slice());
    const { inletPressure, inletFlow, scale } = this;
    return () => {
      kept.forEach((values, k) => values.set(copies[k]));
      Object.assign(this, { inletPressure, inletFlow, scale });
    };
  }

  private scale = 1;

  /**
   * Makes the flows of the last solve `factor` times as large until the next one: the same volume over another
   * time. 0 stops them.
   */
  scaleFlows(factor: number): void {
    const { linkFlow, attachedFlow } = this;
    for (let l = 0; l < linkFlow.length; l++) linkFlow[l] *= factor;
    for (let i = 0; i < attachedFlow.length; i++) attachedFlow[i] *= factor;
    this.scale *= factor;
  }

  /** Flow of entry k of the inlet's links into nodes [m3/s]. */
  attachedShare(k: number): number {
    const a = this.gating.attached[k];
    return this.scale * this.attachedConductance(a) * (this.inletPressure - this.pressure[a.node]);
  }

  /**
   * Apparent shear rate [1/s] of a node: H_w |q|, where q is the flow of its links divided by their
   * transmissibility, component by component.
   */
  apparentShearRate(node: number): number {
    const { grid, linkFlow } = this;
    if (grid.ducts && grid.ducts.rate[node] > 0) return grid.ducts.rate[node] * this.throughflow(node);
    let fx = 0;
    let fy = 0;
    let fz = 0;
    let tx = 0;
    let ty = 0;
    let tz = 0;
    for (let k = grid.rowStart[node], end = grid.rowStart[node + 1]; k < end; k++) {
      const l = grid.rowLink[k];
      const axis = grid.linkAxis[l];
      const flow = linkFlow[l];
      const t = grid.transmissibility[l];
      if (axis === 0) {
        fx += flow;
        tx += t;
      } else if (axis === 1) {
        fy += flow;
        ty += t;
      } else if (axis === 2) {
        fz += flow;
        tz += t;
      }
    }
    const qx = tx > 0 ? fx / tx : 0;
    const qy = ty > 0 ? fy / ty : 0;
    const qz = tz > 0 ? fz / tz : 0;
    return Math.max(this.leastRate[node], (Math.sqrt(qx * qx + qy * qy + qz * qz) * grid.wallGap[node]) / grid.spacing);
  }

  /** Nodes that are not `open` (0) let nothing through until their fluidity is next updated. */
  close(open: Uint8Array): void {
    const { fluidity } = this;
    for (let i = 0; i < fluidity.length; i++) if (!open[i]) fluidity[i] = CLOSED;
  }

  /** What flows through a node of the feed, m3/s. */
  private throughflow(node: number): number {
    const { grid, linkFlow } = this;
    let [enter, leave] = [this.attachedFlow[node], 0];
    for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
      const l = grid.rowLink[k];
      const flow = grid.linkTo[l] === node ? linkFlow[l] : -linkFlow[l];
      if (flow > 0) enter += flow;
      else leave -= flow;
    }
    return Math.max(enter, leave);
  }

  /**
   * Moves the fluidities of full nodes towards those of the present flow; returns the root mean square
   * of the change of ln M wanted (a maximum would follow slivers).
   */
  updateFluidity(full: Uint8Array, relaxation: number): number {
    const { grid, gating, fluidity, pressure, rheology } = this;
    let change = 0;
    let n = 0;
    this.updateStars(relaxation);
    for (let i = 0; i < grid.n; i++) {
      if (!full[i] || gating.gateOfNode[i] >= 0) continue;
      const rate = this.apparentShearRate(i);
      this.shearRate[i] = rate;
      const step = Math.log(rheology.fluidityAt(i, rate, pressure[i], fluidity[i]) / fluidity[i]);
      fluidity[i] *= Math.exp(relaxation * step);
      change += step * step;
      n++;
    }
    return n ? Math.sqrt(change / n) : 0;
  }

  /** Fluidities of the stars at a guess of their flow [m3/s], where none is known yet. */
  startStars(flow: number): void {
    this.followStars(new Float64Array(this.gating.stars.length).fill(flow), 1);
  }

  private updateStars(relaxation: number): void {
    if (this.gating.stars.length) this.followStars(this.starFlows(), relaxation);
  }

  /** Fluidities of the stars from their flows, and the shear rates that their nodes have at least. */
  private followStars(flows: Float64Array, relaxation: number): void {
    const { gating, leastRate, starFluidity, entryFluidity, fluidity, pressure, rheology } = this;
    for (const { links } of gating.stars) for (const { node } of links) leastRate[node] = 0;
    gating.stars.forEach(({ gate, node, links, entry, spread, entryRate, spreadRate, edgeRate }, k) => {
      const q = Math.abs(flows[k]);
      for (const link of links) leastRate[link.node] = Math.max(leastRate[link.node], q * edgeRate);
      const start = starFluidity[k] || fluidity[node] || GUESS;
      const spreading = rheology.fluidityAt(node, q * spreadRate, pressure[node], start);
      entryFluidity[k] =
        rheology.enteringAt?.(gating.gateNode?.[gate] ?? -1, q * entryRate, pressure[node]) ??
        rheology.fluidityAt(node, q * entryRate, pressure[node], spreading);
      const target = (entry + spread) / (entry / entryFluidity[k] + spread / spreading);
      const now = starFluidity[k] || target;
      starFluidity[k] = now * Math.pow(target / now, relaxation);
    });
  }
}
