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

/** Viscosity [Pa s] and shear rate [1/s] that fibres are in. */
export interface ShearState {
  viscosity: number;
  shearRate: number;
}

/** Length below which the flow does not buckle a fibre, m. */
export function unbreakableLength({ drag, young, diameter }: Breakage, { viscosity, shearRate }: ShearState): number {
  return ((Math.PI ** 3 * young * diameter ** 4) / (4 * drag * viscosity * shearRate)) ** 0.25;
}

/** Rate at which every bin breaks, 1/s. */
export function breakageRates(b: Breakage, flow: ShearState): Float64Array {
  const limit = unbreakableLength(b, flow);
  return Float64Array.from({ length: b.bins }, (_, i) => {
    const load = (((i + 1) * b.binLength) / limit) ** 4;
    return i > 0 && load > 1 ? b.chance * flow.shearRate * (1 - Math.exp(1 - load)) : 0;
  });
}

/** Children of bin k in bin i, two for every break, as row k of a triangle: [k][i], i < k. Length is kept exactly. */
export function children({ bins, spread }: Breakage): Float64Array[] {
  return Array.from({ length: bins }, (_, k) => {
    const parent = k + 1;
    const row = Float64Array.from({ length: k }, (_v, i) =>
      Math.exp(-((i + 1 - parent / 2) ** 2) / (2 * (spread * parent) ** 2)),
    );
    const sum = row.reduce((s, g) => s + g, 0);
    return row.map((g) => (2 * g) / sum);
  });
}

/** Numbers in the bins after `time` s, from those before: sums of positive terms, so that none turns negative. */
export function broken(before: ArrayLike<number>, b: Breakage, flow: ShearState, time: number): Float64Array {
  const rates = breakageRates(b, flow);
  const into = children(b);
  const fastest = rates.reduce((m, r) => Math.max(m, r), 0);
  let now: Float64Array = Float64Array.from(before);
  if (!(fastest > 0) || !(time > 0)) return now;
  // Uniformisation: events come at the fastest rate, of which each bin takes its own share.
  const parts = Math.ceil((fastest * time) / MOST_EVENTS);
  const events = (fastest * time) / parts;
  for (let part = 0; part < parts; part++) {
    let weight = Math.exp(-events);
    let term = now;
    const sum = term.map((n) => weight * n);
    for (let m = 1, left = 1 - weight; left > 1e-14 && m < 400; m++) {
      term = eventOn(term, rates, into, fastest);
      weight *= events / m;
      left -= weight;
      for (let i = 0; i < sum.length; i++) sum[i] += weight * term[i];
    }
    now = sum;
  }
  return now;
}

/** Events of one sum: beyond, its first weight is lost in rounding. */
const MOST_EVENTS = 30;

function eventOn(n: Float64Array, rates: Float64Array, into: Float64Array[], fastest: number): Float64Array {
  const out = new Float64Array(n.length);
  for (let k = 0; k < n.length; k++) {
    const share = rates[k] / fastest;
    out[k] += (1 - share) * n[k];
    const breaks = share * n[k];
    if (!(breaks > 0)) continue;
    const row = into[k];
    for (let i = 0; i < k; i++) out[i] += breaks * row[i];
  }
  return out;
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
