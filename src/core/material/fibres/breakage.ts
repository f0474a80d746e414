/**
 * Breakage of fibres in shear as a balance of numbers: Phelps, Abd El-Rahman, Kunc & Tucker, Composites A 51 (2013) 11, without the
 * influence of the orientation. SI.
 */
export interface Breakage {
  /** Length of the bins, m: bin i holds fibres of (i + 1) times as much. */
  binLength: number;
  bins: number;
  /** Drag on a fibre over that of a cylinder; chance of breaking per shear; spread of the break about the middle over the length. */
  drag: number;
  chance: number;
  spread: number;
  /** Of the fibre: Young's modulus, Pa, and diameter, m. */
  young: number;
  diameter: number;
}

/** Shear stress [Pa] and shear rate [1/s] that fibres are in. */
export interface ShearState {
  stress: number;
  shearRate: number;
}

/** Events of one sum: beyond, its first weight is lost in rounding. */
const MOST_EVENTS = 30;
/** Weight of events that may be left out. */
const NEGLIGIBLE = 1e-14;

/** Load beyond which the chance is whole. */
const CERTAIN = 38;

/** Fibres of one kind that break: numbers in bins, as they change with time. */
export class Breaking {
  /** Children of bin k in bin i, two for every break, [k][i], i < k. Length is kept exactly. */
  readonly children: readonly Float64Array[];
  private readonly term: Float64Array;
  private readonly next: Float64Array;
  private readonly sum: Float64Array;

  constructor(readonly of: Breakage) {
    this.children = Array.from({ length: of.bins }, (_, k) => {
      const parent = k + 1;
      const row = Float64Array.from({ length: k }, (_v, i) =>
        Math.exp(-((i + 1 - parent / 2) ** 2) / (2 * (of.spread * parent) ** 2)),
      );
      const sum = row.reduce((s, g) => s + g, 0);
      return row.map((g) => (2 * g) / sum);
    });
    this.term = new Float64Array(of.bins);
    this.next = new Float64Array(of.bins);
    this.sum = new Float64Array(of.bins);
  }

  /** Length below which a flow does not buckle a fibre, m. */
  unbreakable(stress: number): number {
    const { drag, young, diameter } = this.of;
    return ((Math.PI ** 3 * young * diameter ** 4) / (4 * drag * stress)) ** 0.25;
  }

  /** Whether any fibre breaks at a stress [Pa] and shear rate [1/s]. */
  breaks({ stress, shearRate }: ShearState): boolean {
    const { bins, binLength } = this.of;
    return stress > 0 && shearRate > 0 && bins * binLength > this.unbreakable(stress);
  }

  /** Adds `weight` times the rate at which every bin breaks [1/s] to `rates`. */
  addRates(rates: Float64Array, { stress, shearRate }: ShearState, weight = 1): void {
    if (!(stress > 0 && shearRate > 0)) return;
    const { bins, binLength, chance } = this.of;
    const perBin = (binLength / this.unbreakable(stress)) ** 4;
    const often = weight * chance * shearRate;
    for (let i = bins - 1; i > 0; i--) {
      const load = perBin * (i + 1) ** 4;
      if (!(load > 1)) break;
      rates[i] += load > CERTAIN ? often : often * (1 - Math.exp(1 - load));
    }
  }

  /** Rate at which every bin breaks, 1/s. */
  ratesIn(flow: ShearState): Float64Array {
    const rates = new Float64Array(this.of.bins);
    this.addRates(rates, flow);
    return rates;
  }

  /** Numbers in the bins, in place, moved on by `time` s at `rates`: sums of positive terms, so that none turns negative. */
  advance(numbers: Float64Array, rates: Float64Array, time: number): void {
    const fastest = rates.reduce((m, r) => Math.max(m, r), 0);
    if (!(fastest > 0) || !(time > 0)) return;
    const { sum } = this;
    // Uniformisation: events come at the fastest rate, of which each bin takes its own share.
    const parts = Math.ceil((fastest * time) / MOST_EVENTS);
    const events = (fastest * time) / parts;
    for (let part = 0; part < parts; part++) {
      let weight = Math.exp(-events);
      this.term.set(numbers);
      for (let i = 0; i < sum.length; i++) sum[i] = weight * numbers[i];
      for (let m = 1, left = 1 - weight; left > NEGLIGIBLE && m < 400; m++) {
        this.event(rates, fastest);
        weight *= events / m;
        left -= weight;
        for (let i = 0; i < sum.length; i++) sum[i] += weight * this.term[i];
      }
      numbers.set(sum);
    }
  }

  /** Numbers in the bins after `time` s of a flow, from those before. */
  after(before: ArrayLike<number>, flow: ShearState, time: number): Float64Array {
    const now = Float64Array.from(before);
    this.advance(now, this.ratesIn(flow), time);
    return now;
  }

  /** One event on all of `term`. */
  private event(rates: Float64Array, fastest: number): void {
    const { term, next, children } = this;
    next.fill(0);
    for (let k = 0; k < term.length; k++) {
      const share = rates[k] / fastest;
      next[k] += (1 - share) * term[k];
      const breaks = share * term[k];
      if (!(breaks > 0)) continue;
      const row = children[k];
      for (let i = 0; i < k; i++) next[i] += breaks * row[i];
    }
    term.set(next);
  }
}

/** Mean length by number and by weight, m. */
export function meanLengths(numbers: ArrayLike<number>, binLength: number): { byNumber: number; byWeight: number } {
  let [n, l, l2] = [0, 0, 0];
  for (let i = 0; i < numbers.length; i++) {
    const length = (i + 1) * binLength;
    n += numbers[i];
    l += numbers[i] * length;
    l2 += numbers[i] * length * length;
  }
  return { byNumber: l / n, byWeight: l2 / l };
}
