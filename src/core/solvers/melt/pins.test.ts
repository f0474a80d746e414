import { describe, expect, it } from 'vitest';
import { ValvePins, type PinSight, type ValvePin } from './pins';

const sight = (patch: Partial<PinSight>): PinSight => ({
  time: 0,
  shareFilled: 0,
  nozzlePressure: 0,
  full: new Uint8Array(3),
  ...patch,
});
const pin = (patch: Partial<ValvePin>): ValvePin => ({
  gate: 0,
  link: 1,
  moves: [{ by: 'start' }],
  over: 0.2,
  ...patch,
});

describe('valve pins', () => {
  it('a pin that opens at the start has been open before', () => {
    const factor = Float32Array.of(1, 0.5, 1);
    new ValvePins([pin({})], factor).follow(sight({}));
    expect([...factor]).toEqual([1, 0.5, 1]);
  });

  it('stays shut until its time, then opens at an even speed, and closes', () => {
    const factor = Float32Array.of(1, 1, 1);
    const pins = new ValvePins(
      [
        pin({
          moves: [
            { by: 'time', time: 1 },
            { by: 'share', share: 0.8 },
          ],
        }),
      ],
      factor,
    );
    pins.follow(sight({ time: 0.5 }));
    expect(factor[1]).toBe(0);
    // A step ends where a set time lies, and then follows the move.
    expect(pins.stepLimit(0.7)).toBeCloseTo(0.3, 9);
    pins.follow(sight({ time: 1 }));
    expect(pins.stepLimit(1)).toBeCloseTo(0.05, 9);
    pins.follow(sight({ time: 1.1 }));
    expect(factor[1]).toBeCloseTo(0.5, 6);
    pins.follow(sight({ time: 1.5 }));
    expect(factor[1]).toBe(1);
    expect(pins.stepLimit(1.5)).toBe(Infinity);
    pins.follow(sight({ time: 2, shareFilled: 0.81 }));
    pins.follow(sight({ time: 2.1, shareFilled: 0.82 }));
    expect(factor[1]).toBeCloseTo(0.5, 6);
    pins.follow(sight({ time: 2.3, shareFilled: 0.9 }));
    expect(factor[1]).toBe(0);
    expect(pins.movedAt[0]).toEqual([1, 2]);
  });

  it('looks at nozzle pressure and at the front', () => {
    const factor = Float32Array.of(1, 1, 1);
    const pins = new ValvePins(
      [
        pin({ link: 0, moves: [{ by: 'pressure', pressure: 2e7 }] }),
        pin({ link: 2, moves: [{ by: 'front', node: 2 }] }),
      ],
      factor,
    );
    pins.follow(sight({ time: 0.1, nozzlePressure: 1e7 }));
    expect(pins.movedAt).toEqual([[], []]);
    pins.follow(sight({ time: 0.2, nozzlePressure: 2.1e7, full: Uint8Array.of(1, 1, 0) }));
    expect(pins.movedAt).toEqual([[0.2], []]);
    pins.follow(sight({ time: 0.3, nozzlePressure: 1e7, full: Uint8Array.of(1, 1, 1) }));
    expect(pins.movedAt).toEqual([[0.2], [0.3]]);
  });

  it('opens and closes as often as it is told, from where it has come to', () => {
    const factor = Float32Array.of(1, 1, 1);
    const at = (time: number) => ({ by: 'time' as const, time });
    const pins = new ValvePins([pin({ moves: [at(1), at(2), at(2.1), at(3)] })], factor);
    const seen = [0.5, 1, 1.5, 2, 2.1, 2.2, 2.4, 3, 3.3].map((time) => {
      pins.follow(sight({ time }));
      return Number(factor[1].toFixed(3));
    });
    // Half closed at 2.1 it opens again, and is open at 2.2.
    expect(seen).toEqual([0, 0.02, 1, 0.98, 0.52, 1, 1, 0.98, 0]);
    expect(pins.movedAt[0]).toEqual([1, 2, 2.1, 3]);
  });
});
