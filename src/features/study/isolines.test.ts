import { afterEach, describe, expect, it } from 'vitest';
import { METRIC, readIn } from '@/core/units/reader';
import { isolinesOver, isolinesText, niceStep } from './isolines';

afterEach(() => readIn(METRIC));

describe('steps that are read at a glance', () => {
  it.each([
    [0.034, 0.05],
    [0.05, 0.05],
    [0.0501, 0.1],
    [1.2, 2],
    [7, 10],
    [10, 10],
    [130, 200],
  ])('%f asks for %f', (x, step) => expect(niceStep(x)).toBeCloseTo(step, 12));

  it('there is none for nothing', () => {
    expect([0, -1, NaN].map(niceStep)).toEqual([0, 0, 0]);
    expect(isolinesOver([3, 3], 'MPa')).toBeNull();
    expect(isolinesText([3, 3], 'MPa')).toBe('');
  });
});

describe('isolines', () => {
  it('stand at round values, five to fourteen of them over the scale', () => {
    expect(isolinesText([0, 14e6], 'MPa')).toBe('lines every 1.0 MPa');
    for (const high of [0.3, 0.9, 2.7, 11, 140]) {
      const { step, from } = isolinesOver([0, high * 1e6], 'MPa')!;
      expect((high * 1e6) / step).toBeLessThanOrEqual(14.0001);
      expect((high * 1e6) / step).toBeGreaterThan(5);
      expect(from).toBe(0);
    }
  });

  it('of a temperature stand at round degrees, and their step is a difference', () => {
    const range = [313.15, 503.15] as const;
    expect(isolinesText(range, '°C')).toBe('lines every 20 K');
    expect(isolinesOver(range, '°C')).toEqual({ step: 20, from: 273.15 });
  });

  it('follow the units of the reader', () => {
    readIn({ length: 'in', pressure: 'psi', temperature: '°F', mass: 'oz' });
    expect(isolinesText([0, 14e6], 'MPa')).toBe('lines every 200 psi');
    const { step, from } = isolinesOver([313.15, 503.15], '°C')!;
    // 50 degrees of that scale, one of them at its zero.
    expect(step).toBeCloseTo((50 * 5) / 9, 9);
    expect(from).toBeCloseTo(255.372, 3);
    expect(isolinesText([313.15, 503.15], '°C')).toBe('lines every 50 F°');
  });
});
