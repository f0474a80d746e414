import { describe, expect, it } from 'vitest';
import { format } from './reader';
import { differenceUnit, digitsApart, formatNumber, fromSi, typedNumber, guessLengthUnit, toSi } from './units';

describe('units at the edge', () => {
  it('a difference of temperatures has no zero of its own', () => {
    expect(fromSi(10, differenceUnit('°C'))).toBe(10);
    expect(differenceUnit('MPa')).toBe('MPa');
  });

  it('go there and back, with the zero of temperatures', () => {
    expect(fromSi(303.15, '°C')).toBeCloseTo(30, 12);
    expect(toSi(30, 'K')).toBe(30);
    for (const unit of ['mm', '°C', 'bar', 'l/min', '°', 'cm³/s'] as const)
      expect(toSi(fromSi(1.25, unit), unit)).toBeCloseTo(1.25, 12);
  });

  it('numbers have digits that say something, and a minus sign of their own', () => {
    expect([0, 12.345, -0.5, 123456, 1e-7, NaN].map((x) => formatNumber(x))).toEqual([
      '0',
      '12.3',
      '−0.500',
      '123456',
      '1.00e−7',
      '–',
    ]);
    expect(format(25e6, 'MPa', 2)).toBe('25 MPa');
  });

  it('a range that is narrow for its height is told with more of them', () => {
    expect(digitsApart(0, 0.34, 4)).toBe(3);
    expect(digitsApart(0.3621, 0.363, 4)).toBe(5);
    expect(digitsApart(293, 293, 4)).toBe(3);
    expect(digitsApart(1e6, 1e6 + 1e-3, 4)).toBe(6);
    const ticks = (low: number, high: number) =>
      [0, 1, 2, 3, 4].map((k) => formatNumber(low + (k * (high - low)) / 4, digitsApart(low, high, 4)));
    for (const [low, high] of [
      [0.3621, 0.363],
      [0, 55],
      [-3, 4],
      [99.2, 101.1],
    ])
      expect(new Set(ticks(low, high)).size).toBe(5);
  });

  it('a length in a file is guessed from what parts are like', () => {
    expect([85, 3.4, 0.2].map(guessLengthUnit)).toEqual(['mm', 'in', 'm']);
  });
});

describe('numbers as people type them', () => {
  it.each([
    ['8.5', 8.5],
    [' 8,5 ', 8.5],
    ['−3', -3],
    ['-3', -3],
    ['1e3', 1000],
    ['', NaN],
    ['  ', NaN],
    ['3 mm', NaN],
  ])('“%s”', (text, value) => expect(typedNumber(text)).toBe(value));
});
