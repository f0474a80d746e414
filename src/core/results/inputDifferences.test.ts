import { describe, expect, it } from 'vitest';
import { defaultCore } from '../model/core';
import { defaultCompression } from '../model/compression';
import { WAY_NUMBERS } from '../model/wayNumbers';
import { inputDifferences, takeDifference, WAY_PATHS } from './inputDifferences';
import { defaultTab } from '../model/outlet';
import { resinById } from '../material/library';
import { DEFAULT_TRANSFER, emptyInputs, inputsSchema, type Inputs } from '../model/study';

const base: Inputs = {
  ...emptyInputs('a'.repeat(64)),
  gates: [
    { id: 'G1', position: [0, 0, 0.001], diameter: 0.0025 },
    { id: 'G2', position: [0.02, 0, 0.001], diameter: 0.0025 },
  ],
};
const cycle = (patch: Partial<Inputs['cycle']>): Inputs => ({ ...base, cycle: { ...base.cycle, ...patch } });
const lines = (to: Inputs, from = base) => inputDifferences(from, to).map((d) => `${d.label}: ${d.from} → ${d.to}`);

describe('differences of two studies in words', () => {
  it('are none of a study with itself, in whatever order its keys were set, nor of what changes no number', () => {
    expect(lines(base)).toEqual([]);
    expect(lines({ ...base, vents: [], probes: [{ id: 'P1', position: [0, 0, 0] }] })).toEqual([]);
  });

  it.each<[string, Inputs, string[]]>([
    [
      'a gate is wider',
      { ...base, gates: [{ ...base.gates[0], diameter: 0.0033 }, base.gates[1]] },
      ['Gate G1, diameter: 2.5 mm → 3.3 mm'],
    ],
    ['a gate is gone', { ...base, gates: base.gates.slice(0, 1) }, ['Gate G2: at 20, 0, 1 mm, diameter 2.5 mm → none']],
    ['numbers of the cycle', cycle({ meltTemperature: 503.15 }), ['Melt temperature: default → 230 °C']],
    [
      'packing, kind by kind',
      cycle({ packing: { by: 'constant', pressure: 25e6, time: 4 } }),
      ['Packing pressure: default → 25 MPa', 'Packing time: default → 4 s'],
    ],
    [
      'another kind of injection',
      cycle({ injection: { by: 'flow-rate', flowRate: 2e-5 } }),
      ['Cycle, injection: time → flow-rate, flow rate 20 cm³/s'],
    ],
    ['another resin', { ...base, resin: 'pom-anstey-c9' }, ['Resin: Hollin H14 → Anstey C9']],
    [
      'another surface',
      { ...base, bodies: [{ ...base.bodies[0], mesh: 'b'.repeat(64) }] },
      ['Body B1, mesh: surface aaaaaa → surface bbbbbb'],
    ],
    ['the detail', { ...base, detail: 'fine' }, ['Detail: normal → fine']],
    [
      'a tab more',
      { ...base, tabs: [defaultTab('T1', [0.01, 0.02, 0], [0, 1, 0], 0.002)] },
      ['Overflow tab T1: none → at 10, 20, 0 mm'],
    ],
  ])('%s', (_, to, wanted) => expect(lines(to)).toEqual(wanted));

  it('of a later shot are told with its number, and taken over as well', () => {
    const { gates, feed, resin, cycle: own } = base;
    const later = (melt: number): Inputs => ({
      ...base,
      later: [{ gates, feed, resin, cycle: { ...own, meltTemperature: melt }, transfer: DEFAULT_TRANSFER }],
    });
    const [from, to] = [later(480), later(500)];
    expect(lines(to, from)).toEqual(['Shot 2: Melt temperature: 206.9 °C → 226.9 °C']);
    const [{ path }] = inputDifferences(from, to);
    expect(takeDifference(from, to, path)).toEqual(to);
  });

  it('of a resin that is typed in are its numbers, of one with another name it is another', () => {
    const own = resinById('pp-hollin-h14')!;
    const with_ = (patch: Partial<typeof own>): Inputs => ({ ...base, resin: { ...own, ...patch } });
    expect(lines(with_({ noFlowTemperature: 400 }), with_({}))).toEqual([
      'Resin, no flow temperature: 135 °C → 126.9 °C',
    ]);
    expect(lines(with_({ name: 'Hollin X', noFlowTemperature: 400 }), with_({}))).toEqual([
      'Resin: Hollin H14 → Hollin X',
    ]);
  });

  it('know every number of the table by where it stands', () => {
    expect(new Set(Object.values(WAY_PATHS))).toEqual(new Set(Object.keys(WAY_NUMBERS)));
    const pressed = { ...base, compression: defaultCompression() };
    const faster = { ...pressed, compression: { ...defaultCompression(), speed: 0.02 } };
    expect(lines(faster, pressed)[0]).toMatch(/^Closing speed: [\d.]+ mm\/s → 20 mm\/s$/);
  });

  it('of a fluid in the core say that it is there', () => {
    expect(lines({ ...base, core: defaultCore() })[0]).toMatch(/^Core: none → /);
  });

  it('are taken over one by one until both are the same, and each is a study', () => {
    const other: Inputs = {
      ...cycle({
        meltTemperature: 503.15,
        packing: {
          by: 'profile',
          as: 'pressure',
          points: [
            { at: 0, value: 3e7 },
            { at: 4, value: 2e7 },
          ],
        },
      }),
      gates: [
        { ...base.gates[0], diameter: 0.0033 },
        { id: 'G3', position: [0.03, 0, 0], diameter: 0.001 },
      ],
      tabs: [defaultTab('T1', [0.01, 0.02, 0], [0, 1, 0], 0.002)],
      core: defaultCore(),
      resin: 'pom-anstey-c9',
      detail: 'quick',
    };
    for (const [from, to] of [
      [base, other],
      [other, base],
    ]) {
      let now = from;
      for (const { path } of inputDifferences(from, to)) {
        const next = takeDifference(now, to, path);
        expect(inputsSchema.safeParse(next).success, path.join('.')).toBe(true);
        now = next!;
      }
      expect(inputDifferences(now, to)).toEqual([]);
    }
  });

  it('that alone are no study are refused', () => {
    const broken = { ...base, gates: [{ ...base.gates[0], diameter: -1 }] } as Inputs;
    expect(takeDifference(base, broken, ['gates', 'G1', 'diameter'])).toBeNull();
  });
});
