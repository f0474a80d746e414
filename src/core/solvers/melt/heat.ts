import type { PressureGrid } from '../../grid/pressureGrid';
import { fluxToWall, type Behind } from './behind';
import type { Columns, Thermal } from './columns';
import { CENTRES, HALF_LAYERS } from './layers';
import type { FlowSolver } from './pressure';
import { tableSlope, tableValue, temperatureFor } from './thermalTables';

/** Where the heat of the melt went, J, all counted above `reference`. */
export interface HeatBalance {
  /** Carried in through the gates. */
  carriedIn: number;
  /** Made by shear. */
  sheared: number;
  /** Given to the mould. */
  lost: number;
}

/** A layer that changes by less keeps the specific heat of its temperature, K. */
const LEAST_CHANGE = 1e-3;
/** Most passes of a step in which the specific heat follows the temperature, and the change that is let be. */
const HEAT_PASSES = 8;
const HEAT_CHANGE = 0.1;
/** From here on nothing is followed: one pass a step. */
export const NOT_FOLLOWED = 1000;

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
  /** Of the column being solved: the upper entries after elimination. */
  private readonly eliminated: Float64Array;
  private readonly inflow: Float64Array;
  private readonly inflowHeat: Float64Array;
  /** Conduction between layers and to the walls of the node at hand, W/K per m3. Length nLayers + 1. */
  protected readonly conduction: Float64Array;
  /** Heat made by shear in each layer over the capacity, K m3/s. */
  private readonly made: Float64Array;
  /** Specific heat of each layer over the reference: 1 unless the melt's tables say otherwise. */
  private readonly relative: Float64Array;
  private readonly start: Float64Array;
  /** Capacities of a hollow column, and what the fluid in its core takes up in each layer, 1/s. */
  private readonly left: Float64Array;
  private readonly exchange: Float64Array;
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
    this.eliminated = work();
    this.inflow = work();
    this.inflowHeat = work();
    this.conduction = work();
    this.left = new Float64Array(nLayers);
    this.exchange = work();
    this.rested = work();
    this.between = work();
    this.made = work();
    this.relative = work().fill(1);
    this.start = work();
    this.capacity = thermal.density * thermal.specificHeat;
  }

  /** Counts `volume` m3 of fresh melt that came in outside a step. */
  admit(volume: number, temperature = this.meltTemperature): void {
    this.balance.carriedIn += volume * this.capacity * this.content(temperature);
  }

  private heatChange = HEAT_CHANGE;

  /** How closely the specific heat follows the temperature in a step: closer where steps are long. */
  followHeat(change: number): void {
    this.heatChange = change;
  }

  /** From now on every node holds this mass [kg], whatever its volume is, and what flows has this density [kg/m3]. */
  setMass(mass: ArrayLike<number>, flowing: ArrayLike<number>): void {
    const { grid, thermal } = this;
    this.filling ??= new Float64Array(grid.n).fill(1);
    this.carrying ??= new Float64Array(grid.n).fill(1);
    for (let i = 0; i < grid.n; i++) {
      if (!(mass[i] > 0)) continue;
      const plastic = this.columns.isHollow(i) ? this.capacities(i).reduce((s, w) => s + w, 0) : 1;
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
      const share = this.capacities(i);
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
    return this.conduction[half === 0 ? 0 : this.columns.nLayers];
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
    const { grid, columns, inflow, inflowHeat } = this;
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
      this.made[t] = heat;
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
    this.setConduction(i);
    this.solveColumn(i, volume, dt, enter, leave);
    this.countLoss(i, volume, dt);
  }

  /** Fresh melt enters as the node's own flow is laid out: it has no history of layers. */
  private fromGate(at: number, flow: number, dt: number): void {
    const { columns, inflow, inflowHeat, meltTemperature } = this;
    for (let t = 0; t < columns.nLayers; t++) {
      const q = flow * columns.flowShare[at + t];
      inflow[t] += q;
      inflowHeat[t] += q * meltTemperature;
    }
    this.admit(flow * dt * this.carryingOf(at / columns.nLayers));
  }

  /** W/K per m3 of column over the heat capacity: 1/s. Edge t lies between layers t - 1 and t. */
  protected setConduction(i: number): void {
    const { columns, conduction, thermal } = this;
    const { nLayers, nHalves } = columns;
    const { edgeFactor } = columns.layersOf(i);
    const reach = columns.reach[i];
    const scale = thermal.conductivity / (reach * reach * this.capacity);
    for (let t = 0; t <= nLayers; t++) conduction[t] = scale * edgeFactor[t];
    const inside = 1 - CENTRES[HALF_LAYERS - 1];
    conduction[nLayers] /= inside + thermal.conductivity / (columns.side(i, nHalves - 1).transfer * reach);
    if (nHalves === 2) conduction[0] /= inside + thermal.conductivity / (columns.side(i, 0).transfer * reach);
  }

  /** Heat capacity of each layer over that of the whole column, without a core; what is gone in a hollow one is missing. */
  protected capacities(i: number): Float64Array {
    const { columns, left } = this;
    const { share } = columns.layersOf(i);
    if (!columns.isHollow(i)) return share;
    const plastic = columns.hollow!.plastic(i);
    for (let t = 0; t < columns.nLayers; t++) left[t] = share[t] * plastic[t];
    return left;
  }

  /**
   * One implicit step of the column of node i, which holds `volume` m3. Where the melt's properties
   * change with temperature the step is repeated with the specific heat that carries each layer from
   * where it was to where the pass before has put it, so that latent heat is not stepped over. Needs `setConduction`.
   */
  private solveColumn(i: number, volume: number, dt: number, enter = 0, leave = 0): void {
    const { tables } = this.thermal;
    if (!tables) return this.solveRows(i, volume, dt, enter, leave);
    const { columns, relative, start } = this;
    const { nLayers, temperature } = columns;
    const at = i * nLayers;
    for (let t = 0; t < nLayers; t++) {
      start[t] = temperature[at + t];
      relative[t] = tableSlope(tables.heat, start[t]);
    }
    this.scaleConduction(i, tables.conduct);
    this.solveRows(i, volume, dt, enter, leave);
    for (let pass = 1; pass < HEAT_PASSES && this.heatChange < NOT_FOLLOWED; pass++) {
      let most = 0;
      for (let t = 0; t < nLayers; t++) {
        const end = temperature[at + t];
        if (!(Math.abs(end - start[t]) > LEAST_CHANGE)) continue;
        const c = (tableValue(tables.heat, end) - tableValue(tables.heat, start[t])) / (end - start[t]);
        most = Math.max(most, Math.abs(c / relative[t] - 1));
        relative[t] = c;
      }
      if (most < this.heatChange) return;
      for (let t = 0; t < nLayers; t++) temperature[at + t] = start[t];
      this.solveRows(i, volume, dt, enter, leave);
    }
  }

  /** Conductances at the present temperatures of the layers, from those of the reference. */
  private scaleConduction(i: number, conduct: Float64Array): void {
    const { columns, conduction, thermal } = this;
    const { nLayers, nHalves, temperature } = columns;
    const at = i * nLayers;
    const inside = 1 - CENTRES[HALF_LAYERS - 1];
    const wall = (half: number, k: number) => {
      const film = thermal.conductivity / (columns.side(i, half).transfer * columns.reach[i]);
      return (inside + film) / (inside / k + film);
    };
    let before = tableValue(conduct, temperature[at]);
    if (nHalves === 2) conduction[0] *= wall(0, before);
    for (let t = 1; t < nLayers; t++) {
      const k = tableValue(conduct, temperature[at + t]);
      conduction[t] *= 0.5 * (before + k);
      before = k;
    }
    conduction[nLayers] *= wall(nHalves - 1, before);
  }

  /**
   * Rows of a column: storage, conduction and, where `enter` m3/s flow in and `leave` m3/s out,
   * what `inflow`, `inflowHeat` and `made` say. A layer that gets more than it passes on gives the
   * rest to its neighbour, upwind. Rows are made as the Thomas algorithm eats them; all are divided by the
   * reference heat capacity: m3/s and K m3/s.
   */
  private solveRows(i: number, volume: number, dt: number, enter: number, leave: number): void {
    const { columns, eliminated, inflow, inflowHeat, conduction, relative, made } = this;
    const { nLayers, nHalves, temperature, flowShare } = columns;
    const share = this.capacities(i);
    const at = i * nLayers;
    const last = nLayers - 1;
    const perStep = volume / dt;
    const filling = this.fillingOf(i);
    const carrying = this.carryingOf(i);
    const flows = enter > 0 || leave > 0;
    // What stays is spread over the whole section, what goes on takes the layers of the flow.
    const stays = enter - leave;
    const core = columns.hollow?.inner.temperature ?? 0;
    let below = volume * conduction[0];
    // The walls are boundary values. A half column has no flux through the middle.
    let value = nHalves === 2 ? below * columns.side(i, 0).temperature : 0;
    let lower = 0;
    let pivot = 0;
    let across = 0;
    let arriving = 0;
    for (let t = 0; t <= last; t++) {
      const c = carrying * relative[t];
      const above = volume * conduction[t + 1];
      const storage = perStep * share[t] * filling * relative[t];
      arriving *= c;
      lower -= arriving;
      const taken = volume * this.exchange[t];
      let diagonal = storage + below + above + arriving + taken;
      let right = value + storage * temperature[at + t] + taken * core;
      let upper = -above;
      let leaving = 0;
      if (flows) {
        diagonal += c * inflow[t];
        right += c * inflowHeat[t] + made[t];
        across += inflow[t] - leave * flowShare[at + t] - stays * share[t];
        if (t < last && across > 0) leaving = across;
        else if (t < last) {
          diagonal -= c * across;
          upper += c * across;
        }
      }
      if (t === last) right += above * columns.side(i, nHalves - 1).temperature;
      if (t > 0) {
        diagonal -= lower * pivot;
        right -= lower * temperature[at + t - 1];
      }
      const inverse = 1 / diagonal;
      pivot = upper * inverse;
      eliminated[t] = pivot;
      temperature[at + t] = right * inverse;
      lower = -above;
      arriving = leaving;
      below = above;
      value = 0;
    }
    for (let t = last - 1; t >= 0; t--) temperature[at + t] -= eliminated[t] * temperature[at + t + 1];
  }

  private countLoss(i: number, volume: number, dt: number): void {
    this.balance.lost += dt * volume * this.capacity * this.lossRate(i);
  }

  /** Heat to both walls and to a fluid in the core, per volume and capacity, K/s, at the present temperatures. Needs `setConduction`. */
  private lossRate(i: number): number {
    const { columns, conduction } = this;
    const { nLayers, nHalves, temperature } = columns;
    const at = i * nLayers;
    const last = nLayers - 1;
    let rate = conduction[nLayers] * (temperature[at + last] - columns.side(i, nHalves - 1).temperature);
    if (nHalves === 2) rate += conduction[0] * (temperature[at] - columns.side(i, 0).temperature);
    if (!columns.isHollow(i)) return rate;
    const { inner } = columns.hollow!;
    for (let t = 0; t < nLayers; t++) rate += this.exchange[t] * (temperature[at + t] - inner.temperature);
    return rate;
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
    this.setConduction(i);
    if (this.columns.isHollow(i)) this.openCore(i);
    this.solveColumn(i, volume, dt);
    this.countLoss(i, volume, dt);
    if (!this.columns.isHollow(i)) return;
    this.exchange.fill(0);
    this.columns.hollow!.follow(i, this.columns.temperature);
  }

  /** Nothing is conducted in the fluid of a core; what it takes up, it takes up at the skin's inner face. */
  private openCore(i: number): void {
    const hollow = this.columns.hollow!;
    hollow.openEdges(i, this.conduction);
    const rate = hollow.exchange(i, this.columns.reach[i], this.thermal.conductivity, this.capacity);
    for (const t of hollow.faces(i)) this.exchange[t] = rate;
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
    return temperatureFor(heat, first + times * (tableValue(heat, T1) - first), even, LEAST_CHANGE / 10);
  }
}
