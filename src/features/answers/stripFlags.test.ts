import { describe, expect, it } from 'vitest';
import type { Manifest } from '@/runtime/manifest';
import { close, flagsOf, toTheLeft } from './stripFlags';
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
    expect(flags(m).map((f) => f.label)).toEqual(['pressure limit', 'switchover', 'full', 'gate frozen', 'ejectable']);
    expect(flags(m).map((f) => f.time)).toEqual([0.7, 0.9, 1, 5, 12]);
  });

  it('leave out what did not come to pass', () => {
    const pack = { ...PACK, lastGateFrozenAt_s: null, ejectableTime_s: null };
    expect(flags(manifest({ pack, switchoverTime_s: null })).map((f) => f.label)).toEqual(['full']);
  });

  it('say where it stopped when the cavity did not fill', () => {
    const [stopped] = flags(manifest({ switchoverTime_s: null }, 'stalled'));
    expect(stopped).toEqual({ label: 'stopped', time: 17 });
  });

  it('have names that stay in the strip, above one another where they come close', () => {
    const m = manifest({ pack: PACK });
    const scale = new StripScale(m);
    const [switchover, full, , ejectable] = flags(m);
    expect(close(full, switchover, scale)).toBe(true);
    expect(close(ejectable, full, scale)).toBe(false);
    expect(toTheLeft({ time: 16.9, label: 'late' }, scale)).toBe(true);
    expect(toTheLeft({ time: 0.1, label: 'early' }, scale)).toBe(false);
  });
});
