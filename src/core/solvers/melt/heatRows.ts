import type { Columns, Thermal } from './columns';
import { CENTRES, HALF_LAYERS } from './layers';
import { tableSlope, tableValue } from './thermalTables';

/** A layer that changes by less keeps the specific heat of its temperature, K. */
const LEAST_CHANGE = 1e-3;
/** Most passes of a step in which the specific heat follows the temperature, and the change that is let be. */
const HEAT_PASSES = 8;
const HEAT_CHANGE = 0.1;
/** From here on nothing is followed: one pass a step. */
export const NOT_FOLLOWED = 1000;

/** Mass that a node holds, and density of what flows there, over the reference density. */
export interface Densities {
  filling: number;
  carrying: number;
}

/**
 * Rows of one column's heat at a time: rho c (dT/dt + u.grad T) = d/dz (k dT/dz) + shear heating, finite volumes in the
 * layers, implicit in time. What comes with the flow is laid into `inflow`, `inflowHeat` and `made` before.
 */
export class HeatRows {
  /** Conduction between layers and to the walls of the node at hand, W/K per m3. Length nLayers + 1. */
  readonly conduction: Float64Array;
  /** Flow into each layer, m3/s, the same times its temperature, and heat made by shear over the capacity, K m3/s. */
  readonly inflow: Float64Array;
  readonly inflowHeat: Float64Array;
  readonly made: Float64Array;
  /** What the fluid in a core takes up in each layer, 1/s. */
  readonly exchange: Float64Array;
  /** Of the column being solved: the upper entries after elimination. */
  private readonly eliminated: Float64Array;
  /** Specific heat of each layer over the reference: 1 unless the melt's tables say otherwise. */
  private readonly relative: Float64Array;
  private readonly start: Float64Array;
  /** Capacities of a hollow column. */
  private readonly left: Float64Array;
  private heatChange = HEAT_CHANGE;

  constructor(
    private readonly columns: Columns,
    private readonly thermal: Thermal,
    /** Reference heat capacity, J/(m3 K): the rows are divided by it. */
    private readonly capacity: number,
  ) {
    const { nLayers } = columns;
    const work = () => new Float64Array(nLayers + 1);
    this.conduction = work();
    this.inflow = work();
    this.inflowHeat = work();
    this.made = work();
    this.exchange = work();
    this.eliminated = work();
    this.relative = work().fill(1);
    this.start = work();
    this.left = new Float64Array(nLayers);
  }

  /** How closely the specific heat follows the temperature in a step: closer where steps are long. */
  followHeat(change: number): void {
    this.heatChange = change;
  }

  /** W/K per m3 of column over the heat capacity: 1/s. Edge t lies between layers t - 1 and t. */
  setConduction(i: number): void {
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
  capacities(i: number): Float64Array {
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
  solve(i: number, volume: number, dt: number, melt: Densities, enter = 0, leave = 0): void {
    const { tables } = this.thermal;
    if (!tables) return this.solveRows(i, volume, dt, melt, enter, leave);
    const { columns, relative, start } = this;
    const { nLayers, temperature } = columns;
    const at = i * nLayers;
    for (let t = 0; t < nLayers; t++) {
      start[t] = temperature[at + t];
      relative[t] = tableSlope(tables.heat, start[t]);
    }
    this.scaleConduction(i, tables.conduct);
    this.solveRows(i, volume, dt, melt, enter, leave);
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
      this.solveRows(i, volume, dt, melt, enter, leave);
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
  private solveRows(
    i: number,
    volume: number,
    dt: number,
    { filling, carrying }: Densities,
    enter: number,
    leave: number,
  ): void {
    const { columns, eliminated, inflow, inflowHeat, conduction, relative, made } = this;
    const { nLayers, nHalves, temperature, flowShare } = columns;
    const share = this.capacities(i);
    const at = i * nLayers;
    const last = nLayers - 1;
    const perStep = volume / dt;
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

  /** Heat to both walls and to a fluid in the core, per volume and capacity, K/s, at the present temperatures. Needs `setConduction`. */
  lossRate(i: number): number {
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

  /** Nothing is conducted in the fluid of a core; what it takes up, it takes up at the skin's inner face. */
  openCore(i: number): void {
    const hollow = this.columns.hollow!;
    hollow.openEdges(i, this.conduction);
    const rate = hollow.exchange(i, this.columns.reach[i], this.thermal.conductivity, this.capacity);
    for (const t of hollow.faces(i)) this.exchange[t] = rate;
  }
}
