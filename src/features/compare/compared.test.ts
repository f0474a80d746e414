import { describe, expect, it } from 'vitest';
import type { Manifest } from '@/runtime/manifest';
import { MOST_COMPARED } from '@/core/results/compare';
import { asShotOf, shotsOf, timeOf, toggle, type Choice, type ComparedRun } from './compared';

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

  it('a shot of several is taken with its own numbers, errors and fields', () => {
    const later = [{ summary: { fillTime_s: 2 }, answers: [] }];
    const run = {
      run: { id: 'r1', inputs: { bodies: [], later: [] }, later },
      summary: { fillTime_s: 1 },
      errors: { fillTime_s: 0.1 },
      manifest: { later },
    } as unknown as ComparedRun;
    const manifest = {
      summary: { fillTime_s: 2 },
      answers: [],
      gridError: { against: 'quick', numbers: [{ id: 'fillTime_s', value: 2, error: 0.2, timeError: 0.05 }] },
      history: { time: [0, 3] },
      fields: [{ id: 'pressure' }],
    } as unknown as Manifest;
    expect(shotsOf(run)).toBe(2);
    expect(asShotOf(run, 2, manifest)).toMatchObject({
      run: { id: 'r1#2' },
      summary: { fillTime_s: 2 },
      errors: { fillTime_s: 0.25 },
      fields: new Set(['pressure']),
      broken: false,
    });
  });

  it('an earlier run is named by when it was asked for', () => {
    expect(timeOf({ createdAt: '2026-05-04T10:20:30.000Z' })).toMatch(/^4 May, \d\d:20$/);
  });
});
