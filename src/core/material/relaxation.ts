/** J/(mol K) */
export const GAS_CONSTANT = 8.314462618;

/**
 * How the stress of a solid plastic fades: shares of the modulus in the room with the times they relax in at the
 * reference temperature, and the shift of all times with temperature. SI.
 */
export interface Relaxation {
  /** K; near the glass transition, or where crystals form. */
  reference: number;
  /** Above the reference, Williams, Landel & Ferry: log10 a = -c1 (T - Tr) / (c2 + T - Tr); c2 in K. */
  wlf: { c1: number; c2: number };
  /** Below it, Arrhenius: log10 a = activation / (R ln 10) (1/T - 1/Tr), J/mol. */
  activation: number;
  /** Shares sum to 1: a melt carries nothing in the end. Times ascend, s. */
  terms: { share: number; time: number }[];
}

/** Decades that times are stretched by at most: nothing relaxes then that anybody waits for. */
const MOST_DECADES = 40;
/** Times above the reference stop falling here: WLF has a pole c2 below it, and a melt is a melt. */
const LEAST_DECADES = -20;

/** Decades by which times at T [K] are longer than at the reference. Source: Ferry, Viscoelastic Properties (1980). */
export function decadesAt({ reference, wlf, activation }: Relaxation, T: number): number {
  const above = T - reference;
  if (above >= 0) return Math.max(LEAST_DECADES, (-wlf.c1 * above) / (wlf.c2 + above));
  return Math.min(MOST_DECADES, (activation / (Math.LN10 * GAS_CONSTANT)) * (1 / T - 1 / reference));
}

/** Share of the modulus that is left after `time` [s] at T [K]. */
export function shareLeft(r: Relaxation, T: number, time: number): number {
  const reduced = time / 10 ** decadesAt(r, T);
  return r.terms.reduce((s, { share, time: t }) => s + share * Math.exp(-reduced / t), 0);
}

/** Decades from the shortest to the longest time of a spectrum that is laid out over a stretched exponential. */
const SHORTEST = -5;
const LONGEST = 4;
/** A share that is no more than this is its neighbour's. */
const LEAST_SHARE = 8e-3;

/**
 * Prony shares, one a decade, of exp(-(t/time)^exponent) (Kohlrausch; Williams & Watts, Trans. Faraday Soc. 66 (1970)
 * 80): each term takes what fades between half a decade before its time and half a decade after.
 */
export function stretchedTerms(time: number, exponent: number): Relaxation['terms'] {
  const left = (t: number) => Math.exp(-((t / time) ** exponent));
  const terms: Relaxation['terms'] = [];
  let carried = 0;
  for (let d = SHORTEST; d <= LONGEST; d++) {
    const before = d === SHORTEST ? 1 : left(10 ** (d - 0.5));
    const after = d === LONGEST ? 0 : left(10 ** (d + 0.5));
    carried += before - after;
    if (carried < LEAST_SHARE) continue;
    terms.push({ share: carried, time: 10 ** d });
    carried = 0;
  }
  const sum = terms.reduce((s, t) => s + t.share, 0);
  return terms.map(({ share, time: t }) => ({ share: Number((share / sum).toPrecision(6)), time: t }));
}

/**
 * Time [s] and breadth of the spectrum at the transition, and J/mol below it. Of an amorphous plastic whose data say nothing: 100 s at the glass transition by its definition, exponent and
 * activation typical of glasses (Ngai & Plazek, Macromolecules 24 (1991) 1222; Ferry (1980), table 11-II). Of a
 * semi-crystalline one: broad, and soft where crystals form, with the activation of the motion in crystals (Boyd,
 * Polymer 26 (1985) 323). Estimates: what they do to a shape is to be told from measured shrinkage.
 */
const TYPICAL = {
  amorphous: { time: 100, exponent: 0.45, activation: 420e3, wlf: { c1: 13.5, c2: 50 } },
  'semi-crystalline': { time: 0.1, exponent: 0.25, activation: 130e3, wlf: { c1: 11, c2: 70 } },
};

/** What a plastic of a structure relaxes like, from its transition [K]. */
export function relaxationOf(structure: keyof typeof TYPICAL, transition: number): Relaxation {
  const { time, exponent, activation, wlf } = TYPICAL[structure];
  return { reference: transition, wlf, activation, terms: stretchedTerms(time, exponent) };
}
