import { afterEach, describe, expect, it } from 'vitest';
import {
  format,
  formatCoordinate,
  formatPlace,
  formatShown,
  METRIC,
  readIn,
  READER_UNITS,
  reworded,
  told,
  shownStep,
  shownUnit,
  typedQuantity,
} from './reader';
import { isUnit, kindOf, toSi, UNIT_NAMES } from './units';

const IMPERIAL = { length: 'in', pressure: 'psi', temperature: '°F', mass: 'oz' } as const;
const BAR = { ...METRIC, pressure: 'bar' } as const;
afterEach(() => readIn(METRIC));

describe('units of the reader', () => {
  it('are those that the code names until something else is wanted', () => {
    for (const unit of UNIT_NAMES) expect(shownUnit(unit)).toBe(unit);
    readIn(IMPERIAL);
    readIn(METRIC);
    for (const unit of UNIT_NAMES) expect(shownUnit(unit)).toBe(unit);
  });

  it('tell the same thing: a unit is told in one of its own kind, and in itself once it is', () => {
    for (const length of READER_UNITS.length)
      for (const pressure of READER_UNITS.pressure)
        for (const temperature of READER_UNITS.temperature)
          for (const mass of READER_UNITS.mass) {
            readIn({ length, pressure, temperature, mass });
            for (const unit of UNIT_NAMES) {
              expect(kindOf(shownUnit(unit))).toBe(kindOf(unit));
              expect(shownUnit(shownUnit(unit))).toBe(shownUnit(unit));
              expect(toSi(told(0.37, unit), shownUnit(unit))).toBeCloseTo(0.37, 9);
            }
          }
  });

  it('hand values', () => {
    expect(format(25e6, 'MPa')).toBe('25.0 MPa');
    expect([0.1234, -0.00001, 1e-18, -0.05].map(formatCoordinate)).toEqual(['123.4', '0.0', '0.0', '−50.0']);
    readIn(BAR);
    expect(format(25e6, 'MPa')).toBe('250 bar');
    expect(format(2e9, 'GPa', 2)).toBe('2.0 GPa');
    readIn(IMPERIAL);
    expect(format(6894757.293168, 'MPa', 4)).toBe('1000 psi');
    expect(format(0.0254, 'mm')).toBe('1.00 in');
    expect(format(473.15, '°C')).toBe('392 °F');
    expect(format(10, 'K')).toBe('18.0 F°');
    expect(format(0.028349523125, 'g')).toBe('1.00 oz');
    expect(format(1000, 'kg/m³')).toBe('62.4 lb/ft³');
    expect(format(0.5, 's')).toBe('0.500 s');
    expect(formatPlace([0.0254, -0.0508, 0])).toBe('1.00, −2.00, 0 in');
    expect(formatShown(0.0127, 'mm')).toBe('0.500');
    expect(formatCoordinate(0.0254)).toBe('1.000');
  });
});

describe('measures as people type them', () => {
  it.each([
    ['8.5', 'mm', 0.0085],
    ['8,5', 'mm', 0.0085],
    ['2 in', 'mm', 0.0508],
    ['2in', 'mm', 0.0508],
    ['1/8 in', 'mm', 0.003175],
    ['1 1/2"', 'mm', 0.0381],
    ['-1/4 in', 'mm', -0.00635],
    ['1/8', 'mm', 0.000125],
    ['30 bar', 'MPa', 3e6],
    ['1450.38 psi', 'MPa', 1.0e7],
    ['392 °F', '°C', 473.15],
    ['392F', '°C', 473.15],
    ['18 °F', 'K', 10],
    ['10 °C', 'K', 10],
    ['2 cm3', 'cm³', 2e-6],
    ['3 l/min', 'cm³/s', 5e-5],
    ['1e3', 'mm', 1],
    ['12 %', '%', 0.12],
    ['4 h', 's', 14400],
  ] as const)('“%s” in a field of %s', (text, unit, si) => expect(typedQuantity(text, unit) / si).toBeCloseTo(1, 5));

  it.each([
    ['', 'mm'],
    ['mm', 'mm'],
    ['3 bar', 'mm'],
    ['3 furlongs', 'mm'],
    ['1/0', 'mm'],
    ['1/2/3', 'mm'],
    ['20 °C', '%'],
    ['20 K', '°C'],
    ['3 mm 4', 'mm'],
  ] as const)('“%s” is nothing in a field of %s', (text, unit) =>
    expect(Number.isFinite(typedQuantity(text, unit))).toBe(false),
  );

  it('without a unit they are in the reader’s', () => {
    readIn(IMPERIAL);
    expect(typedQuantity('1/8', 'mm')).toBeCloseTo(0.003175, 12);
    expect(typedQuantity('3 mm', 'mm')).toBeCloseTo(0.003, 12);
    expect(typedQuantity('392', '°C')).toBeCloseTo(473.15, 9);
    expect(typedQuantity('1000', 'MPa')).toBeCloseTo(6894757.293, 2);
  });

  it('steps of the arrow keys are round in every unit', () => {
    expect(shownStep(0.1, 'mm')).toBe(0.1);
    readIn(IMPERIAL);
    expect(shownStep(0.1, 'mm')).toBeCloseTo(0.005, 12);
    expect(shownStep(5, '°C')).toBe(10);
    expect(shownStep(1, 'MPa')).toBe(100);
    expect(shownStep(0.1, 's')).toBe(0.1);
  });
});

describe('texts that were made without knowing the reader', () => {
  it('have their measures in the reader’s units', () => {
    const text = 'At 23.4 mm from G1 the melt of 200 to 240 °C lost 12.5 K and 10 MPa; box of 25.4 × 50.8 × 76.2 mm.';
    expect(reworded(text)).toBe(text);
    readIn(IMPERIAL);
    expect(reworded(text)).toBe(
      'At 0.921 in from G1 the melt of 392 to 464 °F lost 22.5 F° and 1450 psi; box of 1.00 × 2.00 × 3.00 in.',
    );
    expect(reworded('near 25.4, −50.8, 0 mm, 3 of 2 places')).toBe('near 1.00, −2.00, 0 in, 3 of 2 places');
    expect(reworded('gate G1 2.5 → 3.3 mm, packing 12 → 25 MPa')).toBe(
      'gate G1 0.0984 → 0.130 in, packing 1740 → 3626 psi',
    );
  });

  it('leave alone what only looks like one', () => {
    readIn(IMPERIAL);
    for (const text of [
      'PA-GF30 mm',
      'M3 g',
      '2.5 W/(m·K)',
      '3 g/cm³',
      '7 MPa·s',
      '12 mmx',
      'v1.2 mm2',
      '40 s',
      '5 kJ/m²',
    ])
      expect(reworded(text)).toBe(text);
    expect(isUnit('')).toBe(false);
    expect(isUnit('toString')).toBe(false);
  });
});
