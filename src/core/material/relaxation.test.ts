import { describe, expect, it } from 'vitest';
import { RESINS } from './library';
import { decadesAt, relaxationOf, shareLeft, stretchedTerms } from './relaxation';
import { solidLawOf } from './solid';

describe('relaxation', () => {
  const r = relaxationOf('amorphous', 378);

  it('shifts by WLF above the reference and Arrhenius below it, and meets there', () => {
    expect(decadesAt(r, 378)).toBeCloseTo(0, 12);
    expect(decadesAt(r, 378 + 50)).toBeCloseTo(-13.5 / 2, 9);
    expect(decadesAt(r, 350)).toBeCloseTo((420e3 / (Math.LN10 * 8.314462618)) * (1 / 350 - 1 / 378), 6);
    expect(decadesAt(r, 100)).toBe(40);
  });

  it('leaves less the longer it lasts and the hotter it is, all at first and nothing in the end', () => {
    expect(shareLeft(r, 378, 0)).toBeCloseTo(1, 5);
    expect(shareLeft(r, 378, 1e7)).toBeLessThan(1e-6);
    expect(shareLeft(r, 378, 10)).toBeGreaterThan(shareLeft(r, 378, 100));
    expect(shareLeft(r, 370, 10)).toBeGreaterThan(shareLeft(r, 378, 10));
  });

  it('terms of a stretched exponential follow it within their decades', () => {
    const terms = stretchedTerms(10, 0.5);
    expect(terms.reduce((s, t) => s + t.share, 0)).toBeCloseTo(1, 5);
    for (const t of [0.1, 1, 10, 100]) {
      const left = terms.reduce((s, { share, time }) => s + share * Math.exp(-t / time), 0);
      expect(Math.abs(left - Math.exp(-Math.sqrt(t / 10)))).toBeLessThan(0.11);
    }
  });
});

describe('the solid of a resin', () => {
  it('turns solid where the resin does: another transition, as a fit finds it, moves all times along', () => {
    const fitted = { ...RESINS[0], transitionTemperature: RESINS[0].transitionTemperature + 25 };
    expect(solidLawOf(fitted).relaxation.reference).toBe(fitted.transitionTemperature);
  });

  it('has what its structure says where its data say nothing, and shares by their sum', () => {
    for (const { crystalShare: _, quenchLoss: _q, ...plain } of [RESINS[0], RESINS.find((x) => x.family === 'PC')!]) {
      const law = solidLawOf(plain);
      expect(law.relaxation.reference).toBe(plain.transitionTemperature);
      expect(law.crystalShare).toBe(plain.structure === 'amorphous' ? 0 : 0.3);
      expect(law.quenchLoss).toBe(plain.structure === 'amorphous' ? 0 : 0.08);
      expect(law.shrinkageFactor).toBe(1);
    }
    const halves = { ...solidLawOf(RESINS[0]).relaxation, terms: [1, 3].map((share, k) => ({ share, time: 10 ** k })) };
    expect(solidLawOf({ ...RESINS[0], relaxation: halves }).relaxation.terms.map((t) => t.share)).toEqual([0.25, 0.75]);
  });
});
