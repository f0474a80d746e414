import type { PressureGrid } from '../../grid/pressureGrid';
import { LN_STRESS_MIN, LN_STRESS_STEP, zeroFluidityAt, type StressForm } from '../../material/stressForm';
import type { Hollow } from '../core/hollow';
import type { ThermalTables } from './thermalTables';
import { CENTRES, HALF_LAYERS, LN_CENTRES, sectionShape, type ColumnShape, type SectionShape } from './layers';

/** Conditions at one wall: mould temperature [K] and interface heat-transfer coefficient [W/(m2 K)]. */
export interface WallSide {
  temperature: number;
  transfer: number;
  /** Stack of bodies behind it, which sets both from step to step: see `Behind`. Absent: the mould. */
  behind?: number;
}

/** Conditions at the walls, and which of them each node has: first and second wall, length 2n. */
export interface Walls {
  sides: WallSide[];
  sideOf: Uint8Array | Int32Array;
}

/** 1 where both walls of every node are alike, so that half a column tells the whole; else 2. */
export const halvesOf = ({ sideOf }: Walls): 1 | 2 =>
  sideOf.some((side, k) => k % 2 === 1 && side !== sideOf[k - 1]) ? 2 : 1;

/** What conduction needs of the melt: W/(m K), kg/m3, J/(kg K). */
export interface Thermal {
  conductivity: number;
  density: number;
  specificHeat: number;
  /** How they change with temperature; constant where absent. */
  tables?: ThermalTables;
}

/** A second melt in the layers of the first. */
export interface SecondMelt {
  form: StressForm;
  /** Share of each layer that is of it. Length n * nLayers. */
  share: Float64Array;
  /** 1 / zero-shear viscosity where it is, 1/(Pa s). Length n * nLayers. */
  zeroFluidity: Float64Array;
}

/** Newton's error falls with the square: after a step in ln(stress) this small it is below 1e-3. */
const NEWTON_STEP = 0.03;

/** The melt carries at least this fluidity, 1/(Pa s): a frozen node blocks, but stays solvable. */
const LEAST_FLUIDITY = 1e-12;

/**
 * One column of layers per pressure node: everything that varies through the wall. A column is half
 * the wall (middle to wall) when both walls are alike, else the whole wall, first side to second.
 * Layers of a node lie side by side in `temperature` and `flowShare`, half: from the middle outwards;
 * whole: from the first wall through the middle to the second.
 */
export class Columns {
  readonly nHalves: 1 | 2;
  readonly nLayers: number;
  /** K. Length n * nLayers. */
  readonly temperature: Float64Array;
  /** Share of the node's flow in each layer; sums to 1. Length n * nLayers. */
  readonly flowShare: Float64Array;
  /** Heat made by shear over (wall stress)^2, per volume of the node: one entry per layer, 1/(Pa s). */
  readonly shearHeat: Float64Array;
  /** Shear rate of every layer over the wall stress, 1/(Pa s): see `shearRateOf`. Length n * nLayers. */
  protected readonly layerRate: Float64Array;
  /** Wall shear stress [Pa] of the present flow. Length n. */
  readonly wallStress: Float64Array;
  /** Largest shear rate through the wall in the present flow, 1/s. Length n. */
  readonly peakRate: Float64Array;
  /** Conditions at first and second wall of every node; `walls[1]` equals `walls[0]` for half columns. */
  readonly sides: WallSide[];
  /** Index into `sides` of the first and second wall of each node. Length 2n. */
  readonly sideOf: Uint8Array | Int32Array;
  /** Half the wall [m]: the length that goes with zeta = 1. Length n. */
  readonly reach: Float64Array;
  /** null where there is one melt. */
  second: SecondMelt | null = null;
  /** Sections with a fluid in their core; null: all are full of melt. */
  hollow: Hollow | null = null;
  protected readonly shapes: SectionShape[];
  /** 1 / zero-shear viscosity of every layer, 1/(Pa s). Length n * nLayers. */
  protected readonly zeroFluidity: Float64Array;
  /** Fluidity of every layer over that of its melt's data: 1 where nothing in it is in the way of the flow. Length n * nLayers. */
  readonly relativeFluidity: Float64Array;
  /** Place of no shear between the walls, -1 .. 1; 0 for half columns. */
  protected readonly neutral: Float64Array;
  private readonly place = new Float64Array(1);
  private readonly layerFlow = new Float64Array(2 * HALF_LAYERS);

  constructor(
    readonly grid: PressureGrid,
    protected readonly form: StressForm,
    private readonly thermal: Thermal,
    walls: Walls,
    initial: number,
    /** Gives the room for the arrays that the hot loops touch: see CompiledColumns. */
    floats: (length: number) => Float64Array = (length) => new Float64Array(length),
  ) {
    const { n } = grid;
    this.sides = walls.sides;
    this.sideOf = walls.sideOf;
    this.nHalves = halvesOf(walls);
    this.nLayers = HALF_LAYERS * this.nHalves;
    this.temperature = floats(n * this.nLayers).fill(initial);
    this.flowShare = floats(n * this.nLayers);
    this.shearHeat = floats(n * this.nLayers);
    this.layerRate = floats(n * this.nLayers);
    this.zeroFluidity = floats(n * this.nLayers);
    this.relativeFluidity = floats(n * this.nLayers).fill(1);
    this.wallStress = floats(n);
    this.peakRate = floats(n);
    this.neutral = floats(n);
    this.reach = new Float64Array(n);
    this.shapes = Array.from({ length: n }, (_, i) => sectionShape(grid.shape[i]));
    for (let i = 0; i < n; i++) {
      // The hydraulic gap V/S of a section is its reach over (s - 1): a tube has half its radius.
      this.reach[i] = grid.wallGap[i] * (this.shapes[i].s - 1);
      this.copyShares(i);
    }
  }

  /** What a state keeps of the columns. */
  get memory() {
    const { wallStress, peakRate, neutral, temperature, flowShare, shearHeat, zeroFluidity } = this;
    return {
      node: { wallStress, peakRate, neutral },
      layer: { temperature, flowShare, shearHeat, zeroFluidity },
    };
  }

  /** Shear rate [1/s] in layer t of a node's column, in the flow last laid out. */
  shearRateOf(node: number, t: number): number {
    return this.layerRate[node * this.nLayers + t] * this.wallStress[node];
  }

  /** Place of no shear through a wall, 1 at its first side, -1 at its second. */
  noShearAt(node: number): number {
    return -this.neutral[node];
  }

  /** Place of layer t's centre through the wall, as `noShearAt` counts it. */
  placeOf(t: number): number {
    if (this.nHalves === 1) return CENTRES[t];
    return t < HALF_LAYERS ? CENTRES[HALF_LAYERS - 1 - t] : -CENTRES[t - HALF_LAYERS];
  }

  /** Velocity of layer t over the mean of the node's section. */
  velocityShareOf(node: number, t: number): number {
    return this.flowShare[node * this.nLayers + t] / this.layersOf(node).share[t];
  }

  /** Share of the volume in each layer of a node's column, and conduction factors at its edges. */
  layersOf(node: number): ColumnShape {
    return this.nHalves === 1 ? this.shapes[node].half : this.shapes[node].whole;
  }

  /** Conditions at the wall that half `h` of a node ends at. */
  side(node: number, half: number): WallSide {
    return this.sides[this.sideOf[2 * node + half]];
  }

  /** Layer l (from the middle) of half h as a layer of the column. */
  private layerAt(half: number, l: number): number {
    if (this.nHalves === 1) return l;
    return half === 0 ? HALF_LAYERS - 1 - l : HALF_LAYERS + l;
  }

  private copyShares(node: number): void {
    this.flowShare.set(this.layersOf(node).share, node * this.nLayers);
  }

  /** Temperature [K] at the wall's surface of a half, from the flux through its last layer. */
  surfaceTemperature(node: number, half: number): number {
    const { temperature, transfer } = this.side(node, half);
    const last = this.temperature[node * this.nLayers + this.layerAt(half, HALF_LAYERS - 1)];
    const inward = this.thermal.conductivity / (this.reach[node] * (1 - CENTRES[HALF_LAYERS - 1]));
    return (transfer * temperature + inward * last) / (transfer + inward);
  }

  /** Temperature [K] in the middle: a parabola through the innermost layers. */
  middleTemperature(node: number): number {
    const at = node * this.nLayers;
    if (this.nHalves === 2) return 0.5 * (this.temperature[at + HALF_LAYERS - 1] + this.temperature[at + HALF_LAYERS]);
    const [t0, t1] = [this.temperature[at], this.temperature[at + 1]];
    return t0 + ((t0 - t1) * CENTRES[0] ** 2) / (CENTRES[1] ** 2 - CENTRES[0] ** 2);
  }

  /** Temperature [K] at place zeta (0 middle .. 1 wall) of a half, linear between layer centres. */
  temperatureAt(node: number, half: number, zeta: number): number {
    this.profileInto(node, half, placesBetween([zeta]), this.place, 0, 1);
    return this.place[0];
  }

  /** Temperatures [K] at `places` (see `placesBetween`) of a half, into `out` from `at` on with the given stride; NaN in a hollow core. */
  profileInto(
    node: number,
    half: number,
    places: PlaceBetween[],
    out: Float32Array | Float64Array,
    at: number,
    stride: number,
  ): void {
    const base = node * this.nLayers;
    const core = this.coreTo(node);
    for (let k = 0; k < places.length; k++) {
      const { l, weight, zeta } = places[k];
      if (zeta < core) {
        out[at + k * stride] = NaN;
        continue;
      }
      const T0 = l === 0 ? this.middleTemperature(node) : this.temperature[base + this.layerAt(half, l - 1)];
      const T1 =
        l === HALF_LAYERS ? this.surfaceTemperature(node, half) : this.temperature[base + this.layerAt(half, l)];
      out[at + k * stride] = T0 + (T1 - T0) * weight;
    }
  }

  /** Mean temperature [K] of the plastic in a node's section. */
  meanTemperature(node: number): number {
    const { share } = this.layersOf(node);
    const plastic = this.isHollow(node) ? this.hollow!.plastic(node) : null;
    let [sum, whole] = [0, 0];
    for (let t = 0; t < this.nLayers; t++) {
      const w = plastic ? share[t] * plastic[t] : share[t];
      sum += w * this.temperature[node * this.nLayers + t];
      whole += w;
    }
    return plastic ? sum / whole : sum;
  }

  isHollow(node: number): boolean {
    return this.hollow !== null && this.hollow.share[node] > 0;
  }

  /** Place of the core's face through the wall, 0 .. 1, where the fluid has passed; 0 elsewhere. */
  coreTo(node: number): number {
    return this.hollow && this.hollow.share[node] >= 0.5 ? this.hollow.place[node] : 0;
  }

  /** Temperature [K] of the melt that leaves the node: mean by flow. */
  bulkTemperature(node: number): number {
    const at = node * this.nLayers;
    let sum = 0;
    for (let t = 0; t < this.nLayers; t++) sum += this.flowShare[at + t] * this.temperature[at + t];
    return sum;
  }

  /**
   * Share of the wall's thickness, that of the skin where it is hollow, that is colder than `limit` [K], from the walls
   * inwards; layers are cut where the temperature between their centres passes the limit.
   */
  colderShare(node: number, limit: number): number {
    const skin = 1 - this.coreTo(node);
    let sum = 0;
    for (let h = 0; h < this.nHalves; h++) {
      let outer = this.surfaceTemperature(node, h);
      if (outer >= limit) continue;
      let place = 1;
      let l = HALF_LAYERS - 1;
      for (; l >= 0; l--) {
        const T = this.temperature[node * this.nLayers + this.layerAt(h, l)];
        if (T >= limit) {
          place += ((CENTRES[l] - place) * (limit - outer)) / (T - outer);
          break;
        }
        outer = T;
        place = CENTRES[l];
      }
      sum += l < 0 ? 1 : Math.min(1, (1 - place) / skin);
    }
    return sum / this.nHalves;
  }

  /** Zero-shear fluidities of a node's layers at the present temperatures and pressure p [Pa]. */
  prepare(node: number, p: number): void {
    const { temperature, zeroFluidity, relativeFluidity, form, second } = this;
    for (let at = node * this.nLayers, end = at + this.nLayers; at < end; at++) {
      zeroFluidity[at] = relativeFluidity[at] * zeroFluidityAt(form, temperature[at], p);
      if (second) second.zeroFluidity[at] = zeroFluidityAt(second.form, temperature[at], p);
    }
  }

  /**
   * Fluidity M [1/(Pa s)] of a node whose flow has the apparent shear rate [1/s] (see FlowSolver):
   * M = apparentShearRate / wallStress with
   * wallStress M = (s+1) Integral_0^1 zeta^(s-1) shearRate(zeta) dzeta, shearRate from the local
   * stress wallStress zeta and the local zero-shear fluidity (Hieber & Shen 1980, eqs. 11-14).
   * `start` is a fluidity to begin from. Needs `prepare`.
   */
  fluidityAt(node: number, apparentShearRate: number, _pressure: number, start: number): number {
    const rate = Math.max(apparentShearRate, 1e-6);
    let lnStress = Math.log(rate / start);
    for (let pass = 0; pass < 4; pass++) {
      const { sum, slope } = this.nHalves === 1 ? this.flowOf(node, lnStress) : this.flowOfWhole(node, lnStress);
      if (!(sum > LEAST_FLUIDITY)) return LEAST_FLUIDITY;
      const step = (Math.log(rate / sum) - lnStress) / (1 + slope / sum);
      lnStress += Math.max(-3, Math.min(3, step));
      if (Math.abs(step) < NEWTON_STEP) break;
    }
    this.wallStress[node] = Math.exp(lnStress);
    return rate / Math.exp(lnStress);
  }

  private readonly sums = { sum: 0, slope: 0 };

  /** M and dM/dln(stress) at a wall stress, half columns: the fluidity of a layer is that of its centre. */
  private flowOf(node: number, lnStress: number): { sum: number; slope: number } {
    const { stress, s } = this.shapes[node];
    const at = node * HALF_LAYERS;
    const offset = (lnStress - LN_STRESS_MIN) / LN_STRESS_STEP;
    let sum = 0;
    let slope = 0;
    for (let l = 0; l < HALF_LAYERS; l++) {
      const { f, df } = this.layerFluidity(at + l, offset + STEPS_TO_CENTRE[l]);
      sum += stress[l] * f;
      slope += stress[l] * df;
    }
    this.sums.sum = (s + 1) * sum;
    this.sums.slope = (s + 1) * slope;
    return this.sums;
  }

  /** The same for whole columns; the place of no shear follows from equal slip on both sides. */
  private flowOfWhole(node: number, lnStress: number): { sum: number; slope: number } {
    const { stress, lever, first, one, s } = this.shapes[node];
    const neutral = this.neutral[node];
    let [sum, slope, moment, total] = [0, 0, 0, 0];
    for (let h = 0; h < 2; h++) {
      const sign = h === 0 ? -1 : 1;
      for (let l = 0; l < HALF_LAYERS; l++) {
        const place = (lnStress + lnArm(CENTRES[l] - sign * neutral) - LN_STRESS_MIN) / LN_STRESS_STEP;
        const { f, df } = this.layerFluidity(node * this.nLayers + this.layerAt(h, l), place);
        const w = stress[l] - sign * neutral * lever[l];
        sum += w * f;
        slope += w * df;
        moment += sign * first[l] * f;
        total += one[l] * f;
      }
    }
    if (total > 0) this.neutral[node] = Math.max(-0.9, Math.min(0.9, moment / total));
    this.sums.sum = 0.5 * (s + 1) * sum;
    this.sums.slope = 0.5 * (s + 1) * slope;
    return this.sums;
  }

  private readonly point = { f: 0, df: 0 };

  /**
   * Fluidity [1/(Pa s)] of a layer and its slope against ln(stress), at a place of the stress tables. Two melts in one
   * layer lie on each other: both bear its stress, and their rates of shear add up by their shares.
   */
  private layerFluidity(layer: number, place: number): { f: number; df: number } {
    const { second, point } = this;
    const x = Math.min(TABLE_END, Math.max(0, place));
    const i = x | 0;
    const { table } = this.form;
    const own = this.zeroFluidity[layer];
    const dg = table[i + 1] - table[i];
    point.f = own * (table[i] + (x - i) * dg);
    point.df = (own * dg) / LN_STRESS_STEP;
    if (!second) return point;
    const share = second.share[layer];
    const other = second.zeroFluidity[layer];
    const beside = second.form.table;
    const dh = beside[i + 1] - beside[i];
    point.f += share * (other * (beside[i] + (x - i) * dh) - point.f);
    point.df += share * ((other * dh) / LN_STRESS_STEP - point.df);
    return point;
  }

  /**
   * Velocity and heat through the wall for the node's wall stress: fills `flowShare` and `shearHeat`.
   * u(zeta) is the shear rate integrated from the wall; the flow of a layer is taken by parts.
   */
  layFlow(node: number): void {
    const { nLayers, nHalves, layerFlow, flowShare, shearHeat } = this;
    const { s, one, first, below, lever, stress, inner } = this.shapes[node];
    const lnStress = Math.log(Math.max(this.wallStress[node], 1e-6));
    const offset = (lnStress - LN_STRESS_MIN) / LN_STRESS_STEP;
    let total = 0;
    let peak = 0;
    for (let h = 0; h < nHalves; h++) {
      const z = nHalves === 1 ? 0 : h === 0 ? -this.neutral[node] : this.neutral[node];
      const step = nHalves === 1 || h === 1 ? 1 : -1;
      let t = this.layerAt(h, HALF_LAYERS - 1);
      let velocity = 0;
      for (let l = HALF_LAYERS - 1; l >= 0; l--, t -= step) {
        const steps = z === 0 ? STEPS_TO_CENTRE[l] : lnArm(CENTRES[l] - z) / LN_STRESS_STEP;
        const fluidity = this.layerFluidity(node * nLayers + t, offset + steps).f;
        const rate = Math.abs(CENTRES[l] - z) * fluidity;
        this.layerRate[node * nLayers + t] = rate;
        if (rate > peak) peak = rate;
        const gain = fluidity * (first[l] - z * one[l]);
        const lagged = fluidity * (stress[l] - z * lever[l]);
        const flow = velocity * inner[l + 1] - (velocity + gain) * inner[l] + lagged;
        velocity += gain;
        layerFlow[t] = flow > 0 ? flow : 0;
        total += layerFlow[t];
        shearHeat[node * nLayers + t] =
          ((s - 1) * fluidity * (stress[l] - 2 * z * lever[l] + z * z * below[l])) / nHalves;
      }
    }
    this.peakRate[node] = peak * this.wallStress[node];
    if (!(total > 0)) this.copyShares(node);
    else for (let t = 0; t < nLayers; t++) flowShare[node * nLayers + t] = layerFlow[t] / total;
  }
}

/** A place through half the wall: `weight` of the way from the centre of layer l - 1 (or the middle) to that of l (or the wall). */
export interface PlaceBetween {
  zeta: number;
  l: number;
  weight: number;
}

export function placesBetween(places: readonly number[]): PlaceBetween[] {
  return places.map((zeta) => {
    let l = 0;
    while (l < HALF_LAYERS && CENTRES[l] < zeta) l++;
    const from = l === 0 ? 0 : CENTRES[l - 1];
    const to = l === HALF_LAYERS ? 1 : CENTRES[l];
    return { zeta, l, weight: (zeta - from) / (to - from) };
  });
}

export const TABLE_END = Math.round(35 / LN_STRESS_STEP) - 1.000001;
/** ln(zeta) of the layer centres in steps of the stress table. */
export const STEPS_TO_CENTRE = LN_CENTRES.map((x) => x / LN_STRESS_STEP);
const lnArm = (arm: number) => Math.log(Math.max(Math.abs(arm), 1e-3));
