import { describe, expect, it } from 'vitest';
import { RESINS } from '../src/core/material/library';
import { few } from './extent';
import type { Resin } from '../src/core/model/resin';
import { fitShrinkage } from '../src/core/pipeline/fitShrinkage';
import { shrinkagePlate, type PlateMoulding } from '../src/core/pipeline/shrinkagePlate';
import { plainContext } from '../src/core/stage/context';

/** Textbook ranges of the shrinkage along the wall of unfilled plastics, shares of the length. */
const RANGES: Record<string, [number, number]> = {
  'PE-HD': [0.015, 0.03],
  'PE-LD': [0.015, 0.03],
  PP: [0.012, 0.022],
  POM: [0.018, 0.025],
  PA6: [0.008, 0.016],
  PA66: [0.012, 0.02],
  PBT: [0.014, 0.02],
  PS: [0.004, 0.007],
  'PS-HI': [0.004, 0.007],
  ABS: [0.004, 0.007],
  ASA: [0.004, 0.007],
  'PC+ABS': [0.004, 0.007],
  PC: [0.005, 0.008],
  'PPE+PS': [0.005, 0.008],
  PMMA: [0.003, 0.007],
  TPE: [0.008, 0.02],
  TPU: [0.008, 0.02],
};
const usual: PlateMoulding = { thickness: 0.002, pressure: 5e7, melt: null, mould: null };
const of = async (resin: Resin, moulding: Partial<PlateMoulding> = {}) =>
  (await shrinkagePlate(resin, { ...usual, ...moulding }, plainContext())).along;
/** One grade a family: those of a family differ in their flow alone. */
const grade = (family: string) => RESINS.find((r) => r.family === family && !r.filler)!;

describe('the plate of 2 mm, packed with 50 MPa until its gate froze', () => {
  it.each(Object.entries(RANGES))('of %s shrinks as its data sheets say', async (family, [least, most]) => {
    const along = await of(grade(family));
    expect(along).toBeGreaterThanOrEqual(least);
    expect(along).toBeLessThanOrEqual(most);
  });

  it.each(few(['PP', 'ABS'], 1))('of %s shrinks less under more pressure', async (family) => {
    const [low, middle, high] = [
      await of(grade(family), { pressure: 2e7 }),
      await of(grade(family)),
      await of(grade(family), { pressure: 8e7 }),
    ];
    expect(middle).toBeLessThan(low - 5e-4);
    expect(high).toBeLessThan(middle - 5e-4);
  });

  it.each(few(['PP', 'ABS', 'POM'], 1))(
    'of %s shrinks more the thicker it is, for its gate freezes early',
    async (family) => {
      const [thin, thick] = [await of(grade(family)), await of(grade(family), { thickness: 0.003 })];
      expect(thick).toBeGreaterThan(thin + 5e-4);
    },
  );

  const HOTTER: readonly [string, number][] = [
    // In half of it by crystals, which have time to grow.
    ['POM', 1e-3],
    ['PBT', 2.5e-4],
    // Against the colder one the gate is open for longer, which takes some of it away.
    ['PP', 1e-4],
  ];
  it.each(few(HOTTER, 1))('of %s shrinks more in a hotter mould', async (family, more) => {
    const resin = grade(family);
    const { recommended, max } = resin.mould;
    const rise = async (r: Resin) => (await of(r, { mould: max })) - (await of(r, { mould: recommended }));
    expect(await rise(resin)).toBeGreaterThan(more);
    if (family === 'POM') expect(await rise({ ...resin, quenchLoss: 0 })).toBeLessThan(await rise(resin));
  });

  it('goes on shrinking in the room, by less and less', async () => {
    const pp = grade('PP');
    const at = async (after: number) => (await shrinkagePlate(pp, { ...usual, after }, plainContext())).along;
    const [hour, day, week] = [await at(3600), await at(86_400), await at(604_800)];
    expect(day).toBeGreaterThan(hour + 1e-4);
    expect(week).toBeGreaterThan(day);
    expect(week - day).toBeLessThan(day - hour);
  });
});

describe('a resin corrected by measured shrinkage', () => {
  const plates = (along: number[]) =>
    along.map((a, k) => ({ thickness: 0.002, pressure: [3e7, 6e7][k], along: a, across: a }));

  it('finds the share of crystals that the plates were moulded with', async () => {
    const pp = grade('PP');
    const made = { ...pp, crystalShare: 0.7 };
    const measured = [await of(made, { pressure: 3e7 }), await of(made, { pressure: 6e7 })];
    const fit = await fitShrinkage({ resin: pp, points: plates(measured) }, plainContext());
    if (fit.status !== 'found') throw new Error(fit.message);
    expect(fit.report.crystalShare).toBeCloseTo(0.7, 1);
    expect(fit.report.shrinkageFactor).toBe(1);
    expect(fit.report.rms.after).toBeLessThan(0.15 * fit.report.rms.before);
    expect(fit.report.resin.measuredShrinkage).toHaveLength(2);
  });

  it('scales what an amorphous plastic shrinks by', async () => {
    const abs = grade('ABS');
    const measured = [1.2 * (await of(abs, { pressure: 3e7 })), 1.2 * (await of(abs, { pressure: 6e7 }))];
    const fit = await fitShrinkage({ resin: abs, points: plates(measured) }, plainContext());
    if (fit.status !== 'found') throw new Error(fit.message);
    expect(fit.report.shrinkageFactor).toBeCloseTo(1.2, 2);
    const [again] = [await of(fit.report.resin, { pressure: 3e7 })];
    expect(again / measured[0]).toBeCloseTo(1, 2);
  });

  it('refuses plates that have not shrunk, and says where along and across differ', async () => {
    const abs = grade('ABS');
    const none = await fitShrinkage({ resin: abs, points: plates([-0.001, -0.001]) }, plainContext());
    expect(none.status === 'refused' && none.remedy).toMatch(/above 0/);
    const apart = await fitShrinkage(
      { resin: abs, points: [{ thickness: 0.002, pressure: 5e7, along: 0.002, across: 0.008 }] },
      plainContext(),
    );
    expect(apart.status === 'found' && apart.report.notes.join(' ')).toMatch(/Along and across differ/);
  });
});
