import { describe, expect, it } from 'vitest';
import { RunProgress, type RunPlan } from './progress';
import type { StageName } from '../stage/context';

const WHOLE: RunPlan = { cools: true, packs: true, shape: true, gridError: true };
const stages: StageName[] = ['grid', 'cool', 'fill', 'pack', 'warp', 'grid-error'];

describe('way of a run', () => {
  it('grows from nothing to all, through every stage', () => {
    const progress = new RunProgress(WHOLE);
    const shares = stages.flatMap((stage) => [0, 0.3, 1].map((f) => progress.share(stage, f)));
    expect(shares[0]).toBe(0);
    expect(shares.at(-1)).toBeCloseTo(1, 12);
    for (let k = 1; k < shares.length; k++) expect(shares[k]).toBeGreaterThanOrEqual(shares[k - 1]);
    expect(new Set(shares).size).toBeGreaterThan(stages.length * 2);
  });

  it('never goes back: the mould is settled once more after packing, and the shot made again', () => {
    const progress = new RunProgress(WHOLE);
    const packed = progress.share('pack', 1);
    expect(progress.share('cool', 0.1)).toBe(packed);
    expect(progress.share('fill', 0.5)).toBe(packed);
    expect(progress.share('warp', 0.5)).toBeGreaterThan(packed);
  });

  it('is all of it where the run ends: with the filling, without a mould, at Detail quick', () => {
    const fill = new RunProgress({ cools: false, packs: false, shape: false, gridError: false });
    expect(fill.share('fill', 1)).toBeCloseTo(1, 12);
    const quick = new RunProgress({ ...WHOLE, gridError: false });
    expect(quick.share('warp', 1)).toBeCloseTo(1, 12);
    expect(quick.share('grid-error', 1)).toBeCloseTo(1, 12);
  });
});
