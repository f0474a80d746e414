import { type Closure } from '../../src/core/model/fibres';
import { Breaking, meanLengths } from '../../src/core/material/fibres/breakage';
import { FourthMoment, fourthMoment } from '../../src/core/material/fibres/closure';
import { Orientation, type FibreModel } from '../../src/core/material/fibres/orientation';
import {
  alignedSolid,
  engineeringOf,
  halpinTsai,
  orientedExpansion,
  orientedStiffness,
  schapery,
  solve6,
  type Aligned,
} from '../../src/core/material/fibres/stiffness';
import { COLUMNS, isotropic, PLACE, ROWS, type Sym } from '../../src/core/material/fibres/tensor';
import { flowFibres } from '../fibreFlow';
import { byFunction, onGrid, num, numbers, type Kind, type ReferenceCase } from './cases';

const CLOSURE: Record<string, Closure> = {
  hybrid: 'hybrid',
  ORF: 'orthotropic',
  ORW: 'orthotropic-wide',
  IBOF: 'invariant',
};
/** Strain after which nothing moves any more, without slowing. */
const STEADY = 1500;

/** A tensor of second or fourth order by the name of its component: a12, A1122. */
function component(a: Sym, moment: FourthMoment, q: string): number | undefined {
  const digits = [...q.slice(1)].map((c) => Number(c) - 1);
  if (q[0] === 'a' && digits.length === 2) return a[PLACE[3 * digits[0] + digits[1]]];
  if (q[0] !== 'A' || digits.length !== 4) return undefined;
  const [p, r] = [PLACE[3 * digits[0] + digits[1]], PLACE[3 * digits[2] + digits[3]]];
  return fourthMoment(moment, a)[6 * p + r];
}

/** Case 11: orientation in simple shear; where a row asks for no closure, with that of the invariants. */
export const shearedFibres: Kind = ({ id, inputs }) => {
  const named = Object.keys(CLOSURE).find((name) => id.includes(name));
  const slowing = 'kappa' in inputs ? num(inputs, 'kappa') : 1;
  const five = 'b' in inputs ? numbers(inputs, 'b') : null;
  const known = new Map<string, Sym>();
  const start = () => {
    const a = isotropic();
    // What is the same in all directions has no axes whose values could be slowed: a trace of shear gives them.
    if (slowing < 1) a[3] = 1e-5;
    return a;
  };
  const at = (closure: Closure, CI: number, strain: number): Sym => {
    const key = `${closure} ${CI} ${strain}`;
    const found = known.get(key);
    if (found) return found;
    const interaction: FibreModel['interaction'] = five ? { by: 'five', b: five } : { by: 'even', CI };
    const a = start();
    const model = { aspect: num(inputs, 're'), interaction, slowing };
    new Orientation(model, closure).advance(a, [0, 1, 0, 0, 0, 0, 0, 0, 0], strain);
    known.set(key, a);
    return a;
  };
  return ({ q, at: where }) => {
    const of = (where ?? {}) as Record<string, unknown>;
    const closure = CLOSURE[String(of.closure ?? named)] ?? 'invariant';
    const strain = of.strain === 'steady' ? STEADY / slowing : Number(of.strain);
    const a = at(closure, Number(of.C_I ?? 0), strain);
    return byFunction(component(a, new FourthMoment(closure), q));
  };
};

const alignedOf = (inputs: ReferenceCase['inputs']): Aligned => {
  const phase = (k: string) => ({
    young: num(inputs, `E_${k}`),
    poisson: num(inputs, `nu_${k}`),
    expansion: num(inputs, `alpha_${k}`),
  });
  return { fibre: phase('f'), matrix: phase('m'), share: num(inputs, 'v_f'), aspect: num(inputs, 'aspect') };
};

/** Pairs of indices of a fourth moment that is given by its sorted components; absent ones are 0. */
function givenMoment(of: Record<string, number>): Float64Array {
  return Float64Array.from({ length: 36 }, (_, k) => {
    const [p, q] = [Math.floor(k / 6), k % 6];
    const name = [ROWS[p], COLUMNS[p], ROWS[q], COLUMNS[q]].map((i) => i + 1).sort();
    return of[name.join('')] ?? 0;
  });
}

/** Case 12: stiffness and expansion of aligned fibres, and of directions that are given. */
export const fibreSolid: Kind = ({ inputs, expected }) => {
  const asksForStiffness = expected.some((r) => r.q === 'C1111');
  const aligned = alignedOf(inputs);
  if (!('a_ij' in inputs)) {
    const ht = halpinTsai(aligned);
    const fast = schapery(aligned, ht.nu12);
    const mt = alignedSolid('mori-tanaka', aligned);
    return ({ q }) => {
      // Rows of the one rule and of the other are told apart by what else their case asks for.
      const own = asksForStiffness ? engineeringOf(mt.stiffness) : { ...ht, G23: NaN };
      const C = (k: number) => (asksForStiffness ? mt.stiffness[k] : undefined);
      const values: Record<string, number | undefined> = {
        ...own,
        nu21: (own.nu12 * own.E2) / own.E1,
        alpha1_schapery: fast.along,
        alpha2_schapery: fast.across,
        alpha1_rosen_hashin: mt.expansion.along,
        alpha2_rosen_hashin: mt.expansion.across,
        C1111: C(0),
        C2222: C(7),
        C1122: C(1),
        C2233: C(8),
        C1212: C(21),
      };
      return byFunction(values[q]);
    };
  }
  const a = Float64Array.from({ length: 6 }, (_, k) => (inputs.a_ij as number[][])[ROWS[k]][COLUMNS[k]]);
  const mt = alignedSolid('mori-tanaka', aligned);
  const moments: Record<string, Float64Array> = {
    given: givenMoment(inputs.a_ijkl as Record<string, number>),
    'hybrid closure': fourthMoment(new FourthMoment('hybrid'), a),
  };
  return ({ q, at }) => {
    const a4 = moments[String((at ?? {}).a4)];
    if (!a4) return null;
    const C = orientedStiffness(mt.stiffness, a, a4);
    const S = (k: number) =>
      solve6(
        C,
        [0, 1, 2, 3, 4, 5].map((m) => Number(m === k)),
      );
    const [x, y, z] = [0, 1, 2].map(S);
    const alpha = orientedExpansion(mt, C, a);
    const values: Record<string, number> = {
      E_x: 1 / x[0],
      E_y: 1 / y[1],
      E_z: 1 / z[2],
      nu_xy: -x[1] / x[0],
      G_xy: 1 / (2 * S(3)[3]),
      alpha_xx: alpha[0],
      alpha_yy: alpha[1],
      alpha_zz: alpha[2],
      alpha_xy: alpha[3],
    };
    return byFunction(values[q]);
  };
};

/** Case 13: lengths of fibres that break in steady shear. */
export const breakingFibres: Kind = ({ inputs }) => {
  const model = {
    binLength: num(inputs, 'dl'),
    bins: num(inputs, 'n_bins'),
    drag: num(inputs, 'zeta'),
    chance: num(inputs, 'C_b'),
    spread: num(inputs, 'S'),
    young: num(inputs, 'E_f'),
    diameter: num(inputs, 'd_f'),
  };
  const breaking = new Breaking(model);
  const shearRate = num(inputs, 'gdot');
  const flow = { stress: num(inputs, 'eta') * shearRate, shearRate };
  const start = new Float64Array(model.bins);
  for (const [bin, n] of inputs.N0 as [number, number][]) start[bin - 1] = n;
  return ({ q, at }) => {
    const now = () => breaking.after(start, flow, Number((at ?? {}).t));
    const values: Record<string, () => number> = {
      unbreakable_length: () => breaking.unbreakable(flow.stress),
      breakage_rate_longest: () => breaking.ratesIn(flow)[model.bins - 1],
      L_n: () => meanLengths(now(), model.binLength).byNumber,
      L_w: () => meanLengths(now(), model.binLength).byWeight,
      total_number: () => now().reduce((s, n) => s + n, 0),
      total_length: () => now().reduce((s, n, i) => s + n * (i + 1) * model.binLength, 0),
      number_in_longest_bin: () => now()[model.bins - 1],
    };
    return byFunction(values[q]?.());
  };
};

/** Share of the mean velocity over which a layer leads, 0 at the wall: power-law flow between two walls. */
const speedAt = (n: number, zeta: number) => ((2 * n + 1) / (n + 1)) * (1 - zeta ** (1 + 1 / n));
/** The front is so much farther than melt that has come along its own layer needs it to be. */
const BEYOND = 1.15;

/** Case 19: fibres along the streams of a disc that is filled from its middle, or of a strip: the filling stage on the grid. */
export const streams: Kind = async ({ inputs: i, expected }, lie) => {
  const flow = i.flow === 'radial' ? 'radial' : 'straight';
  const n = num(i, 'n');
  const ways = expected.map((row) => {
    const [at, speed] = [num(row.at, 'at_m'), speedAt(n, num(row.at, 'zeta'))];
    return flow === 'radial' ? at / Math.sqrt(speed) : at / speed;
  });
  const flown = await flowFibres(
    {
      flow,
      n,
      halfGap: num(i, 'half_gap_m'),
      start: num(i, 'start_m'),
      aspect: num(i, 'aspect'),
      CI: num(i, 'Ci'),
      reach: BEYOND * Math.max(...ways),
    },
    lie.turn,
    'fine',
  );
  const component = ['a11', 'a22', 'a33', 'a13'];
  return ({ q, at }) => onGrid(flown.at(num(at, 'at_m'), num(at, 'zeta'))[component.indexOf(q)]);
};
