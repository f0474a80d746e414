import { describe, expect, it } from 'vitest';
import type { Manifest } from '@/runtime/manifest';
import { flagsOf, placedFlags } from './stripFlags';
import { StripScale } from './stripScale';

const PACK = { packingEnd_s: 6, openTime_s: 14, lastGateFrozenAt_s: 5, ejectableTime_s: 12 };
const manifest = (summary: object, status: Manifest['status'] = 'filled') =>
  ({
    status,
    history: { time: [0, 1, 6, 14, 17] },
    summary: { fillTime_s: 1, switchoverTime_s: 0.9, limitReachedAt_s: null, ...summary },
  }) as unknown as Manifest;
const flags = (m: Manifest) => flagsOf(m, new StripScale(m));

describe('flags of the cycle', () => {
  it('stand in the order of what happened', () => {
    const m = manifest({ pack: PACK, limitReachedAt_s: 0.7 });
    const labels = ['pressure limit', 'switchover', 'full', 'gate frozen', 'packing ends', 'ejectable', 'opens'];
    expect(flags(m).map((f) => f.label)).toEqual(labels);
    expect(flags(m).map((f) => f.time)).toEqual([0.7, 0.9, 1, 5, 6, 12, 14]);
  });

  it('leave out what did not come to pass', () => {
    const pack = { ...PACK, lastGateFrozenAt_s: null, ejectableTime_s: null };
    expect(flags(manifest({ pack, switchoverTime_s: null })).map((f) => f.label)).toEqual([
      'full',
      'packing ends',
      'opens',
    ]);
  });

  it('say where it stopped when the cavity did not fill', () => {
    const [stopped] = flags(manifest({ switchoverTime_s: null }, 'stalled'));
    expect(stopped).toEqual({ label: 'stopped', time: 17 });
  });

  it.each([1000, 640])('have names in one row that stay in a strip of %d px and off each other', (width) => {
    const m = manifest({ pack: PACK, limitReachedAt_s: 0.7 });
    const placed = placedFlags(flags(m), new StripScale(m), width);
    expect(placed).toHaveLength(7);
    placed.forEach((f, k) => {
      expect(f.left).toBeGreaterThanOrEqual(0);
      expect(f.left + f.width).toBeLessThanOrEqual(width + 1e-9);
      if (k) expect(f.left).toBeGreaterThanOrEqual(placed[k - 1].left + placed[k - 1].width - 1e-9);
    });
    // One that has room stands over its line.
    const alone = placedFlags([{ time: 3, label: 'alone' }], new StripScale(m), width)[0];
    expect(alone.left + alone.width / 2).toBeCloseTo(alone.at, 9);
  });
});
