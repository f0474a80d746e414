import { describe, expect, it } from 'vitest';
import { FitError, fitViscosity, type ViscosityPoint } from './fitViscosity';
import { fitPvt, type PvtPoint } from './fitPvt';
import { measure } from './lab';
import { resinById, RESINS } from './library';
import { specificVolume } from './pvt';
import { viscosity } from './viscosity';

const GRADES = ['pp-hollin-h14', 'abs-corran-220', 'pa6-lowan-n30', 'pc-veyra-10', 'pom-anstey-c9'];

describe.each(GRADES)('fit of %s from points with scatter', (id) => {
  const resin = resinById(id)!;

  it.each([1, 7, 23, 101])('Cross-WLF: the curve within 2 % over what was measured, seed %i', (seed) => {
    const { viscosity: points } = measure(resin, seed);
    const model = resin.viscosity as Extract<typeof resin.viscosity, { kind: 'cross-wlf' }>;
    const fit = fitViscosity(points, model.D2);
    const { min, recommended, max } = resin.melt;
    const off: number[] = [];
    for (const T of [min, recommended, max])
      for (const rate of [20, 100, 500, 2000, 8000])
        off.push(Math.abs(viscosity(fit.model, T, 0, rate) / viscosity(model, T, 0, rate) - 1));
    // Scatter of 3 %, 36 points, five constants: the middle of the curve is known to about 1 %, its ends less.
    expect(Math.sqrt(off.reduce((s, x) => s + x * x, 0) / off.length)).toBeLessThan(0.02);
    expect(fit.rms).toBeLessThan(0.06);
    expect(fit.errors.n).toBeGreaterThan(0);
  });

  it('Tait: the volume within a scatter of what was measured', () => {
    const { pvt } = measure(resin, 3);
    const fit = fitPvt(pvt, resin.structure === 'semi-crystalline');
    const off = pvt.map((q) => specificVolume(fit.model, q.T, q.p) / specificVolume(resin.pvt, q.T, q.p) - 1);
    const rms = Math.sqrt(off.reduce((s, x) => s + x * x, 0) / off.length);
    expect(rms).toBeLessThan(0.002);
    expect(Math.abs(fit.model.b5 - resin.pvt.b5)).toBeLessThan(8);
  });
});

it('a wild point hardly moves the fit and gets little weight', () => {
  const resin = resinById('pp-hollin-h14')!;
  const clean = measure(resin, 5).viscosity.map((q) => ({
    ...q,
    viscosity: viscosity(resin.viscosity, q.T, q.p, q.shearRate),
  }));
  const wild = clean.map((q, i) => (i === 9 ? { ...q, viscosity: 4 * q.viscosity } : q));
  const fit = fitViscosity(wild, 263.15);
  expect(fit.weights[9]).toBeLessThan(0.05);
  for (const q of clean) expect(viscosity(fit.model, q.T, 0, q.shearRate) / q.viscosity).toBeCloseTo(1, 2);
});

it('fits the influence of pressure where pressures differ', () => {
  const { viscosity: model } = resinById('pc-veyra-10')!;
  const points: ViscosityPoint[] = [560, 585].flatMap((T) =>
    [0, 6e7].flatMap((p) =>
      [20, 200, 2000, 20000].map((shearRate) => ({ T, p, shearRate, viscosity: viscosity(model, T, p, shearRate) })),
    ),
  );
  const fit = fitViscosity(points, 417.15);
  expect(fit.model.D3 / 2.2e-7).toBeCloseTo(1, 2);
  expect(fit.errors.D3).toBeDefined();
});

describe('refuses nonsense with reasons', () => {
  const good = measure(RESINS[0], 1);
  const refusal = (work: () => unknown): string => {
    try {
      work();
    } catch (error) {
      if (error instanceof FitError) return error.message;
      throw error;
    }
    return 'taken';
  };
  it.each<[string, ViscosityPoint[], RegExp]>([
    ['too few', good.viscosity.slice(0, 4), /too few/],
    ['one temperature', good.viscosity.slice(0, 12), /one temperature/],
    [
      'a negative viscosity',
      good.viscosity.map((q, i) => (i === 2 ? { ...q, viscosity: -1 } : q)),
      /Point 3: the viscosity/,
    ],
    ['no shear rates', good.viscosity.map((q) => ({ ...q, shearRate: 0 })), /shear rate must be above zero/],
    ['one shear rate', good.viscosity.map((q) => ({ ...q, shearRate: 100 })), /factor of ten/],
    ['celsius for kelvin', good.viscosity.map((q) => ({ ...q, T: q.T - 273.15 })), /no temperature of a melt/],
    ['noise', good.viscosity.map((q, i) => ({ ...q, viscosity: i % 2 ? 1 : 5000 })), /scatter/],
  ])('viscosity: %s', (_name, points, reason) => {
    expect(refusal(() => fitViscosity(points, 263.15))).toMatch(reason);
  });
  it.each<[string, PvtPoint[], RegExp]>([
    ['too few', good.pvt.slice(0, 5), /too few/],
    ['one pressure', good.pvt.map((q) => ({ ...q, p: 1e5 })), /less than 20 MPa/],
    ['density for volume', good.pvt.map((q) => ({ ...q, v: 1 / q.v })), /specific volume must lie/],
  ])('pvT: %s', (_name, points, reason) => {
    expect(refusal(() => fitPvt(points, true))).toMatch(reason);
  });
});
