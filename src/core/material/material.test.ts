import { describe, expect, it } from 'vitest';
import { RESINS } from './library';
import { CrossTable, sectionFlow } from './sectionFlow';
import { viscosity, zeroShearViscosity, type ViscosityModel } from './viscosity';

const EXPONENTS = [2, 2.5, 3];

/**
 * Apparent rates by brute force for each shape exponent: stress given, shear rate by bisection, midpoint rule over the
 * section. 60 halvings of 41 powers of e leave nothing; the rates are the same for every exponent.
 */
function bruteForce(model: ViscosityModel, T: number, p: number, wallStress: number): number[] {
  const rateAt = (stress: number) => {
    let [low, high] = [1e-9, 1e9];
    for (let i = 0; i < 60; i++) {
      const middle = Math.sqrt(low * high);
      if (middle * viscosity(model, T, p, middle) < stress) low = middle;
      else high = middle;
    }
    return Math.sqrt(low * high);
  };
  const N = 4000;
  const sums = EXPONENTS.map(() => 0);
  for (let i = 0; i < N; i++) {
    const zeta = (i + 0.5) / N;
    const rate = rateAt(zeta * wallStress);
    EXPONENTS.forEach((s, e) => (sums[e] += (zeta ** (s - 1) * rate) / N));
  }
  return EXPONENTS.map((s, e) => (s + 1) * sums[e]);
}

describe('section flow', () => {
  it.each(RESINS.map((r) => [r.name, r] as const))('%s: table against brute force', (_name, resin) => {
    const T = resin.melt.recommended;
    const flow = sectionFlow(resin.viscosity, T);
    for (const [stress, p] of [
      [2e3, 0],
      [5e4, 3e7],
      [2e5, 1e8],
    ]) {
      bruteForce(resin.viscosity, T, p, stress).forEach((apparent, e) => {
        const effective = stress / apparent;
        // Midpoint rule 1e-6, interpolation in the shape exponent 2e-4.
        expect(Math.abs(flow.effectiveViscosity(apparent, EXPONENTS[e], p) / effective - 1)).toBeLessThan(5e-4);
      });
    }
  });

  it('is Newtonian at rest and falls with the rate', () => {
    const table = new CrossTable(0.3);
    expect(table.reduced(0, 2)).toBe(1);
    expect(table.reduced(1e-7, 2.3)).toBeCloseTo(1, 3);
    let last = 1;
    for (let x = -10; x < 25; x += 0.37) {
      const now = table.reduced(Math.exp(x), 2.7);
      expect(now).toBeLessThanOrEqual(last);
      last = now;
    }
    // Far out a Cross melt is a power-law melt: ln eta falls by 1 - n per unit of ln rate.
    const slope = Math.log(table.reduced(Math.exp(26), 2) / table.reduced(Math.exp(22), 2)) / 4;
    expect(slope).toBeCloseTo(-0.7, 3);
  });

  it('power law and Newtonian in closed form', () => {
    const power = sectionFlow({ kind: 'power-law', K: 9000, n: 0.4 }, 500);
    // (2n+1)/3n of the apparent rate at the wall of a slit, (3n+1)/4n in a tube.
    expect(power.effectiveViscosity(50, 2, 0)).toBeCloseTo((9000 * (50 * 1.5) ** 0.4) / 50, 8);
    expect(power.effectiveViscosity(50, 3, 0)).toBeCloseTo((9000 * (50 * 1.375) ** 0.4) / 50, 8);
    expect(sectionFlow({ kind: 'newtonian', eta: 77 }, 500).effectiveViscosity(1e4, 2.5, 0)).toBe(77);
  });
});

describe('viscosity', () => {
  const model = RESINS[1].viscosity as Extract<ViscosityModel, { kind: 'cross-wlf' }>;
  it('falls with temperature and rate, rises with pressure', () => {
    const at = (T: number, p: number, rate: number) => viscosity(model, T, p, rate);
    expect(at(520, 0, 100)).toBeLessThan(at(500, 0, 100));
    expect(at(500, 0, 1000)).toBeLessThan(at(500, 0, 100));
    expect(at(500, 1e8, 100)).toBeGreaterThan(at(500, 0, 100));
  });
  it('is rigid below the pole of the WLF form', () => {
    expect(zeroShearViscosity(model, model.D2 - model.A2, 0)).toBe(Infinity);
    expect(viscosity(model, 200, 0, 10)).toBe(Infinity);
  });
  it('at rest is the zero-shear viscosity', () => {
    expect(viscosity(model, 500, 0, 0)).toBe(zeroShearViscosity(model, 500, 0));
  });
});
