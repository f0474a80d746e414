import { describe, expect, it } from 'vitest';
import { between, ductOf, polygonMobility, type Section } from './section';

const relative = (a: number, b: number) => Math.abs(a / b - 1);

describe('sections of runners', () => {
  it('round: Hagen and Poiseuille, and the exponent of a tube', () => {
    const duct = ductOf({ shape: 'round', diameter: 0.006 });
    expect(duct.mobility).toBeCloseTo(0.003 ** 2 / 8, 15);
    expect(duct.shape).toBeCloseTo(3, 12);
  });

  it('a wide rectangle is a slit', () => {
    const duct = ductOf({ shape: 'rectangle', width: 1, height: 0.002 });
    expect(relative(duct.mobility, 0.002 ** 2 / 12)).toBeLessThan(2e-3);
    expect(duct.shape).toBeCloseTo(2, 1);
  });

  it('a square has the constant of the handbooks', () => {
    expect(relative(ductOf({ shape: 'rectangle', width: 1, height: 1 }).mobility, 0.0351443)).toBeLessThan(1e-5);
  });

  it('the solution on the section agrees with the series and with a circle', () => {
    const rectangle = (w: number, h: number): [number, number][] => [
      [0, 0],
      [w, 0],
      [w, h],
      [0, h],
    ];
    for (const [w, h] of [
      [1, 1],
      [1, 0.6],
      [0.3, 1],
    ])
      expect(
        relative(polygonMobility(rectangle(w, h)), ductOf({ shape: 'rectangle', width: w, height: h }).mobility),
      ).toBeLessThan(2e-3);
    const circle = Array.from({ length: 90 }, (_, k): [number, number] => [
      Math.cos((2 * Math.PI * k) / 90),
      Math.sin((2 * Math.PI * k) / 90),
    ]);
    expect(relative(polygonMobility(circle), 1 / 8)).toBeLessThan(3e-3);
    const half = circle.filter(([, y]) => y >= -1e-9);
    expect(relative(polygonMobility(half), ductOf({ shape: 'half-round', diameter: 2 }).mobility)).toBeLessThan(5e-3);
  });

  it('a trapezoid lies between its inner and outer rectangle, and without draft is one', () => {
    const trapezoid = ductOf({ shape: 'trapezoid', width: 0.006, height: 0.005, draft: 0.17 });
    const bottom = 0.006 - 0.01 * Math.tan(0.17);
    expect(trapezoid.mobility).toBeGreaterThan(ductOf({ shape: 'rectangle', width: bottom, height: 0.005 }).mobility);
    expect(trapezoid.mobility).toBeLessThan(ductOf({ shape: 'rectangle', width: 0.006, height: 0.005 }).mobility);
    const straight = ductOf({ shape: 'trapezoid', width: 0.006, height: 0.005, draft: 0 });
    expect(
      relative(straight.mobility, ductOf({ shape: 'rectangle', width: 0.006, height: 0.005 }).mobility),
    ).toBeLessThan(2e-3);
    expect(() => ductOf({ shape: 'trapezoid', width: 0.002, height: 0.005, draft: 0.3 })).toThrow(/meet/);
  });

  it('tapers only to its own shape', () => {
    const [a, b]: Section[] = [
      { shape: 'round', diameter: 0.004 },
      { shape: 'round', diameter: 0.008 },
    ];
    expect(between(a, b, 0.25)).toEqual({ shape: 'round', diameter: 0.005 });
    expect(() => between(a, { shape: 'half-round', diameter: 0.008 }, 0.5)).toThrow(/own shape/);
  });
});
