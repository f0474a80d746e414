import { describe, expect, it } from 'vitest';
import { mergeInputs, rebased, same } from './mergeInputs';
import { emptyInputs, type Inputs } from './study';

const gate = (id: string, x = 0) => ({ id, position: [x, 0, 0] as [number, number, number], diameter: 0.002 });
const base: Inputs = { ...emptyInputs('a'.repeat(64)), gates: [gate('G1'), gate('G2', 0.01)] };
const cycle = (patch: Partial<Inputs['cycle']>) => ({ cycle: { ...base.cycle, ...patch } });
const merged = (ours: Partial<Inputs>, theirs: Partial<Inputs>) =>
  mergeInputs(base, { ...base, ...ours }, { ...base, ...theirs });

describe('two changes of one study', () => {
  it('that do not touch are both there', () => {
    const { inputs } = merged({ detail: 'fine', ...cycle({ meltTemperature: 500 }) }, cycle({ openTime: 3 }));
    expect(inputs).toEqual({ ...base, detail: 'fine', ...cycle({ meltTemperature: 500, openTime: 3 }) });
  });

  it('of different gates, one added and one taken away', () => {
    const { inputs } = merged({ gates: [gate('G1', 0.003), gate('G2', 0.01), gate('G3')] }, { gates: [gate('G1')] });
    expect(inputs?.gates).toEqual([gate('G1', 0.003), gate('G3')]);
  });

  it('that say the same are one', () => {
    expect(merged({ detail: 'fine' }, { detail: 'fine' }).inputs?.detail).toBe('fine');
    expect(merged({}, {}).inputs).toEqual(base);
  });

  it('of the same value in different ways clash, and are named', () => {
    expect(merged({ detail: 'fine' }, { detail: 'quick' }).clashes).toEqual(['Detail']);
    expect(merged({ gates: [gate('G1', 0.001)] }, { gates: [gate('G1', 0.002), gate('G2', 0.01)] }).clashes).toEqual([
      'Gates',
    ]);
    // Both have made a third gate, each its own.
    const third = (x: number) => ({ gates: [...base.gates, gate('G3', x)] });
    expect(merged(third(0.02), third(0.03)).clashes).toEqual(['Gates']);
    // One has moved what the other has taken away.
    expect(merged({ gates: [gate('G1')] }, { gates: [gate('G1'), gate('G2', 0.02)] }).clashes).toEqual(['Gates']);
  });

  it('of different kinds of one thing do not mix', () => {
    const profile = { by: 'profile' as const, as: 'pressure' as const, points: [{ at: 0, value: 1e7 }] };
    const timed = { by: 'constant' as const, pressure: null, time: 3 };
    expect(merged(cycle({ packing: profile }), cycle({ packing: timed })).clashes).toEqual(['Cycle']);
  });

  it('a step done again is on top of what has become since, and wins where both touch', () => {
    const step = (ours: Partial<Inputs>, theirs: Partial<Inputs>) =>
      rebased(base, { ...base, ...ours }, { ...base, ...theirs });
    expect(step({ detail: 'fine' }, { detail: 'quick', resin: 'pp-hollin-h3' })).toEqual({
      ...base,
      detail: 'fine',
      resin: 'pp-hollin-h3',
    });
    expect(step({ gates: [gate('G1', 0.004)] }, { gates: [gate('G1', 0.002), gate('G3')] }).gates).toEqual([
      gate('G1', 0.004),
      gate('G3'),
    ]);
  });

  it('keys in another order say the same', () => {
    const turned = Object.fromEntries(Object.entries(base).reverse()) as Inputs;
    expect(same(base, turned)).toBe(true);
    expect(same(base, { ...turned, detail: 'fine' })).toBe(false);
    expect(same({ a: undefined }, {})).toBe(true);
    expect(same([1, { a: NaN }], [1, { a: NaN }])).toBe(true);
    expect(same([1], { 0: 1 })).toBe(false);
  });

  it('what was not there may come from either', () => {
    const vent = { vents: [] };
    expect(merged(vent, { detail: 'quick' }).inputs).toEqual({ ...base, ...vent, detail: 'quick' });
    const { warpage: _, ...without } = base;
    expect(mergeInputs(base, without as Inputs, { ...base, detail: 'quick' }).inputs?.detail).toBe('quick');
  });
});
