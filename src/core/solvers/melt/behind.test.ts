import { describe, expect, it } from 'vitest';
import { resinById } from '../../material/library';
import { meltThermal } from '../../material/properties';
import { healingOf } from '../../setup/healing';
import { Behind, type BehindMaterial } from './behind';
import { behindSpec, type Slab, type Stack } from './stacks';
import { tableValue, temperatureFor, thermalTables } from './thermalTables';

const steel: BehindMaterial = { conductivity: 48, density: 7850, specificHeat: 480 };
const pa = resinById('pa6-lowan-n30')!;
const thermal = meltThermal(pa);
const plastic: BehindMaterial = {
  ...thermal,
  tables: thermalTables(pa.specificHeat, pa.conductivity, thermal),
  softens: pa.transitionTemperature,
  healing: healingOf(pa),
};
const slab = (change: Partial<Slab> = {}): Slab => ({
  material: steel,
  thickness: 0.002,
  joint: 3500,
  temperature: () => 330,
  plastic: false,
  ...change,
});
const stack = (slabs: Slab[], change: Partial<Stack> = {}): Stack => ({
  slabs,
  far: { temperature: 330, transfer: 3500 },
  area: 1e-4,
  ...change,
});

/** Steps against a face of that temperature [K] through a film, W/(m2 K). */
function heatUp(behind: Behind, stacks: number[], face: number, film: number, dt: number, steps: number, stress = 0) {
  const side = { temperature: 0, transfer: 0 };
  for (let k = 0; k < steps; k++) {
    for (const s of stacks) {
      behind.meet(s, dt, side);
      const flux = (face - side.temperature) / (1 / film + 1 / side.transfer);
      behind.take(s, dt, flux, 1);
      behind.look(s, dt, flux, stress);
    }
    behind.exchange(dt);
  }
}

describe('bodies behind a wall', () => {
  it.each([
    ['steel', [slab()]],
    ['plastic that melts again', [slab({ material: plastic, plastic: true, temperature: () => 320, joint: Infinity })]],
    ['plastic on steel', [slab({ material: plastic, plastic: true, joint: Infinity }), slab()]],
  ])('%s: what comes in is there or has gone on, however long the steps are', (_, slabs) => {
    for (const [dt, steps] of [
      [0.01, 300],
      [0.5, 40],
      [20, 3],
    ]) {
      const behind = new Behind(behindSpec([stack(slabs)]));
      heatUp(behind, [0], 540, 4000, dt, steps);
      const { taken, passedOn } = behind.memory;
      expect(taken[0]).toBeGreaterThan(1e4);
      expect(Math.abs(taken[0] - passedOn[0] - behind.gained(0))).toBeLessThan(1e-6 * taken[0]);
    }
  });

  it('comes to the flux of resistances in series', () => {
    const slabs = [slab({ joint: 2000, thickness: 0.004 }), slab({ joint: 5000, thickness: 0.001 })];
    const behind = new Behind(behindSpec([stack(slabs, { far: { temperature: 300, transfer: 1000 } })]));
    heatUp(behind, [0], 500, 4000, 5, 400);
    const side = { temperature: 0, transfer: 0 };
    behind.meet(0, 1e9, side);
    const resistance = 1 / 2000 + 0.004 / 48 + 1 / 5000 + 0.001 / 48 + 1 / 1000;
    expect(side.transfer).toBeCloseTo(1 / resistance, 3);
    expect(side.temperature).toBeCloseTo(300, 4);
  });

  it('a face of steel takes the contact temperature of two half spaces', () => {
    const melt = { conductivity: 0.2, density: 950, specificHeat: 2400 };
    const effusivity = (m: { conductivity: number; density: number; specificHeat: number }) =>
      Math.sqrt(m.conductivity * m.density * m.specificHeat);
    const [a, b] = [effusivity(melt), effusivity(steel)];
    const expected = (a * 500 + b * 330) / (a + b);
    // Of the melt's half space what a film of that resistance gives at a time: sqrt(pi t) / effusivity.
    const behind = new Behind(behindSpec([stack([slab({ thickness: 0.05, joint: Infinity })])]));
    const side = { temperature: 0, transfer: 0 };
    const flux = (t: number) => (a * (500 - expected)) / Math.sqrt(Math.PI * t);
    let last = 0;
    const dt = 2e-3;
    for (let t = dt; t < 1; t += dt) {
      behind.meet(0, dt, side);
      last = (2 / dt) * (Math.sqrt(t) - Math.sqrt(t - dt)) * flux(1);
      behind.take(0, dt, last, 1);
    }
    expect(behind.faceTemperature(0, last) - 330).toBeGreaterThan(0.97 * (expected - 330));
    expect(behind.faceTemperature(0, last) - 330).toBeLessThan(1.03 * (expected - 330));
  });

  it('between two walls gives the colder one what the warmer one has, and loses nothing', () => {
    const half = (partner: number, T: number, area: number) =>
      stack([slab({ temperature: () => T })], { far: { temperature: 330, transfer: 0 }, partner, area });
    const behind = new Behind(behindSpec([half(1, 420, 1e-4), half(0, 340, 3e-4)]));
    const heat = () => 1e-4 * behind.gained(0) + 3e-4 * behind.gained(1);
    for (let k = 0; k < 200; k++) behind.exchange(0.1);
    expect(Math.abs(heat())).toBeLessThan(1e-9);
    const { temperature } = behind.memory;
    const common = (420 + 3 * 340) / 4;
    for (const T of temperature) expect(Math.abs(T - common)).toBeLessThan(0.1);
    // Alike on both sides nothing goes across.
    const even = new Behind(behindSpec([half(1, 400, 1e-4), half(0, 400, 1e-4)]));
    heatUp(even, [0, 1], 500, 4000, 0.05, 40);
    expect(Math.abs(even.memory.temperature[0] - even.memory.temperature[12])).toBeLessThan(1e-9);
    expect(even.memory.passedOn[0]).toBeCloseTo(0, 9);
  });

  it('says how deep and how long plastic was soft, that its chains crossed, and how far it was dragged', () => {
    const soft = slab({ material: plastic, plastic: true, joint: Infinity, temperature: () => 420 });
    const hot = new Behind(behindSpec([stack([soft])]));
    heatUp(hot, [0], 540, 3000, 0.02, 100, 5e4);
    const { peak, softDepth, softFor, healing, dragged } = hot.memory;
    expect(peak[0]).toBeGreaterThan(pa.transitionTemperature);
    expect(softDepth[0]).toBeGreaterThan(2e-5);
    expect(softDepth[0]).toBeLessThan(1e-3);
    expect(softFor[0]).toBeGreaterThan(0.2);
    expect(softFor[0]).toBeLessThanOrEqual(2 + 1e-9);
    expect(healing[0]).toBeGreaterThan(1);
    expect(dragged[0]).toBeGreaterThan(0);
    // Twice the stress drags it twice as far.
    const harder = new Behind(behindSpec([stack([soft])]));
    heatUp(harder, [0], 540, 3000, 0.02, 100, 1e5);
    expect(harder.memory.dragged[0] / dragged[0]).toBeCloseTo(2, 6);
    const cold = new Behind(behindSpec([stack([soft])]));
    heatUp(cold, [0], 440, 3000, 0.02, 100, 5e4);
    expect([cold.memory.softDepth[0], cold.memory.softFor[0], cold.memory.healing[0]]).toEqual([0, 0, 0]);
  });

  it('is put back as it was, and goes on from a copy with the same numbers', () => {
    const spec = behindSpec([stack([slab({ material: plastic, plastic: true }), slab()])]);
    const behind = new Behind(spec);
    heatUp(behind, [0], 520, 3000, 0.1, 20);
    const putBack = behind.mark();
    const before = behind.memory.temperature.slice();
    heatUp(behind, [0], 300, 3000, 0.1, 20);
    putBack();
    expect(behind.memory.temperature).toEqual(before);
    const again = new Behind(spec, behind.memory);
    for (const b of [behind, again]) heatUp(b, [0], 500, 2000, 0.3, 10);
    again.memory.temperature.forEach((T, j) => expect(Math.abs(T - behind.memory.temperature[j])).toBeLessThan(1e-6));
  });
});

describe('temperature of a heat content', () => {
  const { heat } = thermalTables(pa.specificHeat, pa.conductivity, thermal);

  it.each([200, 331.4, 493, 556.7])('%f K is found again, from far guesses too', (T) => {
    for (const guess of [150, T, 899, NaN])
      expect(temperatureFor(heat, tableValue(heat, T), guess, 1e-9)).toBeCloseTo(T, 6);
  });

  it('is none beyond the tables', () => {
    expect(temperatureFor(heat, heat[0] - 1, 300, 1e-6)).toBeNaN();
    expect(temperatureFor(heat, 2 * heat.at(-1)!, 300, 1e-6)).toBeNaN();
  });
});
