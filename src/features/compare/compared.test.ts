import { describe, expect, it } from 'vitest';
import { MOST_COMPARED } from '@/core/results/compare';
import { shotOf, shotsOf, timeOf, toggle, type Choice, type ComparedRun } from './compared';

const of = (...ids: string[]): Choice[] => ids.map((variantId) => ({ variantId, runId: null }));

describe('what is compared', () => {
  it('is taken in behind the others, and out again', () => {
    expect(toggle(of('a'), 'b')).toEqual(of('a', 'b'));
    expect(toggle(of('a', 'b', 'c'), 'b')).toEqual(of('a', 'c'));
    expect(toggle([], 'a')).toEqual(of('a'));
  });

  it('keeps the runs that were picked, and is never more than fits', () => {
    const picked: Choice[] = [{ variantId: 'a', runId: 'r1' }];
    expect(toggle(picked, 'b')[0]).toEqual(picked[0]);
    const full = of('a', 'b', 'c', 'd');
    expect(full).toHaveLength(MOST_COMPARED);
    expect(toggle(full, 'e')).toEqual(full);
  });

  it('a shot of several is taken with its own numbers, without errors that were those of the first', () => {
    const later = [{ summary: { fillTime_s: 2 }, answers: [] }];
    const run = {
      summary: { fillTime_s: 1 },
      errors: { fillTime_s: 0.1 },
      manifest: { later },
    } as unknown as ComparedRun;
    expect([shotsOf(run), shotOf(run, 1)]).toEqual([2, run]);
    expect(shotOf(run, 2)).toMatchObject({ summary: { fillTime_s: 2 }, errors: {} });
    expect(shotOf(run, 3)).toBeNull();
  });

  it('an earlier run is named by when it was asked for', () => {
    expect(timeOf({ createdAt: '2026-05-04T10:20:30.000Z' })).toMatch(/^4 May, \d\d:20$/);
  });
});
