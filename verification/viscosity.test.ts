import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { viscosity, type ViscosityModel } from '../src/core/material/viscosity';

interface Reference {
  materials: Record<
    string,
    {
      parameters: Omit<Extract<ViscosityModel, { kind: 'cross-wlf' }>, 'kind'>;
      points: [T: number, rate: number, p: number, eta: number][];
      slopes: { of: string; T: number; shearRate: number; p: number; value: number }[];
    }
  >;
}
const reference = JSON.parse(readFileSync(new URL('./reference/viscosity.json', import.meta.url), 'utf8')) as Reference;

describe.each(Object.entries(reference.materials))('Cross-WLF, %s', (_name, { parameters, points, slopes }) => {
  const model: ViscosityModel = { kind: 'cross-wlf', ...parameters };

  it.each(points)('viscosity at %f K, %f 1/s, %f Pa', (T, rate, p, eta) => {
    // The reference is printed with 13 digits; the formula loses a few in the exponential.
    expect(Math.abs(viscosity(model, T, p, rate) / eta - 1)).toBeLessThan(1e-9);
  });

  it.each(slopes)('$of', ({ of, T, shearRate, p, value }) => {
    const ln = (t: number, g: number, q: number) => Math.log(viscosity(model, t, q, g));
    // Central differences: h^2 error, against 1e-4 asked for.
    const h = 1e-4;
    const derivative = of.includes('dT')
      ? (ln(T + h, shearRate, p) - ln(T - h, shearRate, p)) / (2 * h)
      : of.includes('gdot')
        ? (ln(T, shearRate * (1 + h), p) - ln(T, shearRate * (1 - h), p)) / (2 * h)
        : (ln(T, shearRate, p + 1e3) - ln(T, shearRate, p - 1e3)) / 2e3;
    expect(Math.abs(derivative / value - 1)).toBeLessThan(1e-4);
  });
});
