import { afterEach, describe, expect, it } from 'vitest';
import { RESINS } from '@/core/material/library';
import { METRIC, readIn } from '@/core/units/reader';
import { cellOf, headOf, RESIN_COLUMNS, resinsCsv } from './resinColumns';
import { inOrder } from '../ui/inOrder';

const column = (id: string) => RESIN_COLUMNS.find((c) => c.id === id)!;
afterEach(() => readIn(METRIC));

describe('the table of resins', () => {
  it('has a value for every resin of the library, in every column but strength', () => {
    for (const resin of RESINS)
      for (const c of RESIN_COLUMNS) {
        const value = c.value(resin);
        if (typeof value === 'number' && c.id !== 'strength')
          expect(Number.isFinite(value), `${resin.name} ${c.id}`).toBe(true);
        expect(cellOf(c, resin)).not.toBe('');
      }
  });

  it('is told in the units of the reader', () => {
    const [resin] = RESINS;
    expect(headOf(column('melt'))).toBe('Melt, °C');
    const celsius = Number(cellOf(column('melt'), resin));
    readIn({ ...METRIC, temperature: '°F' });
    expect(headOf(column('melt'))).toBe('Melt, °F');
    expect(Number(cellOf(column('melt'), resin))).toBeCloseTo(celsius * 1.8 + 32, 0);
  });

  it('is ordered by words, by size, and what is missing comes last either way', () => {
    expect(['b', 'A', 'c'].sort(inOrder)).toEqual(['A', 'b', 'c']);
    expect([3, NaN, -1, 2].sort(inOrder)).toEqual([-1, 2, 3, NaN]);
  });

  it('goes out as CSV: a head, a line a resin, fields that hold commas in quotes', () => {
    const [resin] = RESINS;
    const lines = resinsCsv([{ ...resin, supplier: 'Hollin, Sons' }, resin]).split('\n');
    expect(lines).toHaveLength(3);
    expect(lines[1]).toContain('"Hollin, Sons"');
    expect(lines[0].match(/"/g)!.length / 2).toBe(RESIN_COLUMNS.filter((c) => headOf(c).includes(',')).length);
  });
});
