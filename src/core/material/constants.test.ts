import { describe, expect, it } from 'vitest';
import { MATERIAL_SCHEMAS, materialFileOf, materialFileSchema } from '../model/material';
import type { Resin } from '../model/resin';
import { CONSTANTS, constantAt, materialWarnings } from './constants';
import { integralTo, meanOver, valueAt } from './curve';
import { FAMILIES } from './families';
import { RESINS } from './library';
import { COOLANTS, GASES, METALS } from './others';
import { meltDensity, solidDensity } from './properties';
import { linearShrinkage, specificVolume, transitionAt, volumetricShrinkage } from './pvt';

describe('library of resins', () => {
  it('holds 40 grades or more of 18 families, filled and unfilled, with two elastomers', () => {
    expect(RESINS.length).toBeGreaterThanOrEqual(40);
    const families = new Set(RESINS.map((r) => r.family));
    expect(families.size).toBeGreaterThanOrEqual(18);
    expect([...families].every((f) => f in FAMILIES)).toBe(true);
    expect(new Set(RESINS.map((r) => r.id)).size).toBe(RESINS.length);
    expect(new Set(RESINS.map((r) => r.filler?.kind)).size).toBe(5);
    expect(families.has('TPE') && families.has('TPU')).toBe(true);
  });

  it.each(RESINS.map((r) => [r.name, r] as const))('%s is plausible against its kind', (_name, resin) => {
    expect(materialWarnings('resin', resin)).toEqual([]);
    // Plastics shrink on freezing: crystals more, fillers less.
    const shrinkage = linearShrinkage(volumetricShrinkage(resin.pvt, resin.transitionTemperature + 12, 3e7));
    const [least, most] = resin.structure === 'amorphous' ? [0.001, 0.012] : [0.009, 0.05];
    expect(shrinkage).toBeGreaterThan(least);
    expect(shrinkage).toBeLessThan(most);
    expect(solidDensity(resin)).toBeGreaterThan(1.04 * meltDensity(resin));
    expect(resin.elastic.E1).toBeGreaterThanOrEqual(resin.elastic.E2);
    expect(resin.expansion.along).toBeLessThanOrEqual(resin.expansion.across);
  });

  it('a filled grade is stiffer, heavier and shrinks less than its plain one', () => {
    for (const filled of RESINS.filter((r) => r.filler)) {
      const plain = RESINS.find((r) => r.family === filled.family && !r.filler);
      if (!plain) continue;
      expect(filled.elastic.E1).toBeGreaterThan(1.2 * plain.elastic.E1);
      expect(solidDensity(filled)).toBeGreaterThan(solidDensity(plain));
      const S = (r: typeof filled) => volumetricShrinkage(r.pvt, r.transitionTemperature + 12, 3e7);
      expect(S(filled)).toBeLessThan(S(plain));
    }
  });
});

it('metals, gases and coolants fit their schemas and are usual', () => {
  for (const m of [...METALS, ...GASES, ...COOLANTS]) {
    expect(MATERIAL_SCHEMAS[m.kind].parse(m)).toEqual(m);
    expect(materialWarnings(m.kind, m)).toEqual([]);
  }
});

describe('the solid of crystalline grades', () => {
  const grades = RESINS.filter((r) => !r.filler && r.structure === 'semi-crystalline');
  it('joins its melt at the transition, under pressure too', () => {
    expect(grades.length).toBeGreaterThan(8);
    for (const { pvt } of grades)
      for (const p of [0, 3e7, 6e7, 1e8]) {
        const at = transitionAt(pvt, p);
        const gap = specificVolume(pvt, at - 1e-6, p) / specificVolume(pvt, at, p) - 1;
        expect(Math.abs(gap)).toBeLessThan(0.004);
      }
  });
});

describe('constants by path', () => {
  it('are read', () => {
    const resin = RESINS[0];
    expect(constantAt(resin, 'viscosity.n')).toBe(0.29);
    expect(constantAt(resin, 'viscosity.nothing')).toBeNaN();
    for (const { constants } of CONSTANTS.resin)
      for (const { path, optional } of constants)
        expect(Number.isNaN(constantAt(resin, path)) && !optional).toBe(false);
  });

  it('that are unusual or do not go together are told', () => {
    const odd: Resin = structuredClone({ ...RESINS[0], ejectionTemperature: 450 });
    Object.assign(odd.viscosity, { n: 0.9 });
    const said = materialWarnings('resin', odd).map((w) => w.path);
    expect(said).toContain('viscosity.n');
    expect(said).toContain('ejectionTemperature');
  });
});

describe('material files', () => {
  it('come back as they went out', () => {
    const file: unknown = JSON.parse(JSON.stringify(materialFileOf('resin', RESINS[3])));
    expect(materialFileSchema.parse(file)).toEqual({ kind: 'resin', material: RESINS[3] });
  });
  it('say what is wrong in them', () => {
    const file = materialFileOf('resin', { ...RESINS[0], maxShearRate: -1 });
    const parsed = materialFileSchema.safeParse(file);
    expect(parsed.success).toBe(false);
    expect(parsed.error?.issues[0].path.join('.')).toBe('material.maxShearRate');
  });
});

describe('curves against temperature', () => {
  const curve = [
    { T: 300, value: 1000 },
    { T: 400, value: 2000 },
    { T: 500, value: 2000 },
  ];
  it('go straight between their points and hold beyond them', () => {
    expect([200, 350, 450, 900].map((T) => valueAt(curve, T))).toEqual([1000, 1500, 2000, 2000]);
    expect(integralTo(curve, 600) - integralTo(curve, 250)).toBeCloseTo(50e3 + 150e3 + 200e3 + 200e3, 6);
    expect(meanOver(curve, 300, 400)).toBeCloseTo(1500, 9);
  });
});
