import { describe, expect, it } from 'vitest';
import { fromSi } from '../units/units';
import { makeField } from './field';
import { FIELD_TABLE, fieldEntry, fieldsIn, gateShareId, type KnownField } from './table';

const ids = Object.keys(FIELD_TABLE) as KnownField[];

describe('the table of fields', () => {
  it.each(ids)('%s says what it is, in one sentence and in a unit that fits', (id) => {
    const { means, si, unit, label, quantity } = FIELD_TABLE[id];
    expect(means).toMatch(/^[A-Z0-9x].*\.$/);
    expect(label && quantity).toBeTruthy();
    // One unit of the values is a number in the one that is shown: pascals in MPa, never in mm.
    expect(Number.isFinite(fromSi(1, unit))).toBe(true);
    expect(
      { 'J/m²': ['kJ/m²'], s: ['s'], Pa: ['MPa', 'GPa'], K: ['°C', 'K'], m: ['mm', 'µm'], '': ['%'] }[si] ?? [unit],
    ).toContain(unit);
  });

  it('has every field in one list, and no two of one name in a list', () => {
    const groups = (['filling', 'packing', 'behind', 'shape', 'mould', 'drawn', 'core', 'fibres'] as const).map(
      fieldsIn,
    );
    expect(groups.flat().sort()).toEqual([...ids].sort());
    for (const list of groups) expect(new Set(list.map((id) => FIELD_TABLE[id].label)).size).toBe(list.length);
  });

  it('knows the share of every gate by its name', () => {
    expect(fieldEntry(gateShareId(1), [{ id: 'Left' }, { id: 'Right' }])?.label).toBe('Share from Right');
    expect(fieldEntry(gateShareId(4))?.label).toBe('Share from gate 5');
    expect(fieldEntry('nothing')).toBeNull();
  });
});

describe('a published field', () => {
  const entry = FIELD_TABLE.pressure;

  it('has the range of all its frames, without what is none', () => {
    const field = makeField(
      'pressure',
      entry,
      'g',
      [
        [1, NaN],
        [NaN, -4],
      ],
      [0, 1],
    );
    expect([field.range, field.frames, field.unit, field.quantity]).toEqual([[-4, 1], 2, 'Pa', 'Pressure']);
    expect([...field.data]).toEqual([1, NaN, NaN, -4]);
    expect(makeField('pressure', entry, 'g', [[NaN]]).range).toEqual([0, 0]);
  });

  it('is refused without frames, or without a time for each', () => {
    expect(() => makeField('pressure', entry, 'g', [])).toThrow('no frames');
    expect(() => makeField('pressure', entry, 'g', [[1], [2]], [0])).toThrow('one time per frame');
  });
});
