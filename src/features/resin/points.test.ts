import { describe, expect, it } from 'vitest';
import { measure } from '@/core/material/lab';
import { RESINS } from '@/core/material/library';
import { curvesCsv, curvesOf } from './curves';
import {
  fibrePoints,
  fibreText,
  pvtPoints,
  pvtText,
  shrinkagePoints,
  shrinkageText,
  viscosityPoints,
  viscosityText,
} from './points';

describe('measured points as text', () => {
  it('come back as they went out', () => {
    const { viscosity, pvt } = measure(RESINS[0], 4);
    viscosityPoints(viscosityText(viscosity)).forEach((q, k) => {
      expect(q.T).toBeCloseTo(viscosity[k].T, 6);
      expect(q.viscosity).toBe(viscosity[k].viscosity);
    });
    pvtPoints(pvtText(pvt)).forEach((q, k) => expect(q.v / pvt[k].v).toBeCloseTo(1, 6));
    const { fibres } = measure(
      RESINS.find((r) => r.filler?.kind === 'glass fibre')!,
      4,
    );
    expect(fibres.length).toBeGreaterThan(10);
    fibrePoints(fibreText(fibres)).forEach((q, k) => {
      for (const key of ['distance', 'wall', 'place', 'along'] as const) expect(q[key]).toBeCloseTo(fibres[k][key], 6);
    });
  });
  it('plates of measured shrinkage as well', () => {
    const plates = [{ thickness: 0.002, pressure: 4e7, along: 0.0052, across: 0.0091 }];
    const [again] = shrinkagePoints(shrinkageText(plates));
    expect(again.thickness).toBeCloseTo(0.002, 9);
    expect(again.across).toBeCloseTo(0.0091, 9);
  });
  it.each([
    ['semicolons and decimal commas', '100;230;250,5\n1000;230;90,25'],
    ['tabs', 'rate\tT\teta\n100\t230\t250.5\n1000\t230\t90.25'],
  ])('are read with %s', (_name, text) => {
    expect(viscosityPoints(text).map((q) => q.viscosity)).toEqual([250.5, 90.25]);
  });
  it('name the line that is wrong', () => {
    expect(() => viscosityPoints('100, 230, 250\n1000, hot, 90')).toThrow(/Line 2/);
    expect(() => pvtPoints('')).toThrow(/no points yet/);
    expect(() => fibrePoints('60, 2, 50, 70\n60, 2, 50')).toThrow('Line 2 has no share along the flow.');
  });
});

it('curves of two resins in one table, one column a line', () => {
  const csv = curvesCsv(curvesOf('viscosity', [RESINS[0], RESINS[9]])).split('\n');
  expect(csv[0].split('",')).toHaveLength(7);
  expect(csv[0]).toContain(RESINS[9].name);
  const [rate, first] = csv[1].split(',').map(Number);
  expect(rate).toBe(1);
  expect(first).toBeGreaterThan(100);
});
