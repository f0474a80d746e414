import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  ATMOSPHERE,
  compressibility,
  linearShrinkage,
  pressureAt,
  specificVolume,
  transitionAt,
  volumeExpansion,
  volumetricShrinkage,
  type Tait,
} from '../src/core/material/pvt';

interface Reference {
  materials: Record<
    string,
    {
      parameters: Tait;
      points: [T: number, p: number, v: number, kappa: number, beta: number, transition: number][];
      /** Melt less solid at the transition, m3/kg. */
      jumps: [p: number, difference: number][];
      cavity: number;
      mass: [T: number, p: number, mass: number][];
      shrinkage: [T: number, p: number, volumetric: number, linear: number][];
      sealed: [T: number, p: number];
      pressures: [T: number, p: number][];
      releasedAt: number;
      shrinkageAfter: number;
    }
  >;
}
const reference = JSON.parse(readFileSync(new URL('./reference/pvt.json', import.meta.url), 'utf8')) as Reference;

describe.each(Object.entries(reference.materials))('Tait, %s', (_name, material) => {
  const { parameters: m } = material;

  it.each(material.points)('specific volume and its slopes at %f K, %f Pa', (T, p, v, kappa, beta, transition) => {
    expect(specificVolume(m, T, p) / v).toBeCloseTo(1, 9);
    expect(compressibility(m, T, p) / kappa).toBeCloseTo(1, 6);
    expect(volumeExpansion(m, T, p) / beta).toBeCloseTo(1, 6);
    expect(transitionAt(m, p)).toBeCloseTo(transition, 8);
  });

  it.each(material.jumps)('the branches part at the transition under %f Pa', (p, difference) => {
    const T = transitionAt(m, p);
    const found = specificVolume(m, T, p) - specificVolume(m, T - 1e-9, p);
    expect(Math.abs(found - difference)).toBeLessThan(Math.max(1e-9, 1e-3 * Math.abs(difference)));
  });

  it.each(material.mass)('mass in a closed cavity at %f K, %f Pa', (T, p, mass) => {
    expect(material.cavity / specificVolume(m, T, p) / mass).toBeCloseTo(1, 9);
  });

  it.each(material.shrinkage)('shrinkage of what froze at %f K, %f Pa', (T, p, volumetric, linear) => {
    expect(volumetricShrinkage(m, T, p)).toBeCloseTo(volumetric, 9);
    expect(linearShrinkage(volumetric)).toBeCloseTo(linear, 9);
  });

  it('pressure of a sealed cavity falls along the pvT line', () => {
    const [T0, p0] = material.sealed;
    const v = specificVolume(m, T0, p0);
    for (const [T, p] of material.pressures) expect(pressureAt(m, T, v) / p).toBeCloseTo(1, 6);
    const above = material.releasedAt;
    expect(pressureAt(m, above + 0.01, v)).toBeGreaterThan(ATMOSPHERE);
    expect(pressureAt(m, above - 0.01, v)).toBeLessThan(ATMOSPHERE);
    expect(volumetricShrinkage(m, T0, p0)).toBeCloseTo(material.shrinkageAfter, 9);
  });
});
