import { describe, expect, it } from 'vitest';
import { nodeFrames } from '@/viewer/frames';
import { isOverTime, rangeAt } from './scaleRange';
import type { ShownField } from './shownField';

/** Two frames of three nodes; the last one fills at 3 s. */
const field = (patch: Partial<ShownField> = {}): ShownField => ({
  id: 'pressure',
  nodes: nodeFrames(Float32Array.of(1, 2, NaN, 5, 9, 40), 3, [0, 4]),
  nodeTimes: Float32Array.of(0, 0, 3),
  range: [0, 100],
  end: 4,
  live: false,
  profile: null,
  ...patch,
});
const volumes = [1, 1, 1];

describe('the scale of an instant', () => {
  it('spans what is there then', () => {
    expect(rangeAt(field(), volumes, 0)).toEqual([1, 2]);
    expect(rangeAt(field(), volumes, 2)).toEqual([3, 5.5]);
    expect(rangeAt(field(), volumes, Infinity)).toEqual([5, 40]);
  });

  it('leaves out single cells at either end', () => {
    const n = 1000;
    const values = Float32Array.from({ length: n }, (_, i) => (i ? i / n : -50));
    const many = field({ nodes: nodeFrames(values, n, [0]), nodeTimes: new Float32Array(n) });
    const [low, high] = rangeAt(many, new Float32Array(n).fill(1), 1);
    expect(low).toBeGreaterThanOrEqual(0);
    expect(high).toBeLessThan(1);
  });

  it('of what lies through the wall spans all of it', () => {
    const profile = nodeFrames(Float32Array.of(1, 7, 2, 8, 300, 400), 3, [0], 2);
    expect(rangeAt(field({ profile }), volumes, 1)).toEqual([1, 8]);
  });

  it('is that of the shot where nothing is there, or all is alike', () => {
    expect(rangeAt(field({ nodeTimes: Float32Array.of(9, 9, 9) }), volumes, 1)).toEqual([0, 100]);
    const alike = nodeFrames(Float32Array.of(2, 2, 2), 3, []);
    expect(rangeAt(field({ nodes: alike }), volumes, 1)).toEqual([0, 100]);
  });

  it('is offered where there is more than one', () => {
    expect(isOverTime(field())).toBe(true);
    expect(isOverTime(field({ live: true }))).toBe(false);
    expect(isOverTime(field({ nodes: nodeFrames(Float32Array.of(1, 2, 3), 3, []) }))).toBe(false);
  });
});
