import { describe, expect, it } from 'vitest';
import { RESINS } from '../material/library';
import { emptyInputs, type Inputs } from '../model/study';
import type { Packing } from '../model/packing';
import { resolveSettings } from './settings';

const PART = { volume: 2e-5, wall: 0.002 };
const settingsOf = (family: string, packing: Packing) => {
  const resin = RESINS.find((r) => r.family === family && !r.filler);
  if (!resin) throw new Error(family);
  const base = emptyInputs('part');
  const inputs: Inputs = { ...base, resin: resin.id, cycle: { ...base.cycle, packing } };
  return resolveSettings(inputs, PART);
};

describe('packing, when nothing is set', () => {
  const unset: Packing = { by: 'constant', pressure: null, time: null };

  it.each([
    ['POM', 6e7],
    ['PP', 3.5e7],
    ['PC', 4.5e7],
  ])('aims at what %s usually has in the cavity, and waits for the gates', (family, pressure) => {
    const { packing } = settingsOf(family, unset);
    expect(packing.as).toBe('cavity');
    expect(packing.untilFrozen).toBe(true);
    expect(packing.points[0].value).toBe(pressure);
  });

  it('falls early in amorphous plastics, and in crystalline ones where a gate stays open for long', () => {
    const falls = (family: string) => {
      const { packing } = settingsOf(family, unset);
      const [, from, to] = packing.points;
      expect(to.value).toBeLessThan(from.value);
      return from.at / packing.end;
    };
    expect(falls('PC')).toBeCloseTo(0.5, 9);
    expect(falls('POM')).toBeCloseTo(1, 9);
  });

  it('keeps what is set: a pressure is held, a time is kept', () => {
    const pressed = settingsOf('PC', { by: 'constant', pressure: 5e7, time: null }).packing;
    expect(pressed.as).toBe('pressure');
    expect(new Set(pressed.points.map((p) => p.value))).toEqual(new Set([5e7]));
    expect(pressed.untilFrozen).toBe(true);
    const timed = settingsOf('PC', { by: 'constant', pressure: null, time: 4 }).packing;
    expect([timed.end, timed.untilFrozen]).toEqual([4, false]);
  });
});
