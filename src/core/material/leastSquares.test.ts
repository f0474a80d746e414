import { describe, expect, it } from 'vitest';
import { random } from '../../../verification/random';
import { leastSquares } from './leastSquares';

/** Normal deviates of a seed (Box & Muller). */
function normal(seed: number): () => number {
  const next = random(seed);
  return () => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
}
const places = (n: number) => Array.from({ length: n }, (_, i) => i / (n - 1));

describe('least squares', () => {
  it('of a straight line are those of the closed form, with its errors', () => {
    const noise = normal(3);
    const x = places(40);
    const y = x.map((t) => 2 + 3 * t + 0.01 * noise());
    const { parameters, errors, rms } = leastSquares((p, i) => p[0] + p[1] * x[i] - y[i], 40, [0, 0]);
    const mean = (a: number[]) => a.reduce((s, v) => s + v) / a.length;
    const [mx, my] = [mean(x), mean(y)];
    const slope = x.reduce((s, t, i) => s + (t - mx) * (y[i] - my), 0) / x.reduce((s, t) => s + (t - mx) ** 2, 0);
    // Robust weights take a little from the farthest points.
    expect(parameters[1]).toBeCloseTo(slope, 2);
    expect(parameters[0]).toBeCloseTo(my - slope * mx, 2);
    const spread = x.reduce((s, t) => s + (t - mx) ** 2, 0);
    expect(errors[1]).toBeGreaterThan((0.7 * 0.01) / Math.sqrt(spread));
    expect(errors[1]).toBeLessThan((1.3 * 0.01) / Math.sqrt(spread));
    expect(rms).toBeGreaterThan(0.006);
    expect(rms).toBeLessThan(0.013);
  });

  it('find parameters of a curve that differ by many orders', () => {
    const x = places(30).map((t) => 400 * t);
    const truth = [1e5, 0.013, 7e-4];
    const model = (p: readonly number[], t: number) => Math.log(p[0] * Math.exp(-p[1] * t) * (1 + p[2] * t));
    const { parameters, rms } = leastSquares((p, i) => model(p, x[i]) - model(truth, x[i]), 30, [3e4, 0.03, 1e-4]);
    parameters.forEach((p, k) => expect(p / truth[k]).toBeCloseTo(1, 4));
    expect(rms).toBeLessThan(1e-6);
  });

  it('are not pulled by wild points, and say which they are', () => {
    const noise = normal(5);
    const x = places(30);
    const wild = [4, 17, 25];
    const y = x.map((t, i) => 1 - 2 * t + 0.005 * noise() + (wild.includes(i) ? 5 : 0));
    const { parameters, weights } = leastSquares((p, i) => p[0] + p[1] * x[i] - y[i], 30, [0, 0]);
    expect(parameters[0]).toBeCloseTo(1, 1);
    expect(parameters[1]).toBeCloseTo(-2, 1);
    expect(wild.map((i) => weights[i])).toEqual([0, 0, 0]);
    expect(Math.min(...weights.filter((_, i) => !wild.includes(i)))).toBeGreaterThan(0.2);
  });

  it('tell parameters that the points do not fix by their errors', () => {
    const x = places(12);
    const noise = normal(9);
    const y = x.map((t) => t + 0.01 * noise());
    // Only the sum of the two is fixed.
    const { parameters, errors } = leastSquares((p, i) => (p[0] + p[1]) * x[i] - y[i], 12, [0.2, 0.3]);
    expect(parameters[0] + parameters[1]).toBeCloseTo(1, 1);
    expect(errors).toEqual([NaN, NaN]);
  });

  it('end where a residual is no number, and say so by what is left', () => {
    const fit = leastSquares((p) => Math.log(p[0] - 1), 5, [0.5]);
    expect(fit.residuals).toEqual(Array(5).fill(1e6));
  });
});
