import { describe, expect, it } from 'vitest';
import { trayCooling } from '../cooling/sample';
import { box } from '../../../verification/shapes';
import { INPUT_STATIONS, inputKey, stationKey } from './inputKey';
import { defaultFeed } from './feed';
import { defaultTab, defaultVent } from './outlet';
import { emptyInputs, inputsSchema, type Inputs } from './study';
import { warpageOf } from './warpage';

const gate = { id: 'G1', position: [0, 0, 0] as [number, number, number], diameter: 0.002 };
const inputs: Inputs = { ...emptyInputs('a'.repeat(64)), gates: [gate] };
const pin = { open: { by: 'start' as const }, close: null, over: 0.05 };

/** One change of everything that a run reads, with the station at which it is made. */
const CHANGES: [string, (typeof INPUT_STATIONS)[number], Partial<Inputs>][] = [
  ['another surface', 'part', { bodies: emptyInputs('b'.repeat(64)).bodies }],
  ['Detail', 'part', { detail: 'fine' }],
  ['instants kept', 'part', { instants: 'many' }],
  ['parting height', 'part', { tool: { ...inputs.tool, partingHeight: 0.001 } }],
  ['opening direction', 'part', { tool: { ...inputs.tool, opening: [1, 0, 0] } }],
  ['resin', 'resin', { resin: 'abs-corran-220' }],
  ['place of a gate', 'feed', { gates: [{ ...gate, position: [0.01, 0, 0] }] }],
  ['diameter of a gate', 'feed', { gates: [{ ...gate, diameter: 0.003 }] }],
  ['pin of a gate', 'feed', { gates: [{ ...gate, pin }] }],
  ['form of a gate', 'feed', { gates: [{ ...gate, form: { kind: 'pin', land: 0.001 } as never }] }],
  ['runners', 'feed', { feed: defaultFeed(0.002, -0.01, false) }],
  ['vents', 'feed', { vents: [defaultVent('V1', { kind: 'rim' })] }],
  ['overflow tabs', 'feed', { tabs: [defaultTab('T1', [0, 0, 0], [1, 0, 0], 0.002)] }],
  ['cooling', 'cooling', { cooling: trayCooling(box(0.1, 0.05, 0.02)) }],
  ['cycle', 'cycle', { cycle: { ...inputs.cycle, meltTemperature: 500 } }],
  ['what is calculated', 'cycle', { upTo: 'fill' }],
  ['structure', 'cycle', { warpage: { ...warpageOf({}), withFeed: !warpageOf({}).withFeed } }],
];

describe('what a change touches', () => {
  it.each(CHANGES)('%s: the result, and its station alone (%s)', (_, station, change) => {
    const changed = { ...inputs, ...change };
    expect(inputKey(changed)).not.toBe(inputKey(inputs));
    const touched = INPUT_STATIONS.filter((s) => stationKey(changed, s) !== stationKey(inputs, s));
    expect(touched).toEqual([station]);
  });

  it('the order in which keys were set: nothing, and neither does the way through the schema', () => {
    const turned = (value: unknown): unknown =>
      Array.isArray(value)
        ? value.map(turned)
        : value && typeof value === 'object'
          ? Object.fromEntries(
              Object.entries(value)
                .reverse()
                .map(([key, part]) => [key, turned(part)]),
            )
          : value;
    for (const [, , change] of [['', '', {}] as const, ...CHANGES]) {
      const changed: Inputs = { ...inputs, ...change };
      expect(inputKey(turned(changed) as Inputs)).toBe(inputKey(changed));
      const parsed = inputsSchema.safeParse(changed);
      if (parsed.success) expect(inputKey(parsed.data)).toBe(inputKey(changed));
    }
  });

  it.each<[string, Partial<Inputs>]>([
    ['probes', { probes: [{ id: 'P1', position: [0, 0, 0] }] }],
    ['the name of a gate', { gates: [{ ...gate, id: 'Left' }] }],
    ['a tolerance', { warpage: { ...warpageOf({}), tolerance: 1e-4 } }],
    ['empty lists', { vents: [], tabs: [] }],
  ])('%s: nothing', (_, change) => {
    const changed = { ...inputs, ...change };
    expect(inputKey(changed)).toBe(inputKey(inputs));
    for (const s of INPUT_STATIONS) expect(stationKey(changed, s), s).toBe(stationKey(inputs, s));
  });
});
