import type { PressureGrid } from '../../grid/pressureGrid';
import { fluxToWall, type Behind } from './behind';
import type { Columns, Thermal } from './columns';
import { HeatRows, type Densities } from './heatRows';
import type { FlowSolver } from './pressure';
import { tableValue, temperatureFor } from './thermalTables';

/** Where the heat of the melt went, J, all counted above `reference`. */
export interface HeatBalance {
  /** Carried in through the gates. */
  carriedIn: number;
  /** Made by shear. */
  sheared: number;
  /** Given to the mould. */
  lost: number;
}

/** Precision to which the temperature after a share of a step is found, K. */
const FOUND = 1e-4;

const NONE: number[] = [];

/**
 * Heat in every column: rho c (dT/dt + u.grad T) = d/dz (k dT/dz) + shear heating, finite volumes in
 * the layers, implicit in time. Layers exchange melt with the same layer of the columns up- and
 * downstream; what a layer gains on the way moves across to its neighbours, which is the convection
 * across the wall. Columns are done in order of falling pressure, each after all that feed it, so
 * one pass solves the whole and any time step is stable.
 */
export class Heat {
  readonly balance: HeatBalance = { carriedIn: 0, sheared: 0, lost: 0 };
  /** Densities of what each node holds and of what flows there, over the reference; null: 1. Length n. */
  private filling: Float64Array | null = null;
  private carrying: Float64Array | null = null;
  protected readonly rows: HeatRows;
  /** Temperatures before a step at rest, and between its two stages, K. */
  private readonly rested: Float64Array;
  private readonly between: Float64Array;
  protected readonly capacity: number;

  constructor(
    protected readonly grid: PressureGrid,
    protected readonly columns: Columns,
    protected readonly thermal: Thermal,
    protected readonly meltTemperature: number,
    private readonly reference: number,
    /** Bodies behind walls; null: the mould, everywhere. */
    readonly behind: Behind | null = null,
  ) {
    const { nLayers } = columns;
    const work = () => new Float64Array(nLayers + 1);
    this.rested = work();
    this.between = work();
    this.capacity = thermal.density * thermal.specificHeat;
    this.rows = new HeatRows(columns, thermal, this.capacity);
  }

  /** Counts `volume` m3 of fresh melt that came in outside a step. */
  admit(volume: number, temperature = this.meltTemperature): void {
    this.balance.carriedIn += volume * this.capacity * this.content(temperature);
  }

  /** How closely the specific heat follows the temperature in a step: closer where steps are long. */
  followHeat(change: number): void {
    this.rows.followHeat(change);
  }

  /** From now on every node holds this mass [kg], whatever its volume is, and what flows has this density [kg/m3]. */
  setMass(mass: ArrayLike<number>, flowing: ArrayLike<number>): void {
    const { grid, thermal } = this;
    this.filling ??= new Float64Array(grid.n).fill(1);
    this.carrying ??= new Float64Array(grid.n).fill(1);
    for (let i = 0; i < grid.n; i++) {
      if (!(mass[i] > 0)) continue;
      const plastic = this.columns.isHollow(i) ? this.rows.capacities(i).reduce((s, w) => s + w, 0) : 1;
      this.filling[i] = mass[i] / (grid.volume[i] * plastic * thermal.density);
      this.carrying[i] = flowing[i] / thermal.density;
    }
  }

  /** Counts `volume` m3 that left node i through a gate. */
  letOut(i: number, volume: number): void {
    this.admit(-volume * this.carryingOf(i), this.columns.bulkTemperature(i));
  }

  /** Heat above the reference in `mass` kg of each node, J. */
  storedInMass(mass: Float64Array): number {
    return this.stored(mass.map((m) => m / this.thermal.density));
  }

  /** Mass that a node holds, and that flows there, over the reference density. */
  fillingOf(i: number): number {
    return this.filling ? this.filling[i] : 1;
  }

  carryingOf(i: number): number {
    return this.carrying ? this.carrying[i] : 1;
  }

  private densitiesOf(i: number): Densities {
    return { filling: this.fillingOf(i), carrying: this.carryingOf(i) };
  }

  /** Heat above the reference over the heat capacity, K. */
  private content(temperature: number): number {
    const { tables } = this.thermal;
    if (!tables) return temperature - this.reference;
    return tableValue(tables.heat, temperature) - tableValue(tables.heat, this.reference);
  }

  /** Heat above the reference in `held` m3 of each node, J; m3 of the reference density. */
  stored(held: ArrayLike<number>): number {
    const { columns } = this;
    let sum = 0;
    for (let i = 0; i < this.grid.n; i++) {
      if (!(held[i] > 0)) continue;
      if (!this.thermal.tables) {
        sum += held[i] * (columns.meanTemperature(i) - this.reference);
        continue;
      }
      const share = this.rows.capacities(i);
      const whole = columns.isHollow(i) ? share.reduce((s, w) => s + w, 0) : 1;
      const at = i * columns.nLayers;
      for (let t = 0; t < columns.nLayers; t++)
        sum += ((held[i] * share[t]) / whole) * this.content(columns.temperature[at + t]);
    }
    return sum * this.capacity;
  }

  /** Takes note of the flow of a step, before its nodes. */
  begin(_solver: FlowSolver, _pinned: Uint8Array): void {}

  /** Step of a full node, after all that feed it; see Carrier. */
  node(i: number, dt: number, solver: FlowSolver, pinned: Uint8Array): void {
    if (this.grid.ducts?.joint[i]) this.passOn(i, solver, pinned);
    else this.columns.layFlow(i);
    this.meetBehind(i, dt);
    this.fullNode(i, dt, solver, pinned);
    this.takeBehind(i, dt, 1);
    this.lookBehind(i, dt, this.columns.wallStress[i]);
  }

  /** Sets what lies behind the walls of node i against the column, for a step of `dt` s. */
  private meetBehind(i: number, dt: number): void {
    if (!this.behind) return;
    for (let h = 0; h < 2; h++) {
      const side = this.columns.side(i, h);
      if (side.behind !== undefined) this.behind.meet(side.behind, dt, side);
    }
  }

  /** Carries on what the column gave in the step; `share` of the node holds melt. */
  private takeBehind(i: number, dt: number, share: number): void {
    const { behind, columns } = this;
    if (!behind) return;
    for (let h = 0; h < 2; h++) {
      const side = columns.side(i, h);
      if (side.behind === undefined) continue;
      this.wallFlux[h] = fluxToWall(columns, i, h, this.wallEdge(h, i), this.capacity);
      behind.take(side.behind, dt, this.wallFlux[h], share);
    }
  }
  private readonly wallFlux = [0, 0];

  /** What came to pass at the faces of bodies behind node i in a step; `stress` of what flows over them, Pa. */
  private lookBehind(i: number, dt: number, stress: number): void {
    if (!this.behind) return;
    for (let h = 0; h < 2; h++) {
      const stack = this.columns.side(i, h).behind;
      if (stack !== undefined) this.behind.look(stack, dt, this.wallFlux[h], stress);
    }
  }

  /** Conductance of the column's edge at the wall of a half, in the step just made, 1/s. */
  protected wallEdge(half: number, _node: number): number {
    return this.rows.conduction[half === 0 ? 0 : this.columns.nLayers];
  }

  /** Through a joint of the feed the layers go on as they come. */
  private passOn(i: number, solver: FlowSolver, pinned: Uint8Array): void {
    const { grid, columns } = this;
    const { nLayers, flowShare, shearHeat } = columns;
    const at = i * nLayers;
    shearHeat.fill(0, at, at + nLayers);
    let enter = 0;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const link = grid.rowLink[k];
      const flow = grid.linkFrom[link] === i ? -solver.linkFlow[link] : solver.linkFlow[link];
      const from = grid.rowNode[k] * nLayers;
      if (!(flow > 0) || pinned[grid.rowNode[k]]) continue;
      if (enter === 0) flowShare.fill(0, at, at + nLayers);
      for (let t = 0; t < nLayers; t++) flowShare[at + t] += flow * flowShare[from + t];
      enter += flow;
    }
    if (enter > 0) for (let t = 0; t < nLayers; t++) flowShare[at + t] /= enter;
    else columns.layFlow(i);
  }

  /** A step of hollow sections: whatever flows past, flows through none of them. */
  restHollow(dt: number, nodes: readonly number[]): void {
    for (const i of nodes) this.stillNode(i, this.grid.volume[i], dt);
  }

  /** Conduction only, for melt at rest in `held`. Second order in time: two stages, L-stable (SDIRK2). */
  rest(dt: number, nodes: ArrayLike<number>, held: ArrayLike<number>): void {
    for (let k = 0; k < nodes.length; k++) this.restNode(nodes[k], dt, held[nodes[k]]);
    this.behind?.exchange(dt);
  }

  /** Step of a full node; adds to the balance. */
  protected fullNode(i: number, dt: number, solver: FlowSolver, pinned: Uint8Array): void {
    const { grid, columns } = this;
    const { inflow, inflowHeat, made } = this.rows;
    const { nLayers, temperature, flowShare, shearHeat } = columns;
    const { linkFlow } = solver;
    const { linkFrom, rowStart, rowNode, rowLink } = grid;
    const at = i * nLayers;
    const volume = grid.volume[i];
    const heating = (volume * columns.wallStress[i] ** 2) / this.capacity;
    let sheared = 0;
    for (let t = 0; t < nLayers; t++) {
      const heat = heating * shearHeat[at + t];
      inflow[t] = 0;
      inflowHeat[t] = 0;
      made[t] = heat;
      sheared += heat;
    }
    this.balance.sheared += dt * sheared * this.capacity;
    let [enter, leave] = [0, 0];
    for (let k = rowStart[i], end = rowStart[i + 1]; k < end; k++) {
      const link = rowLink[k];
      const flow = linkFrom[link] === i ? -linkFlow[link] : linkFlow[link];
      if (!(flow > 0)) {
        leave -= flow;
        continue;
      }
      const j = rowNode[k];
      enter += flow;
      if (pinned[j]) this.fromGate(at, flow, dt);
      else {
        const from = j * nLayers;
        for (let t = 0; t < nLayers; t++) {
          const q = flow * flowShare[from + t];
          inflow[t] += q;
          inflowHeat[t] += q * temperature[from + t];
        }
      }
    }
    const attached = solver.attachedFlow[i];
    if (attached > 0) {
      enter += attached;
      this.fromGate(at, attached, dt);
    } else leave -= attached;
    this.rows.setConduction(i);
    this.rows.solve(i, volume, dt, this.densitiesOf(i), enter, leave);
    this.countLoss(i, volume, dt);
  }

  /** Fresh melt enters as the node's own flow is laid out: it has no history of layers. */
  private fromGate(at: number, flow: number, dt: number): void {
    const { columns, meltTemperature } = this;
    const { inflow, inflowHeat } = this.rows;
    for (let t = 0; t < columns.nLayers; t++) {
      const q = flow * columns.flowShare[at + t];
      inflow[t] += q;
      inflowHeat[t] += q * meltTemperature;
    }
    this.admit(flow * dt * this.carryingOf(at / columns.nLayers));
  }

  private countLoss(i: number, volume: number, dt: number): void {
    this.balance.lost += dt * volume * this.capacity * this.rows.lossRate(i);
  }

  /**
   * Melt at the front has come through the core and is laid out over the whole wall (fountain flow): it
   * arrives with the mean temperature, by flow, of the melt behind it, in every layer alike.
   */
  front(
    dt: number,
    solver: FlowSolver,
    full: Uint8Array,
    pinned: Uint8Array,
    before: Float64Array,
    after: Float64Array,
  ): void {
    const { grid } = this;
    const spilled: number[] = [];
    const bulk = new Map<number, number>();
    for (let i = 0; i < grid.n; i++) {
      if (full[i] || !(after[i] > 0)) continue;
      let flowSum = Math.max(0, solver.attachedFlow[i]);
      let heat = flowSum * this.meltTemperature;
      if (flowSum > 0) this.admit(flowSum * dt);
      for (let k = grid.rowStart[i], end = grid.rowStart[i + 1]; k < end; k++) {
        const j = grid.rowNode[k];
        if (!full[j]) continue;
        const flow = Math.abs(solver.linkFlow[grid.rowLink[k]]);
        if (!(flow > 0)) continue;
        let T = bulk.get(j);
        if (T === undefined) bulk.set(j, (T = this.columns.bulkTemperature(j)));
        flowSum += flow;
        heat += flow * T;
        if (pinned[j]) this.balance.carriedIn += flow * dt * this.capacity * this.content(T);
      }
      if (flowSum > 0) this.frontNode(i, dt, heat / flowSum, before[i], after[i]);
      else spilled.push(i);
    }
    for (const i of spilled) this.frontNode(i, dt, this.meanAround(i, after), before[i], after[i]);
    this.behind?.exchange(dt);
  }

  private frontNode(i: number, dt: number, arriving: number, before: number, after: number): void {
    const { columns } = this;
    const at = i * columns.nLayers;
    const gained = Math.max(0, after - before);
    const share = after > 0 ? gained / after : 0;
    for (let t = 0; t < columns.nLayers; t++)
      columns.temperature[at + t] += share * (arriving - columns.temperature[at + t]);
    this.meetBehind(i, dt);
    this.atRest(i, after, dt);
    this.takeBehind(i, dt, Math.min(1, after / this.grid.volume[i]));
    this.lookBehind(i, dt, 0);
  }

  /** Step of a column that holds `volume` m3 and nothing flows through; adds to the balance. */
  protected atRest(i: number, volume: number, dt: number): void {
    this.rows.setConduction(i);
    if (this.columns.isHollow(i)) this.rows.openCore(i);
    this.rows.solve(i, volume, dt, this.densitiesOf(i));
    this.countLoss(i, volume, dt);
    if (!this.columns.isHollow(i)) return;
    this.rows.exchange.fill(0);
    this.columns.hollow!.follow(i, this.columns.temperature);
  }

  private meanAround(i: number, after: Float64Array): number {
    const { grid, columns } = this;
    let sum = 0;
    let weight = 0;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      if (!(after[j] > 0)) continue;
      const w = grid.transmissibility[grid.rowLink[k]];
      sum += w * columns.meanTemperature(j);
      weight += w;
    }
    return weight > 0 ? sum / weight : this.meltTemperature;
  }

  private restNode(i: number, dt: number, volume: number): void {
    if (!(volume > 0)) return;
    const { nLayers, temperature } = this.columns;
    const at = i * nLayers;
    const gamma = 1 - Math.SQRT1_2;
    const { rested, between } = this;
    for (let t = 0; t < nLayers; t++) rested[t] = temperature[at + t];
    const before = this.balance.lost;
    const behind = this.stacksOf(i);
    for (const stack of behind) this.behind!.keep(stack);
    this.stillNode(i, volume, gamma * dt);
    // Second stage starts from what the first one's losses leave after (1 - gamma) dt.
    for (let t = 0; t < nLayers; t++) {
      between[t] = this.changed(rested[t], temperature[at + t], (1 - gamma) / gamma);
      if (between[t] === between[t]) continue;
      // Beyond what the tables know: the step is long enough for one stage to end where it has to.
      this.balance.lost = before;
      for (let l = 0; l < nLayers; l++) temperature[at + l] = rested[l];
      for (const stack of behind) this.behind!.goOn(stack, 0);
      this.stillNode(i, volume, dt);
      this.lookBehind(i, dt, 0);
      return;
    }
    const firstLoss = this.balance.lost - before;
    for (let t = 0; t < nLayers; t++) temperature[at + t] = between[t];
    for (const stack of behind) this.behind!.goOn(stack, (1 - gamma) / gamma);
    this.stillNode(i, volume, gamma * dt);
    this.balance.lost += ((1 - 2 * gamma) / gamma) * firstLoss;
    this.lookBehind(i, dt, 0);
  }

  private stillNode(i: number, volume: number, dt: number): void {
    this.meetBehind(i, dt);
    this.atRest(i, volume, dt);
    this.takeBehind(i, dt, 1);
  }

  /** What lies behind the walls of a node. */
  private stacksOf(i: number): number[] {
    if (!this.behind) return NONE;
    return [0, 1].flatMap((h) => this.columns.side(i, h).behind ?? []);
  }

  /** Temperature after `times` the heat that goes with a change from T0 to T1; NaN beyond the tables. */
  private changed(T0: number, T1: number, times: number): number {
    const { tables } = this.thermal;
    const even = T0 + times * (T1 - T0);
    if (!tables) return even;
    const { heat } = tables;
    const first = tableValue(heat, T0);
    return temperatureFor(heat, first + times * (tableValue(heat, T1) - first), even, FOUND);
  }
}
