import { describe, expect, it } from 'vitest';
import { compareRuns, sortedRows, comparedCsv, comparedText, differenceText, type Compared } from './compare';
import { GRID_KEY_IDS, KEY_IDS, KEY_NUMBERS } from './keyNumbers';
import type { Summary } from './summary';

const summary = (patch: Partial<Summary>): Summary =>
  ({
    pressureNeeded_Pa: 4e7,
    fillTime_s: 1,
    clampForce_N: 2e5,
    shareFilled: 1,
    weakestWeldLine: null,
    ...patch,
  }) as Summary;
const run = (name: string, patch: Partial<Summary> = {}, errors: Compared['errors'] = {}): Compared => ({
  name,
  summary: summary(patch),
  answers: [],
  errors,
});
const cell = (rows: ReturnType<typeof compareRuns>, id: string, k: number) => rows.find((r) => r.id === id)!.cells[k];

describe('runs side by side', () => {
  it('a run against itself differs in nothing', () => {
    const rows = compareRuns([run('a'), run('b')]);
    for (const { cells } of rows) expect(cells[1].change === 'none' || cells[1].value === null).toBe(true);
    expect(rows.map((r) => r.id)).not.toContain('weakestWeldLine');
  });

  it('a difference is better or worse by the rule of its number, or only another', () => {
    const rows = compareRuns([
      run('a', { weakestWeldLine: 0.6 }),
      run('b', { pressureNeeded_Pa: 3e7, clampForce_N: 3e5, fillTime_s: 2, weakestWeldLine: 0.8 }),
    ]);
    expect(cell(rows, 'pressureNeeded_Pa', 1)).toMatchObject({ difference: -1e7, change: 'better' });
    expect(cell(rows, 'clampForce_N', 1).change).toBe('worse');
    expect(cell(rows, 'weakestWeldLine', 1).change).toBe('better');
    expect(cell(rows, 'fillTime_s', 1).change).toBe('other');
    expect(cell(rows, 'fillTime_s', 0)).toMatchObject({ difference: null, change: null });
  });

  it('inside the error of either grid there is none', () => {
    const b = { pressureNeeded_Pa: 3.9e7 };
    const change = (of: Compared['errors'], to: Compared['errors']) =>
      cell(compareRuns([run('a', {}, of), run('b', b, to)]), 'pressureNeeded_Pa', 1).change;
    expect(change({ pressureNeeded_Pa: 2e6 }, {})).toBe('none');
    expect(change({}, { pressureNeeded_Pa: 2e6 })).toBe('none');
    expect(change({ pressureNeeded_Pa: 5e5 }, {})).toBe('better');
  });

  it('where no error is told half a per cent says nothing, and counts are whole', () => {
    const change = (patch: Partial<Summary>, id: string) =>
      cell(compareRuns([run('a', { nAirTraps: 2 }), run('b', patch)]), id, 1).change;
    expect(change({ pressureNeeded_Pa: 4.01e7 }, 'pressureNeeded_Pa')).toBe('none');
    expect(change({ pressureNeeded_Pa: 4.03e7 }, 'pressureNeeded_Pa')).toBe('worse');
    expect(change({ nAirTraps: 1 }, 'nAirTraps')).toBe('better');
    expect(differenceText(KEY_NUMBERS.nAirTraps, -1)).toBe('−1');
  });

  it('is printed in columns, verdicts first', () => {
    const answers = [{ question: 'Will it fill?', verdict: 'good' }] as unknown as Compared['answers'];
    const runs = [{ ...run('a', {}, { pressureNeeded_Pa: 1e6 }), answers }, run('b', { pressureNeeded_Pa: 5e7 })];
    const lines = comparedText(runs, compareRuns(runs)).split('\n');
    expect(lines[1]).toMatch(/^Will it fill\?\s+Good\s+–$/);
    expect(lines[2]).toMatch(/^Pressure needed\s+40\.0 MPa ± 1\.0\s+50\.0 MPa \(\+10 MPa, worse\)$/);
  });

  it('what one of them has not calculated has no difference, and no number is a value', () => {
    const rows = compareRuns([run('a', { weakestWeldLine: 0.5 }), run('b'), run('c', { weakestWeldLine: NaN })]);
    for (const k of [1, 2])
      expect(cell(rows, 'weakestWeldLine', k)).toMatchObject({ value: null, difference: null, change: null });
  });

  it('is written as a table for other programs', () => {
    const runs = [run('as is', {}, { pressureNeeded_Pa: 1e6 }), run('wider, "G1"', { pressureNeeded_Pa: 3e7 })];
    const text = comparedCsv(runs, compareRuns(runs));
    const [head, first] = text.split('\n');
    expect(head).toBe(
      'number,unit,as is,as is ±,"wider, ""G1""","wider, ""G1"" ±","wider, ""G1"" difference","wider, ""G1"" is"',
    );
    expect(first).toBe('Pressure needed,MPa,40.0000,1.00000,30.0000,,-10.0000,better');
    expect(text).not.toContain('−');
  });

  it('names every number once, and says differences with their sign', () => {
    expect(new Set(KEY_IDS.map((id) => KEY_NUMBERS[id].label)).size).toBe(KEY_IDS.length);
    for (const id of GRID_KEY_IDS) expect(KEY_IDS).toContain(id);
    expect(differenceText(KEY_NUMBERS.pressureNeeded_Pa, 2e6)).toBe('+2.00 MPa');
    expect(differenceText(KEY_NUMBERS.pressureNeeded_Pa, -2e6)).toBe('−2.00 MPa');
  });

  it('is sorted by what a run differs in most, of what it was; no difference comes last', () => {
    const rows = compareRuns([
      run('a', { fillTime_s: 1, nAirTraps: 4 }),
      run('b', { fillTime_s: 1.2, nAirTraps: 1, pressureNeeded_Pa: 4.01e7 }),
    ]);
    const order = sortedRows(rows, 1).map((r) => r.id);
    expect(order.slice(0, 2)).toEqual(['nAirTraps', 'fillTime_s']);
    expect(order.indexOf('pressureNeeded_Pa')).toBeGreaterThan(1);
    expect(order).toHaveLength(rows.length);
  });
});
