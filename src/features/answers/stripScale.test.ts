import { describe, expect, it } from 'vitest';
import type { Manifest } from '@/runtime/manifest';
import { StripScale } from './stripScale';

const manifest = (pack: { packingEnd_s: number; openTime_s: number } | null) =>
  ({
    history: { time: [0, 0.5, 1, 6, 14, 17] },
    summary: { fillTime_s: 1, ...(pack ? { pack } : {}) },
  }) as unknown as Manifest;

describe('time axis of the shot strip', () => {
  it('gives every phase room and goes back and forth', () => {
    const scale = new StripScale(manifest({ packingEnd_s: 6, openTime_s: 14 }));
    expect(scale.phases.map((p) => p.label)).toEqual(['filling', 'packing', 'cooling', 'open']);
    expect(scale.placeOf(1)).toBeCloseTo(0.4, 12);
    for (const t of [0, 0.3, 1, 2.5, 6, 9, 14, 16, 17]) expect(scale.timeAt(scale.placeOf(t))).toBeCloseTo(t, 9);
    expect(scale.placeOf(99)).toBe(1);
  });

  it('is even where only the filling was calculated', () => {
    const scale = new StripScale(manifest(null));
    expect(scale.placeOf(8.5)).toBeCloseTo(0.5, 12);
  });

  it('leaves out a phase that takes no time: a mould that opens when packing ends', () => {
    const scale = new StripScale(manifest({ packingEnd_s: 6, openTime_s: 6 }));
    expect(scale.phases.map((p) => p.label)).toEqual(['filling', 'packing', 'open']);
    expect(scale.phases[2].right).toBeCloseTo(1, 12);
  });

  it('marks the ends of the phases and round times between them', () => {
    const ticks = new StripScale(manifest({ packingEnd_s: 6, openTime_s: 14 })).ticks();
    for (const t of [0, 1, 6, 14, 17]) expect(ticks).toContain(t);
    expect(ticks).toContain(4);
    expect([...ticks]).toEqual([...ticks].sort((a, b) => a - b));
  });
});
