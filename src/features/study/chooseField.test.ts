import { beforeEach, describe, expect, it, vi } from 'vitest';
import { FIELD_TABLE } from '@/core/fields/table';
import { instantOf } from '@/core/results/instants';
import type { RunView } from '@/runtime/wire';
import { bestInstant, chooseField } from './chooseField';
import { fieldsFound } from './fields';
import { createView } from './view';

const kept = new Map<string, string>();
vi.stubGlobal('localStorage', {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
});

const summary = {
  switchoverTime_s: 0.9,
  fillTime_s: 1,
  pack: { packingEnd_s: 6, openTime_s: 14, lastGateFrozenAt_s: 5 },
} as unknown as RunView['summary'];

describe('the instant at which a field says most', () => {
  it('is one that the shot comes to, for every field over time', () => {
    for (const [id, { overTime, saysMost }] of Object.entries(FIELD_TABLE))
      expect(bestInstant(id, summary)).toBe(overTime ? instantOf(summary!, saysMost) : Infinity);
    expect(bestInstant('pressure', summary)).toBe(0.9);
    expect(bestInstant('temperature', summary)).toBe(1);
    expect(bestInstant('profile', summary)).toBe(6);
    expect(bestInstant('coreShare', summary)).toBe(14);
  });

  it('is the end where the shot did not come so far', () => {
    const short = { switchoverTime_s: null, fillTime_s: 1 } as unknown as RunView['summary'];
    expect(bestInstant('pressure', short)).toBe(Infinity);
    expect(bestInstant('profile', short)).toBe(Infinity);
    expect(bestInstant('pressure', null)).toBe(Infinity);
  });
});

describe('the choice of a field', () => {
  beforeEach(() => kept.clear());

  it('takes the play head along, unless it was put somewhere by hand', () => {
    const view = createView();
    const at = () => [view.getState().field, view.getState().time];
    chooseField(view, 'pressure', { summary });
    expect(at()).toEqual(['pressure', 0.9]);
    chooseField(view, 'fillTime', { summary });
    expect(at()).toEqual(['fillTime', Infinity]);
    chooseField(view, 'temperature', { summary });
    expect(at()).toEqual(['temperature', 1]);
    view.getState().set({ time: 3 });
    chooseField(view, 'pressure', { summary });
    expect(at()).toEqual(['pressure', 3]);
    view.getState().set({ time: Infinity, playing: true });
    chooseField(view, 'temperature', { summary });
    expect(at()).toEqual(['temperature', Infinity]);
  });

  it('lets go of the brush, which was one of other values', () => {
    const view = createView();
    view.getState().set({ brush: [1, 2] });
    chooseField(view, 'pressure', null);
    expect(view.getState().brush).toBeNull();
  });

  it('is remembered, the newest first, a few of them', () => {
    const view = createView();
    for (const id of ['pressure', 'frozen', 'fillTime', 'pressure', 'temperature', 'thickness', 'frontSpeed'])
      chooseField(view, id, null);
    expect(JSON.parse(kept.get('bellows.recent-fields')!)).toEqual([
      'frontSpeed',
      'thickness',
      'temperature',
      'pressure',
      'fillTime',
    ]);
  });
});

describe('a search for fields', () => {
  const ids = ['fillTime', 'pressure', 'temperature', 'frontTemperature', 'frozen', 'peakStress'];

  it('finds by words of the name, those that begin so first, then by what they mean', () => {
    expect(fieldsFound('temp', ids, [])).toEqual(['frontTemperature', 'temperature']);
    expect(fieldsFound('front temp', ids, [])).toEqual(['frontTemperature']);
    expect(fieldsFound('ATMOSPHERE', ids, [])).toEqual(['pressure']);
    expect(fieldsFound('pressure', ids, [])[0]).toBe('pressure');
    expect(fieldsFound('nothing of the kind', ids, [])).toEqual([]);
  });
});
