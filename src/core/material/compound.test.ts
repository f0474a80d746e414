import { describe, expect, it } from 'vitest';
import { compound, FILLERS } from './compound';
import { RESINS } from './library';
import { ATMOSPHERE, specificVolume } from './pvt';

const plain = RESINS.find((r) => r.family === 'PA66' && !r.filler)!;
const kinds = Object.keys(FILLERS) as (keyof typeof FILLERS)[];
/** Share of the volume that is filler in the room. */
const phiOf = (share: number, kind: keyof typeof FILLERS) => {
  const v = specificVolume(plain.pvt, 296.15, ATMOSPHERE);
  return share / FILLERS[kind].density / (share / FILLERS[kind].density + (1 - share) * v);
};

describe('a compound', () => {
  it.each(kinds)('without %s is the plastic itself', (kind) => {
    const { filler: _, ...same } = compound(plain, kind, 0);
    const { filler: _f, ...was } = plain;
    expect(same.pvt).toEqual(was.pvt);
    expect(same.specificHeat.map((s) => s.value)).toEqual(was.specificHeat.map((s) => Number(s.value.toPrecision(4))));
    expect(same.elastic.E1).toBeCloseTo(was.elastic.E1, -6);
    expect(same.expansion.along).toBeCloseTo(was.expansion.along, 7);
  });

  it.each(kinds)('of %s has the volumes of both at every temperature and pressure', (kind) => {
    const made = compound(plain, kind, 0.3);
    for (const T of [300, 450, 560])
      for (const p of [ATMOSPHERE, 8e7]) {
        const added = 0.3 / FILLERS[kind].density;
        const [v, v0] = [specificVolume(made.pvt, T, p), 0.7 * specificVolume(plain.pvt, T, p) + added];
        // Pressure squeezes the filler as if it were plastic: up to 5 % of the volume in tenths of that.
        expect(Math.abs(v / v0 - 1)).toBeLessThan(p > 1e6 ? 0.01 : 1e-4);
      }
  });

  it('flows, conducts and bends by published rules', () => {
    const share = 0.3;
    for (const kind of kinds) {
      const phi = phiOf(share, kind);
      const made = compound(plain, kind, share);
      const f = FILLERS[kind];
      if (made.viscosity.kind !== 'cross-wlf' || plain.viscosity.kind !== 'cross-wlf') throw new Error('other law');
      expect(made.viscosity.D1 / plain.viscosity.D1).toBeCloseTo(1 + 2.5 * phi + 14.1 * phi * phi, 1);
      const k = plain.conductivity[0].value;
      // Between all in a row and all side by side (Wiener).
      const row = 1 / (phi / f.conductivity + (1 - phi) / k);
      const side = phi * f.conductivity + (1 - phi) * k;
      expect(made.conductivity[0].value).toBeGreaterThan(row);
      expect(made.conductivity[0].value).toBeLessThan(side);
      // Between Reuss and Voigt, and stiffer along the flow where the filler is long.
      const [reuss, voigt] = [
        1 / (phi / f.modulus + (1 - phi) / plain.elastic.E1),
        phi * f.modulus + (1 - phi) * plain.elastic.E1,
      ];
      for (const E of [made.elastic.E1, made.elastic.E2]) {
        expect(E).toBeGreaterThan(reuss);
        expect(E).toBeLessThan(voigt);
      }
      if (f.aspectRatio > 2) expect(made.elastic.E1).toBeGreaterThan(1.1 * made.elastic.E2);
      else expect(made.elastic.E1).toBe(made.elastic.E2);
      // What carries more holds more.
      expect(made.expansion.along).toBeLessThanOrEqual(made.expansion.across);
      expect(made.expansion.across).toBeLessThan(plain.expansion.along);
    }
  });

  it('takes up heat by weight, and has less to crystallise', () => {
    const made = compound(plain, 'glass fibre', 0.3);
    made.specificHeat.forEach(({ value }, k) =>
      expect(value / (0.7 * plain.specificHeat[k].value + 0.3 * 800)).toBeCloseTo(1, 3),
    );
    expect(made.pvt.b7).toBeCloseTo(0.7 * plain.pvt.b7, 12);
    expect(made.filler).toMatchObject({ kind: 'glass fibre', share: 0.3, aspectRatio: 22 });
  });

  it('grows stiffer with every more of it', () => {
    const stiffness = [0.1, 0.2, 0.3, 0.4, 0.5].map((s) => compound(plain, 'glass fibre', s).elastic.E1);
    stiffness.slice(1).forEach((E, k) => expect(E).toBeGreaterThan(1.15 * stiffness[k]));
  });
});
