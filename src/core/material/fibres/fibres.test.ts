import { CLOSURES, MECHANICS, type Closure } from '../../model/fibres';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { random } from '../../../../verification/random';
import { TURNS } from '../../../../verification/solids';
import type { Vec3 } from '../../geometry/mesh';
import { Breaking, meanLengths } from './breakage';
import { fibreDrag, relativeFluidity, resistanceInShear } from './coupling';
import { FourthMoment, fourthMoment } from './closure';
import { FIBRES_KERNEL } from './fibresKernel';
import { INTERACTIONS, Orientation, slenderness, type FibreModel, type Interaction } from './orientation';
import {
  alignedSolid,
  engineeringOf,
  halpinTsai,
  orientedExpansion,
  orientedStiffness,
  schapery,
  solve6,
  stiffnessOf,
  type Aligned,
} from './stiffness';
import { eigenOf, frame } from '../../numerics/eigen';
import { COLUMNS, isotropic, PLACE, ROWS, sym, trace, type Sym } from './tensor';

interface Point {
  closure: Closure;
  CI: number;
  strain: number;
  a: number[];
}
const reference = JSON.parse(
  readFileSync(new URL('../../../../verification/reference/fibres.json', import.meta.url), 'utf8'),
) as {
  aspect: number;
  shear: Point[];
  slowed: { slowing: number; points: Point[] };
  five: { b: number[]; points: Omit<Point, 'CI'>[] };
  exact: Omit<Point, 'closure'>[];
  solid: Aligned & {
    halpinTsai: Record<string, number>;
    moriTanaka: Record<string, number>;
    a: number[];
    a4: Record<string, number>;
    given: Record<string, number>;
    hybrid: Record<string, number>;
  };
  breakage: {
    binLength: number;
    bins: number;
    drag: number;
    chance: number;
    spread: number;
    young: number;
    diameter: number;
    viscosity: number;
    shearRate: number;
    longest: number;
    unbreakable: number;
    points: { time: number; L_n: number; L_w: number; number_in_longest_bin: number }[];
  };
};
const SHEAR = [0, 1, 0, 0, 0, 0, 0, 0, 0];
const model = (own: Partial<FibreModel> = {}): FibreModel => ({
  aspect: reference.aspect,
  interaction: { by: 'even', CI: 0.01 },
  slowing: 1,
  ...own,
});
const ended = (closure: Closure, strain: number, own: Partial<FibreModel>, start = isotropic()): Sym => {
  new Orientation(model(own), closure).advance(start, SHEAR, strain);
  return start;
};
const off = (a: Sym, [a11, a22, a33, a12]: number[]) =>
  Math.max(...[a11, a22, a33, a12].map((v, k) => Math.abs(a[k] - v)));

/** A tensor of trace 1 with eigenvalues above 0, in a frame of its own. */
function anyTensor(of: () => number): Sym {
  const values = [of(), of(), of()].map((v) => v + 0.02);
  const sum = values.reduce((s, v) => s + v, 0);
  const skew = Float64Array.from({ length: 6 }, () => of() - 0.5);
  const own = eigenOf(skew, frame());
  return turnedBy((i, m) => own.vectors[3 * i + m], Float64Array.of(...values.map((v) => v / sum), 0, 0, 0));
}

/** Components of a tensor in turned axes. */
function turnedBy(R: (i: number, m: number) => number, a: Sym): Sym {
  return Float64Array.from(ROWS, (i, k) => {
    let sum = 0;
    for (let m = 0; m < 3; m++) for (let n = 0; n < 3; n++) sum += R(i, m) * R(COLUMNS[k], n) * a[PLACE[3 * m + n]];
    return sum;
  });
}

describe('orientation in simple shear', () => {
  it.each(reference.shear)('$closure, C_I $CI, after $strain', ({ closure, CI, strain, a }) => {
    expect(off(ended(closure, strain, { interaction: { by: 'even', CI } }), a)).toBeLessThan(1e-3);
  });

  it.each(reference.slowed.points)(
    'slowed to a tenth: $closure, C_I $CI, after $strain',
    ({ closure, CI, strain, a }) => {
      const start = isotropic();
      // A trace of shear: what is alike in all directions has no axes whose values could be slowed.
      start[3] = 1e-5;
      const { slowing } = reference.slowed;
      expect(off(ended(closure, strain, { interaction: { by: 'even', CI }, slowing }, start), a)).toBeLessThan(2e-3);
    },
  );

  it.each(reference.five.points)('diffusion of five numbers: $closure after $strain', ({ closure, strain, a }) => {
    const { b } = reference.five;
    expect(off(ended(closure, strain, { interaction: { by: 'five', b } }), a)).toBeLessThan(1e-3);
  });

  it.each(reference.exact)(
    'the distribution itself, C_I $CI after $strain: fitted closures within 0.08, hybrid 0.18',
    (p) => {
      const interaction = { by: 'even', CI: p.CI } as const;
      for (const closure of ['orthotropic', 'orthotropic-wide', 'invariant'] as const)
        expect(off(ended(closure, p.strain, { interaction }), p.a)).toBeLessThan(0.08);
      expect(off(ended('hybrid', p.strain, { interaction }), p.a)).toBeLessThan(0.18);
    },
  );

  it('two numbers without a second are even chance, with one spread less in the plane of shear', () => {
    const even = ended('invariant', 30, { interaction: { by: 'even', CI: 0.01 } });
    const same = ended('invariant', 30, { interaction: { by: 'two', CI: 0.01, CM: 0 } });
    const less = ended('invariant', 30, { interaction: { by: 'two', CI: 0.01, CM: 0.9 } });
    for (let k = 0; k < 6; k++) expect(same[k]).toBeCloseTo(even[k], 9);
    expect(less[2]).toBeGreaterThan(even[2]);
    expect(less[1]).toBeLessThan(even[1]);
  });

  it('flakes stand across where fibres lie along, balls do neither', () => {
    expect([slenderness(1), slenderness(1e6), slenderness(1e-6)]).toEqual([0, expect.closeTo(1), expect.closeTo(-1)]);
    const interaction = { by: 'even', CI: 0.01 } as const;
    const flakes = ended('invariant', 30, { aspect: 0.05, interaction });
    expect(flakes[1]).toBeGreaterThan(0.6);
    const balls = ended('invariant', 30, { aspect: 1, interaction });
    for (let k = 0; k < 3; k++) expect(balls[k]).toBeCloseTo(1 / 3, 9);
  });

  it.each(CLOSURES)('%s: turned axes turn the tensor and nothing else', (closure) => {
    for (const turn of Object.values(TURNS).slice(1)) {
      const axes = [0, 1, 2].map((i) => turn([0, 1, 2].map((d) => Number(d === i)) as Vec3));
      const R = (i: number, m: number) => axes[m][i];
      const L = [0.2, 1, -0.3, 0, -0.1, 0.4, 0.1, 0, -0.1];
      const turned = Float64Array.from({ length: 9 }, (_, k) => {
        const [i, j] = [Math.floor(k / 3), k % 3];
        let sum = 0;
        for (let m = 0; m < 3; m++) for (let n = 0; n < 3; n++) sum += R(i, m) * L[3 * m + n] * R(j, n);
        return sum;
      });
      const a = Float64Array.of(0.5, 0.2, 0.3, 0.1, -0.05, 0.08);
      const b = turnedBy(R, a);
      const start = [a, b];
      [L, turned].forEach((gradient, k) =>
        new Orientation(model({ slowing: 0.3 }), closure).advance(start[k], gradient, 4),
      );
      const expected = turnedBy(R, a);
      for (let k = 0; k < 6; k++) expect(b[k]).toBeCloseTo(expected[k], 6);
    }
  });

  it('keeps trace 1 and eigenvalues between 0 and 1 in any flow, also in long steps', () => {
    const of = random(5);
    for (let n = 0; n < 200; n++) {
      const L = Array.from({ length: 9 }, () => 2 * of() - 1);
      const third = (L[0] + L[4] + L[8]) / 3;
      for (const k of [0, 4, 8]) L[k] -= third;
      const a = anyTensor(of);
      const closure = CLOSURES[n % CLOSURES.length];
      new Orientation(model({ slowing: n % 2 ? 0.1 : 1 }), closure).advance(a, L, 5 * of());
      expect(trace(a)).toBeCloseTo(1, 12);
      for (const v of eigenOf(a, frame()).values) {
        expect(v).toBeGreaterThanOrEqual(-1e-12);
        expect(v).toBeLessThanOrEqual(1 + 1e-12);
      }
    }
  });

  it('comes to rest, and then asks for next to nothing', () => {
    const follow = new Orientation(model(), 'invariant');
    const a = isotropic();
    follow.advance(a, SHEAR, 300);
    const asked = follow.rates;
    const before = a.slice();
    follow.advance(a, SHEAR, 300);
    expect(follow.rates - asked).toBeLessThan(40);
    for (let k = 0; k < 6; k++) expect(a[k]).toBeCloseTo(before[k], 3);
  });

  it('melt at rest keeps what it has', () => {
    const a = anyTensor(random(3));
    const before = a.slice();
    new Orientation(model(), 'invariant').advance(a, new Float64Array(9), 10);
    expect(a).toEqual(before);
  });
});

describe('the fourth moment', () => {
  it.each(CLOSURES.filter((c) => c !== 'quadratic'))(
    '%s: of no direction before another, and of all alike',
    (closure) => {
      const moment = new FourthMoment(closure);
      const even = fourthMoment(moment, isotropic());
      expect(Math.abs(even[0] - 1 / 5)).toBeLessThan(1e-3);
      expect(Math.abs(even[1] - 1 / 15)).toBeLessThan(1e-3);
      const along = fourthMoment(moment, Float64Array.of(1, 0, 0, 0, 0, 0));
      expect(Math.abs(along[0] - 1)).toBeLessThan(0.02);
    },
  );

  it.each(CLOSURES)('%s: contracted with the unit it gives the second moment back', (closure) => {
    const of = random(7);
    const moment = new FourthMoment(closure);
    const unit = Float64Array.of(1, 1, 1, 0, 0, 0);
    for (let n = 0; n < 20; n++) {
      const a = anyTensor(of);
      const back = moment.contract(a, unit, sym());
      for (let k = 0; k < 6; k++) expect(back[k]).toBeCloseTo(a[k], 9);
    }
  });

  it.each(['orthotropic', 'orthotropic-wide', 'invariant'] as const)(
    '%s: fibres in a plane, as they are',
    (closure) => {
      const plane = fourthMoment(new FourthMoment(closure), Float64Array.of(0.5, 0.5, 0, 0, 0, 0));
      expect(Math.abs(plane[0] - 3 / 8)).toBeLessThan(3e-3);
    },
  );
});

describe('aligned fibres', () => {
  const { halpinTsai: ht, moriTanaka: mt } = reference.solid;

  it('Halpin–Tsai with the expansion of Schapery', () => {
    const c = halpinTsai(reference.solid);
    const alpha = schapery(reference.solid, c.nu12);
    for (const key of ['E1', 'E2', 'G12', 'nu12'] as const) expect(c[key] / ht[key]).toBeCloseTo(1, 9);
    expect(alpha.along / ht.alpha1_schapery).toBeCloseTo(1, 9);
    expect(alpha.across / ht.alpha2_schapery).toBeCloseTo(1, 9);
  });

  it('Mori–Tanaka with the expansion of Levin', () => {
    const { stiffness, expansion } = alignedSolid('mori-tanaka', reference.solid);
    const c = engineeringOf(stiffness);
    for (const key of ['E1', 'E2', 'G12', 'G23', 'nu12', 'nu23'] as const) expect(c[key] / mt[key]).toBeCloseTo(1, 9);
    expect(expansion.along / mt.alpha1_rosen_hashin).toBeCloseTo(1, 9);
    expect(expansion.across / mt.alpha2_rosen_hashin).toBeCloseTo(1, 9);
  });

  it.each(MECHANICS)('%s: no fibres are the matrix, and more are stiffer and grow less', (by) => {
    const at = (share: number) => alignedSolid(by, { ...reference.solid, share });
    const none = engineeringOf(at(0).stiffness);
    expect(none.E1 / reference.solid.matrix.young).toBeCloseTo(1, 9);
    expect(at(0).expansion.along / reference.solid.matrix.expansion).toBeCloseTo(1, 9);
    const [some, more] = [engineeringOf(at(0.1).stiffness), engineeringOf(at(0.2).stiffness)];
    expect(more.E1).toBeGreaterThan(some.E1);
    expect(some.E1).toBeGreaterThan(some.E2);
    expect(at(0.2).expansion.along).toBeLessThan(at(0.1).expansion.along);
  });

  it('balls and flakes: alike in all directions, and stiff across', () => {
    const of = (aspect: number) => engineeringOf(alignedSolid('mori-tanaka', { ...reference.solid, aspect }).stiffness);
    const ball = of(1);
    expect(ball.E1 / ball.E2).toBeCloseTo(1, 3);
    expect(of(0.05).E2).toBeGreaterThan(1.3 * of(0.05).E1);
  });

  it('a mean over given directions, and over those of the hybrid closure', () => {
    const { a: list, a4, given, hybrid } = reference.solid;
    const a = Float64Array.from(list);
    const solid = alignedSolid('mori-tanaka', reference.solid);
    const moment = Float64Array.from({ length: 36 }, (_, k) => {
      const [p, q] = [Math.floor(k / 6), k % 6];
      const name = [ROWS[p], COLUMNS[p], ROWS[q], COLUMNS[q]].map((i) => i + 1).sort();
      return a4[name.join('')] ?? 0;
    });
    for (const [found, expected] of [
      [moment, given],
      [fourthMoment(new FourthMoment('hybrid'), a), hybrid],
    ] as const) {
      const C = orientedStiffness(solid.stiffness, a, found);
      const unit = (k: number) => Array.from({ length: 6 }, (_, m) => Number(m === k));
      expect(1 / solve6(C, unit(0))[0] / expected.E_x).toBeCloseTo(1, 8);
      expect(1 / solve6(C, unit(1))[1] / expected.E_y).toBeCloseTo(1, 8);
      expect(1 / (2 * solve6(C, unit(3))[3]) / expected.G_xy).toBeCloseTo(1, 8);
      const alpha = orientedExpansion(solid, C, a);
      expect(alpha[0] / expected.alpha_xx).toBeCloseTo(1, 7);
      expect(alpha[3] / expected.alpha_xy).toBeCloseTo(1, 6);
    }
  });

  it('constants of a stiffness are those it was made of', () => {
    const c = { E1: 9e9, E2: 3e9, G12: 1.1e9, nu12: 0.3, nu23: 0.45 };
    expect(engineeringOf(stiffnessOf(c))).toMatchObject({
      E1: expect.closeTo(9e9, -3) as number,
      E2: expect.closeTo(3e9, -3) as number,
      nu12: expect.closeTo(0.3, 9) as number,
      nu23: expect.closeTo(0.45, 9) as number,
    });
  });
});

describe('fibres that break', () => {
  const { longest, unbreakable, points, viscosity, shearRate, ...b } = reference.breakage;
  const breaking = new Breaking(b);
  const flow = { stress: viscosity * shearRate, shearRate };
  const start = new Float64Array(b.bins);
  start[b.bins - 1] = longest;

  it('below a length the flow does not buckle them', () => {
    expect(breaking.unbreakable(flow.stress) / unbreakable).toBeCloseTo(1, 9);
    const rates = breaking.ratesIn(flow);
    rates.forEach((r, i) => expect(r > 0).toBe((i + 1) * b.binLength > unbreakable));
  });

  it.each(points)('after $time s', ({ time, L_n, L_w, number_in_longest_bin }) => {
    const now = breaking.after(start, flow, time);
    const { byNumber, byWeight } = meanLengths(now, b.binLength);
    expect(byNumber / L_n).toBeCloseTo(1, 7);
    expect(byWeight / L_w).toBeCloseTo(1, 7);
    expect(now[b.bins - 1] / number_in_longest_bin).toBeCloseTo(1, 6);
  });

  it('lose no length, and break into two of any size about the middle', () => {
    const length = (n: Float64Array) => n.reduce((s, v, i) => s + v * (i + 1), 0);
    expect(length(breaking.after(start, flow, 0.7)) / length(start)).toBeCloseTo(1, 12);
    breaking.children.forEach((row, k) => {
      if (!k) return;
      expect(row.reduce((s, v) => s + v, 0)).toBeCloseTo(2, 12);
      expect(row.reduce((s, v, i) => s + v * (i + 1), 0)).toBeCloseTo(k + 1, 9);
    });
  });

  it('do not in melt at rest', () => {
    expect(breaking.after(start, { stress: 0, shearRate: 0 }, 1)).toEqual(start);
    expect(breaking.after(start, flow, 0)).toEqual(start);
  });
});

describe('what a flow feels of fibres', () => {
  const own = model({ aspect: 20, interaction: { by: 'even', CI: 0.01 } });
  const shear = [0, 40, 0, 0, 0, 0, 0, 0, 0];
  const asData = { drag: fibreDrag(0.15, 20), resistance: resistanceInShear(own, 'orthotropic-wide') };

  it('is the same in any flow before they line up, and little after', () => {
    const resist = (a: Sym, L = shear) => new Orientation(own, 'orthotropic-wide').resistance(a, L);
    // d : A : d / d : d of fibres alike in all directions is 2 / 15 in any flow.
    expect(resist(isotropic())).toBeCloseTo(2 / 15, 2);
    expect(resist(isotropic(), [1, 0, 0, 0, -0.5, 0, 0, 0, -0.5])).toBeCloseTo(2 / 15, 2);
    expect(asData.resistance).toBeLessThan(0.08);
    expect(resist(isotropic(), Array<number>(9).fill(0))).toBe(-1);
    // Stretched along themselves they hold all they can.
    const along = sym();
    along[0] = 1;
    expect(resist(along, [1, 0, 0, 0, -0.5, 0, 0, 0, -0.5])).toBeCloseTo(2 / 3, 2);
  });

  it('is nothing where they lie and are as many as in the data', () => {
    expect(relativeFluidity(asData, asData)).toBe(1);
    expect(relativeFluidity({ ...asData, resistance: 2 / 15 }, asData)).toBeLessThan(0.75);
    expect(relativeFluidity({ ...asData, drag: fibreDrag(0.2, 20) }, asData)).toBeLessThan(1);
    expect(fibreDrag(0.1, 0.2)).toBe(0);
    expect(fibreDrag(0, 20)).toBe(0);
  });

  it.each(INTERACTIONS)('directions keep to numbers where hardly anything flows, %s', (by) => {
    const interaction: Interaction =
      by === 'even'
        ? { by, CI: 0.01 }
        : by === 'two'
          ? { by, CI: 0.03, CM: 0.8 }
          : { by, b: [2e-4, 6e-3, 0.04, 1e-5, 0] };
    for (const rate of [1e-3, 1e-100, 1e-200]) {
      const a = isotropic();
      new Orientation(model({ interaction, slowing: 0.05 }), 'orthotropic-wide').advance(
        a,
        [0, rate, 0, 0, 0, 0, 0, 0, 0],
        10 / rate,
      );
      expect(a[0] + a[1] + a[2]).toBeCloseTo(1, 6);
    }
  });
});

describe('the kernel', () => {
  it('is the one that assembly/fibres.ts compiles to', async () => {
    const { compileKernel } = (await import('../../../../scripts/kernels.mjs')) as {
      compileKernel: (name: string) => Promise<string>;
    };
    expect(await compileKernel('fibres')).toBe(FIBRES_KERNEL);
  });

  it('gives layers that go through the same as before the same change, and others their own', () => {
    const { kernel } = new Orientation(model({ slowing: 0.2 }), 'orthotropic-wide', 1e-4, 2);
    const { layers, shear, faster, stay, along, across, meanGradient, calls } = kernel;
    along.set([1, 0, 0]);
    across.set([0, 0, 1]);
    meanGradient.fill(0);
    faster.fill(1);
    const once = (rate: number, tilt: number) => {
      for (let t = 0; t < 2; t++) layers.set([1 / 3 + tilt, 1 / 3 - tilt, 1 / 3, 0, 0, 0], 6 * t);
      shear.set([rate, -rate]);
      stay.set([1, 1]);
      calls.advanceLayers(2, kernel.keptOf(0), false);
      return Array.from(layers.subarray(0, 12));
    };
    const first = once(2, 0);
    const asked = calls.asked();
    const again = once(2 * 1.001, 1e-4);
    expect(calls.asked()).toBe(asked);
    again.forEach((v, k) => expect(v).toBeCloseTo(first[k], 3));
    const other = once(4, 0);
    expect(calls.asked()).toBeGreaterThan(asked);
    expect(other[0]).toBeGreaterThan(first[0]);
    // Shear the other way tilts the other way.
    expect(first[5] + first[11]).toBeCloseTo(0, 9);
    expect(first[5]).toBeGreaterThan(0.01);
  });
});
