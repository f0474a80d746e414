import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import { random } from '../../../verification/random';
import { readStl } from '../formats/stl';
import { weld, type TriangleMesh } from '../geometry/mesh';
import { defaultCore, type CoreChoice } from '../model/core';
import { defaultFeed } from '../model/feed';
import { defaultTab } from '../model/outlet';
import { cavityBody, emptyInputs, type Inputs } from '../model/study';
import { plainContext } from '../stage/context';
import { coreNotes, coreProblems } from './checkCore';
import { checkInputs } from './checkRun';
import { runPipeline, type ShotOutcome } from './pipeline';
import { resolve } from '../setup/resolve';
import { checkShots } from './checkShots';
import { box } from '../../../verification/shapes';

const soup = readStl(readFileSync(new URL('../../../samples/smoker-grip.stl', import.meta.url)));
const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));

const grip = (core: Partial<CoreChoice>, more: Partial<Inputs> = {}): Inputs => ({
  ...emptyInputs('grip'),
  detail: 'quick',
  upTo: 'pack',
  gates: [{ id: 'G1', position: [0, 0, 0.003], diameter: 0.003 }],
  cycle: { ...emptyInputs().cycle, injection: { by: 'time', time: 5 } },
  core: {
    ...defaultCore(),
    needles: [{ id: 'N1', position: [0, 0, -0.004] }],
    delay: 1,
    drive: { by: 'pressure', pressure: 4e6, rise: 4, hold: 60, release: 2 },
    ...core,
  },
  ...more,
});

async function run(core: Partial<CoreChoice>, part: TriangleMesh = mesh): Promise<ShotOutcome> {
  const outcome = await runPipeline(part, 'grip', grip(core), plainContext(), { gridError: false });
  if (outcome.status === 'failed' || outcome.status === 'refused') throw new Error(JSON.stringify(outcome));
  return outcome;
}
const melt = (share: number) => ({ melt: { by: 'share', share } as const });

describe('a thick handle that gas pushes hollow', () => {
  let much: ShotOutcome;
  let some: ShotOutcome;
  let late: ShotOutcome;
  let little: ShotOutcome;
  beforeAll(async () => {
    [much, some, late, little] = [
      await run(melt(0.9)),
      await run(melt(0.72)),
      await run({ ...melt(0.72), delay: 6 }),
      await run(melt(0.5)),
    ];
  });
  const core = (o: ShotOutcome) => o.summary.core!;

  it('much melt leaves its end solid, less none of it, and too little is broken through', () => {
    expect([much, some, little].map((o) => o.status)).toEqual(['filled', 'filled', 'stalled']);
    expect(core(much).solidShare).toBeGreaterThan(2 * core(some).solidShare);
    expect(core(much).length_m).toBeLessThan(core(some).length_m);
    expect([core(much).broken, core(some).broken]).toEqual([null, null]);
    expect(core(little).broken!.time_s).toBeGreaterThan(core(little).from_s);
    const right = (o: ShotOutcome) => o.answers.find((a) => a.id === 'does-core-come-right')!;
    expect([right(much).verdict, right(little).verdict]).toEqual(['problem', 'problem']);
    // What is tried from either side lies between them.
    const tried = (o: ShotOutcome) =>
      right(o).try.flatMap(({ inputs: { core } }) => (core?.melt.by === 'share' ? core.melt.share : []))[0];
    for (const share of [tried(much), tried(little)]) {
      expect(share).toBeGreaterThan(0.55);
      expect(share).toBeLessThan(0.88);
    }
  });

  it('needs of the machine what the melt asks for, and is packed by what the gas has', () => {
    for (const { summary, history, answers } of [much, some]) {
      const injecting = history.nozzlePressure.filter((_, k) => ['injection', 'limited'].includes(history.phase[k]));
      expect(summary.pressureNeeded_Pa).toBeGreaterThan(0);
      expect(summary.pressureNeeded_Pa).toBeLessThanOrEqual(1.02 * Math.max(...injecting));
      expect(summary.pack!.packingPressure_Pa).toBeCloseTo(4e6, -4);
      // The nozzle is shut: nothing flows back through a gate that is soft, and what the machine holds is not to be tried.
      const packs = answers.find((a) => a.id === 'does-it-pack-out')!;
      expect(packs.why.join(' ')).toContain('from inside');
      expect(packs.headline).not.toContain('flows back');
      for (const { inputs } of answers.flatMap((a) => a.try))
        expect(inputs.cycle.packing).toEqual(emptyInputs('grip').cycle.packing);
    }
  });

  it('a later core leaves a thicker skin', () => {
    expect(core(late).skin_m.low).toBeGreaterThan(1.01 * core(some).skin_m.low);
  });

  it('breaks no bound of its own: mass, heat, pressure, shrinkage', () => {
    for (const o of [much, some, late, little]) {
      expect(o.breaches).toEqual([]);
      expect(o.fill.massError).toBeLessThan(1e-9);
    }
    for (const o of [much, some, late]) {
      expect(o.pack!.massError).toBeLessThan(1e-5);
      // What is hollow is lighter, and colder sooner.
      expect(core(o).saved_kg / (o.pack!.mass + core(o).saved_kg)).toBeCloseTo(core(o).share, 1);
    }
    expect(some.pack!.mass).toBeLessThan(0.85 * much.pack!.mass);
    expect(some.pack!.ejectableTime!).toBeLessThan(much.pack!.ejectableTime!);
  });

  it('keeps the history and the fields of the core', () => {
    const { history, fields } = some;
    expect(Math.max(...history.corePressure)).toBeCloseTo(4e6, 0);
    expect(history.coreVolume.at(-1)).toBe(core(some).volume_m3);
    expect(history.phase).toContain('core');
    expect(['coreShare', 'skinLeft', 'coreTime'].every((id) => fields.some((f) => f.id === id))).toBe(true);
  });

  it('an overflow tab with a valve takes up what the gas displaces of a full cavity', async () => {
    const size = { length: 0.04, width: 0.02, thickness: 0.012 };
    const tab = { ...defaultTab('T1', [0.118, 0, 0], [1, 0, 0], 0.004), size, opens: 'core' as const };
    const study = grip(melt(1), { tabs: [{ ...tab, land: { length: 2e-3, width: 8e-3, thickness: 5e-3 } }] });
    expect(coreProblems(study)).toEqual([]);
    const o = await runPipeline(mesh, 'grip', study, plainContext(), { gridError: false });
    if (o.status === 'failed' || o.status === 'refused') throw new Error(JSON.stringify(o));
    expect([o.status, o.breaches]).toEqual(['filled', []]);
    expect(o.summary.shareFilled).toBeCloseTo(1, 3);
    // As much as the tab holds, and what the plastic has shrunk by.
    expect(core(o).meltShare).toBeGreaterThan(0.99);
    expect(o.fill.coreVolume).toBeGreaterThan(0.8 * size.length * size.width * size.thickness);
    expect(core(o).length_m).toBeGreaterThan(0.06);
  });

  it('water cools it from inside', async () => {
    const wet = await run({ ...melt(0.72), fluid: 'water' });
    expect(wet.breaches).toEqual([]);
    expect(wet.pack!.ejectableTime!).toBeLessThan(0.8 * some.pack!.ejectableTime!);
  });
});

describe('a second melt in the core', () => {
  const second: Partial<CoreChoice> = { fluid: 'melt', needles: [] };

  it('follows the first, is packed with it, and keeps to its own share of the part', async () => {
    const o = await run({ ...second, ...melt(0.7), second: { resin: 'abs-corran-220', meltTemperature: null } });
    expect([o.status, o.breaches]).toEqual(['filled', []]);
    const facts = o.summary.core!;
    expect([facts.melt, facts.fluid, facts.broken]).toEqual([true, 'Corran 220', null]);
    // What was injected of it, and what packing brought in.
    const cavity = o.fill.cavityVolume;
    const atFull = o.history.coreVolume[o.fill.history.time.length - 1] / cavity;
    expect(Math.abs(atFull - 0.3)).toBeLessThan(0.01);
    expect(facts.share).toBeGreaterThan(atFull);
    expect(facts.share).toBeLessThan(atFull + 0.15);
    // Heavier than polypropylene alone, and no hole in its structure.
    expect(o.pack!.mass / cavity).toBeGreaterThan(900);
    expect(o.fields.some((f) => f.id === 'coreShare')).toBe(true);
  });

  it('of the same resin and temperature changes nothing of filling and weight', async () => {
    const { core: _, ...plain } = grip({});
    const one = await runPipeline(mesh, 'grip', plain, plainContext(), { gridError: false });
    if (one.status !== 'filled') throw new Error(one.status);
    const two = await run({ ...second, ...melt(0.6) });
    expect(Math.abs(two.summary.fillTime_s / one.summary.fillTime_s - 1)).toBeLessThan(0.01);
    expect(Math.abs(two.summary.pressureNeeded_Pa / one.summary.pressureNeeded_Pa - 1)).toBeLessThan(0.03);
    expect(Math.abs(two.pack!.mass / one.pack!.mass - 1)).toBeLessThan(0.002);
  });

  it('comes to the front where there is too little of the first, and says so', async () => {
    const o = await run({ ...second, ...melt(0.3) });
    expect(o.status).toBe('filled');
    expect(o.summary.core!.broken!.time_s).toBeLessThan(o.summary.fillTime_s);
    const answer = o.answers.find((a) => a.id === 'does-core-come-right')!;
    expect([answer.verdict, answer.try[0].inputs.core?.melt]).toEqual(['problem', { by: 'share', share: 0.65 }]);
  });

  it('of a resin that is not there is refused', () => {
    const study = grip({ ...second, second: { resin: 'none', meltTemperature: null } });
    const problems = checkInputs(study, { volume: 4.5e-5, wall: 0.012 });
    expect(problems.map((p) => p.message)).toEqual(['The second resin "none" is not in the library.']);
  });

  it('comes through a gate of its own, and lies there', async () => {
    const plate = box(0.08, 0.03, 0.003);
    const gates = [0.008, 0.072].map((x, k) => ({
      id: `G${k + 1}`,
      position: [x, 0, 0.0015] as [number, number, number],
      diameter: 0.003,
    }));
    const study = (gate?: string): Inputs =>
      grip(
        {
          ...second,
          ...melt(0.6),
          second: { resin: 'pp-hollin-h14', meltTemperature: null, ...(gate ? { gate } : {}) },
        },
        { gates, cycle: emptyInputs().cycle },
      );
    const runOf = async (inputs: Inputs) => {
      const o = await runPipeline(plate, 'plate', inputs, plainContext(), { gridError: false });
      if (o.status === 'failed' || o.status === 'refused') throw new Error(JSON.stringify(o));
      return o;
    };
    const own = await runOf(study('G2'));
    expect([own.status, own.breaches]).toEqual(['filled', []]);
    // The first comes in at one end alone, the second at the other.
    const through = (g: number, from: number, to: number) =>
      own.history.gateFlow.reduce((s, flow, k) => {
        const { time } = own.history;
        return k && time[k] > from && time[k] <= to ? s + flow[g] * (time[k] - time[k - 1]) : s;
      }, 0);
    const { from_s } = own.summary.core!;
    const end = own.summary.fillTime_s;
    expect(through(1, 0, from_s)).toBe(0);
    expect(through(0, from_s + 1e-9, end)).toBe(0);
    const whole = 0.08 * 0.03 * 0.003;
    expect(through(1, from_s, end) / (0.4 * whole)).toBeCloseTo(1, 1);
    expect(own.summary.core!.share).toBeGreaterThan(0.35);
  });

  it('a gate that is gone, the only one, or one on runners, is not its own', () => {
    const said = (gate: string, more: Partial<Inputs> = {}) =>
      coreProblems(grip({ ...second, second: { resin: 'pp-hollin-h14', meltTemperature: null, gate } }, more)).map(
        (p) => p.message,
      );
    expect(said('G7')[0]).toContain('which is gone');
    expect(said('G1')[0]).toContain('the first has none');
    expect(said('G1', { feed: defaultFeed(0.002, -0.012, false) }).join()).toContain('Runners belong to one melt');
  });
});

describe('what can not be run', () => {
  const told = (core: Partial<CoreChoice>, more: Partial<Inputs> = {}) =>
    coreProblems(grip(core, more)).map((p) => p.message);

  it.each([
    ['no needle', { needles: [] }, 'No needle'],
    ['nothing to displace', melt(1), 'nothing to displace'],
    [
      'a pressure no higher than the air',
      { drive: { by: 'pressure', pressure: 5e4, rise: 1, hold: 1, release: 1 } },
      'no more than the cavity has',
    ],
    [
      'a profile without any',
      {
        drive: {
          by: 'profile',
          points: [
            { at: 0, pressure: 0 },
            { at: 1, pressure: 0 },
          ],
        },
      },
      'no more than',
    ],
  ] as [string, Partial<CoreChoice>, string][])('%s', (_, core, message) => {
    expect(told(core).join()).toContain(message);
    expect(told({})).toEqual([]);
  });

  it('a needle off the part, and one on an insert', async () => {
    const off = await runPipeline(
      mesh,
      'grip',
      grip({ needles: [{ id: 'N1', position: [0, 0.05, 0] }] }),
      plainContext(),
    );
    expect(off).toMatchObject({ status: 'refused', problems: [{ target: 'N1', station: 'feed' }] });
    const plate = box(0.06, 0.03, 0.004);
    const bodies = new Map([
      [
        'B2',
        {
          ...box(0.02, 0.01, 0.002),
          positions: box(0.02, 0.01, 0.002).positions.map((x, k) => (k % 3 === 2 ? x + 0.003 : x)),
        },
      ],
    ]);
    const study = grip(
      { needles: [{ id: 'N1', position: [0.01, 0, 0.002] }] },
      {
        gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.002 }],
        bodies: [cavityBody('plate'), { ...cavityBody('steel'), id: 'B2', role: 'insert' }],
      },
    );
    const { problems } = checkShots(study, [{ number: 1, inputs: study, mesh: plate, key: 'plate' }], bodies);
    expect(problems.map((p) => p.message).join()).toContain('sits on the insert');
  });

  it('notes tell what is likely, and keep from nothing', () => {
    const notes = (core: Partial<CoreChoice>) => {
      const study = grip(core);
      const { settings } = resolve(mesh, study);
      return coreNotes(study, settings, mesh, 0.012).join();
    };
    expect(notes(melt(0.3))).toContain('likely to break through');
    expect(notes(melt(0.97))).toContain('a short core only');
    expect(notes({ delay: 119 })).toContain('frozen before the fluid');
    expect(notes(melt(0.75))).toBe('');
    const draw = random(1);
    expect(notes(melt(0.1 + 0.2 * draw()))).not.toMatch(/NaN|undefined/);
  });
});
