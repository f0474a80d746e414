import { describe, expect, it } from 'vitest';
import type { Vec3 } from './mesh';
import { box } from '../../../verification/shapes';
import { refine } from './refine';
import { bestFit, evenGrowth, moved, threePointMotion, vertexAreas, without, type Motion } from './alignment';
import { deviation, principal } from '../results/shape';

const surface = refine(box(0.08, 0.05, 0.02), 0.01);
const areas = vertexAreas(surface.positions, surface.triangles);
const motion: Motion = { centre: [0.01, 0, 0], shift: [1e-3, -2e-3, 5e-4], turn: [2e-3, -1e-3, 3e-3], growth: 0 };
const displaced = (of: (p: Vec3) => Vec3) => {
  const out = new Float64Array(surface.positions.length);
  for (let v = 0; v < out.length; v += 3)
    out.set(of([surface.positions[v], surface.positions[v + 1], surface.positions[v + 2]]), v);
  return out;
};
const largest = (list: ArrayLike<number>) => Array.from(list).reduce((m, x) => Math.max(m, Math.abs(x)), 0);

describe('laying a shape onto its drawing', () => {
  it('areas of the vertices sum to the surface', () => {
    const whole = 2 * (0.08 * 0.05 + 0.08 * 0.02 + 0.05 * 0.02);
    expect(areas.reduce((s, a) => s + a, 0)).toBeCloseTo(whole, 12);
  });

  it('a rigid motion leaves no deviation, nor does even shrinkage of a tool cut larger', () => {
    const rigid = displaced((p) => moved(motion, p));
    expect(largest(without(surface.positions, rigid, bestFit(surface.positions, rigid, areas)))).toBeLessThan(1e-9);
    const shrunk = displaced((p) => moved({ ...motion, growth: -0.012 }, p));
    expect(largest(deviation(surface, shrunk, 0.012))).toBeLessThan(1e-9);
    expect(largest(deviation(surface, shrunk, 0))).toBeGreaterThan(1e-4);
    expect(bestFit(surface.positions, shrunk, areas, true).growth).toBeCloseTo(-0.012, 9);
    expect(evenGrowth(surface.positions, areas, 0.01).centre[2]).toBeCloseTo(0, 9);
  });

  it('a bow is what best fit leaves of it: its root mean square does not depend on how the part lies', () => {
    const bow = (p: Vec3): Vec3 => [0, 0, 2 * p[0] * p[0]];
    const rms = (u: Float64Array) => {
      const rest = deviation(surface, u, 0);
      return Math.sqrt(areas.reduce((s, a, v) => s + a * rest[3 * v + 2] ** 2, 0));
    };
    const plain = rms(displaced(bow));
    const shifted = rms(displaced((p) => moved(motion, p).map((x, d) => x + bow(p)[d]) as Vec3));
    expect(shifted / plain).toBeCloseTo(1, 4);
  });

  it('three points lie on the drawing, as far as three points can', () => {
    const points: [Vec3, Vec3, Vec3] = [
      [0, -0.025, 0.01],
      [0.08, -0.025, 0.01],
      [0, 0.025, 0.01],
    ];
    const twisted = (p: Vec3): Vec3 => moved(motion, p).map((x, d) => x + (d === 2 ? 3 * p[0] * p[1] : 0)) as Vec3;
    const found = threePointMotion(points, twisted) as Motion;
    const off = (p: Vec3) => twisted(p).map((x, d) => x - moved(found, p)[d]);
    expect(largest(off(points[0]))).toBeLessThan(1e-12);
    // The second may move along the line to the first, the third in the plane.
    expect(largest(off(points[1]).slice(1))).toBeLessThan(1e-12);
    expect(Math.abs(off(points[2])[2])).toBeLessThan(1e-12);
    expect(threePointMotion([points[0], points[1], points[1]], twisted)).toBeNull();
  });

  it('the largest principal stress of a turned tension is the tension', () => {
    const [c, s] = [Math.cos(0.3), Math.sin(0.3)];
    const tension = Float32Array.from([5e6 * c * c, 5e6 * s * s, 0, 5e6 * c * s, 0, 0]);
    expect(principal(tension, 'largest')[0] / 5e6).toBeCloseTo(1, 6);
    expect(principal(tension, 'least')[0] / 5e6).toBeLessThan(1e-3);
  });
});
