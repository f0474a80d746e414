import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { resinById } from '../material/library';
import { ATMOSPHERE, ROOM, specificVolume } from '../material/pvt';
import { defaultFeed } from '../model/feed';
import { defaultCompression } from '../model/compression';
import { defaultCore, type CoreChoice } from '../model/core';
import { defaultTab } from '../model/outlet';
import { emptyInputs, type Inputs } from '../model/study';
import { forTrials } from '../pipeline/balanceStudy';
import { checkInputs } from '../pipeline/checkRun';
import { cycleStudy, plateau } from '../pipeline/cycleStudy';
import { runPipeline } from '../pipeline/pipeline';
import { packingAt } from '../solvers/pack/control';
import { plainContext } from '../stage/context';

const mesh = box(0.05, 0.025, 0.002);
const inputs: Inputs = {
  ...emptyInputs('plate'),
  gates: [{ id: 'G1', position: [0.004, 0, 0.001], diameter: 0.0014 }],
  feed: defaultFeed(0.002, -0.01, false),
  detail: 'quick',
  upTo: 'pack',
};
const cycle = (patch: Partial<Inputs['cycle']>): Inputs => ({ ...inputs, cycle: { ...inputs.cycle, ...patch } });
const run = async (given: Inputs) => {
  const outcome = await runPipeline(mesh, 'plate', given, plainContext(), { gridError: false });
  if (outcome.status !== 'filled' || !outcome.summary.pack) throw new Error(outcome.status);
  return { ...outcome, packed: outcome.summary.pack };
};
const packWith = (pressure: number, time: number | null = null) =>
  cycle({ packing: { by: 'constant', pressure, time } });

describe('a packed plate', () => {
  it('keeps its mass and its heat, and weighs what its shrinkage says', async () => {
    const { packed, pack, fill, history, course, fields } = await run(inputs);
    expect(packed.massError).toBeLessThan(1e-6);
    expect(packed.heatError).toBeLessThan(0.01);
    const solid = 1 / specificVolume(resinById('pp-hollin-h14')!.pvt, ROOM, ATMOSPHERE);
    const shrunk = fill.node.held.reduce((s, v, i) => s + v * (1 - (pack?.node.shrinkage[i] || 0)), 0);
    // The gate's own node has no shrinkage of its own.
    expect(packed.mass_kg / (solid * shrunk)).toBeCloseTo(1, 2);
    expect(history.phase).toContain('cooling');
    expect(history.time.every((t, k) => k === 0 || t >= history.time[k - 1])).toBe(true);
    expect(course?.mass).toHaveLength(course?.time.length ?? -1);
    for (const id of ['shrinkage', 'holdReach', 'ejectableAt', 'sinkDepth'])
      expect(fields.some((f) => f.id === id)).toBe(true);
    // The pressure's frames go on to the end of the cycle.
    expect(fields.find((f) => f.id === 'pressure')?.times.at(-1)).toBeCloseTo(history.time.at(-1)!, 6);
  });

  it('with more pressure weighs more and shrinks less', async () => {
    const [low, high] = [await run(packWith(1e7)), await run(packWith(4e7))];
    expect(high.packed.mass_kg).toBeGreaterThan(1.005 * low.packed.mass_kg);
    expect(high.packed.linearShrinkage.mean).toBeLessThan(low.packed.linearShrinkage.mean - 0.002);
  });

  it('packed longer than its gate is open is told what it wastes, and the remedy cures it', async () => {
    const { packed, answers } = await run(packWith(2e7, 30));
    expect(packed.lastGateFrozenAt_s).toBeLessThan(25);
    const answer = answers.find((a) => a.id === 'does-it-pack-out');
    expect(answer?.verdict).not.toBe('good');
    expect(answer?.why[0]).toMatch(/wasted/);
    const cure = answer?.try.find((t) => t.id === 'pack-to-gate-freeze');
    const after = await run(cure!.inputs);
    expect(after.answers.find((a) => a.id === 'does-it-pack-out')?.why[0]).not.toMatch(/wasted/);
    expect(after.packed.mass_kg / packed.mass_kg).toBeCloseTo(1, 2);
  });

  it('let go too early flows back: lighter, and told', async () => {
    const { packed, answers } = await run(packWith(4e7, 0.5));
    const held = await run(packWith(4e7, 8));
    expect(packed.mass_kg).toBeLessThan(held.packed.mass_kg);
    expect(answers.find((a) => a.id === 'does-it-pack-out')?.why[0]).toMatch(/flows back/);
  });

  it('opened without cooling is told to be too hot, with the time it needs', async () => {
    const { answers } = await run(cycle({ packing: { by: 'constant', pressure: null, time: 1 }, coolingTime: 0 }));
    const answer = answers.find((a) => a.id === 'how-long-to-cool');
    expect(answer?.verdict).toBe('problem');
    const cure = answer?.try.find((t) => t.id === 'cool-as-needed');
    expect(cure?.inputs.cycle.coolingTime).toBeGreaterThan(1);
    const after = await run(cure!.inputs);
    expect(after.answers.find((a) => a.id === 'how-long-to-cool')?.verdict).not.toBe('problem');
  });

  it('thicker walls are ejected later and shrink more', async () => {
    const thick = await runPipeline(
      box(0.05, 0.025, 0.003),
      'thick',
      { ...inputs, feed: null, gates: [{ ...inputs.gates[0], position: [0.004, 0, 0.0015] }] },
      plainContext(),
      { gridError: false },
    );
    const thin = await run({ ...inputs, feed: null });
    if (thick.status !== 'filled' || !thick.summary.pack) throw new Error(thick.status);
    expect(thick.summary.pack.ejectableTime_s! / thin.packed.ejectableTime_s!).toBeGreaterThan(1.6);
  });
});

describe('packing profiles', () => {
  const profile = {
    as: 'share' as const,
    points: [
      { at: 0, value: 0.9 },
      { at: 2, value: 0.9 },
      { at: 2, value: 0.5 },
      { at: 4, value: 0.3 },
    ],
    end: 4,
  };
  it.each([
    [0, 0.9],
    [1.9, 0.9],
    [3, 0.4],
    [4, 0.3],
    [9, 0.3],
  ])('at %f s', (at, share) => expect(packingAt(profile, at, 4e7)).toBeCloseTo(share * 4e7, 3));

  const targets = (patch: Partial<Inputs['cycle']>) =>
    checkInputs(cycle(patch), { volume: 2.5e-6, wall: 0.002 }).map((p) => `${p.target}: ${p.message}`);
  it('that go back in time or beyond the machine are refused with the point', () => {
    const points = [
      { at: 0, value: 3e7 },
      { at: 3, value: 3e7 },
      { at: 2, value: 1e7 },
    ];
    expect(targets({ packing: { by: 'profile', as: 'pressure', points } }).join()).toMatch(
      /packing: .*back in time: point 3/,
    );
    const high = [
      { at: 0, value: 4.9e8 },
      { at: 3, value: 3e7 },
    ];
    expect(targets({ packing: { by: 'profile', as: 'pressure', points: high } }).join()).toMatch(/above the limit/);
  });
});

describe('a suggested cycle', () => {
  it('takes the shortest filling on the plateau of pressure', () => {
    const row = (injectionTime: number, pressure: number | null) => ({ injectionTime, pressure, frontCooling: 1 });
    expect(plateau([row(0.2, 3e7), row(0.5, 2.1e7), row(1, 2e7), row(2, 2.3e7)])).toBe(0.5);
    expect(plateau([row(0.2, null), row(0.5, null)])).toBeNull();
  });

  it('gives a study that packs to gate freeze and opens when ready', async () => {
    const outcome = await cycleStudy(mesh, 'plate', inputs, plainContext());
    if (outcome.status !== 'found') throw new Error(outcome.message);
    const { report } = outcome;
    expect(report.sweep).toHaveLength(5);
    const { packed, answers } = await run(report.inputs);
    expect(packed.openTime_s).toBeGreaterThan(packed.ejectableTime_s! - 0.6);
    expect(answers.find((a) => a.id === 'how-long-to-cool')?.verdict).not.toBe('problem');
  });

  it('leaves the packing to gas in the core, and opens when the skin is ready', async () => {
    const bar = box(0.06, 0.012, 0.01);
    const core: CoreChoice = {
      ...defaultCore(),
      through: 'nozzle',
      melt: { by: 'share', share: 0.8 },
      drive: { by: 'pressure', pressure: 6e6, rise: 0.5, hold: 12, release: 2 },
    };
    const given: Inputs = {
      ...emptyInputs('bar'),
      gates: [{ id: 'G1', position: [0, 0.006, 0.005], diameter: 0.003 }],
      core,
    };
    const outcome = await cycleStudy(bar, 'bar', given, plainContext());
    if (outcome.status !== 'found') throw new Error(outcome.message);
    const { report } = outcome;
    expect(report.packing).toBeNull();
    expect(report.inputs.core).toEqual(core);
    expect(report.inputs.cycle.packing).toEqual(given.cycle.packing);
    const trial: Inputs = { ...report.inputs, detail: 'quick', upTo: 'pack' };
    const found = await runPipeline(bar, 'bar', trial, plainContext(), { gridError: false });
    if (found.status !== 'filled' || !found.summary.pack) throw new Error(found.status);
    const { packingEnd_s, openTime_s, ejectableTime_s } = found.summary.pack;
    expect(packingEnd_s).toBeGreaterThan(14);
    expect(openTime_s).toBeCloseTo(packingEnd_s + report.coolingTime, 1);
    expect(openTime_s).toBeGreaterThan(ejectableTime_s! - 0.6);
  });
});

describe('trials of runners', () => {
  const tab = defaultTab('T1', [0, 0, 0.001], [0, 0, 1], 0.002);
  const open = { ...tab, id: 'T2' };
  const tabs = [{ ...tab, opens: 'core' as const }, open];

  it('are those of the melt alone: no fluid in the core, and no tab that opens for it', () => {
    const trial = forTrials({ ...inputs, tabs, core: defaultCore() });
    expect(trial.core).toBeUndefined();
    expect(trial.tabs).toEqual([open]);
    expect(trial.cycle.switchover).toEqual({ by: 'share', share: 1 });
  });

  it('are those of a tool that is closed, and a cycle is not looked for in one that closes', async () => {
    const pressed = { ...inputs, compression: defaultCompression() };
    expect(forTrials(pressed).compression).toBeUndefined();
    const found = await cycleStudy(mesh, 'plate', pressed, plainContext());
    expect(found).toMatchObject({ status: 'refused', message: expect.stringContaining('packs by itself') as string });
  });

  it('keep a second melt, which comes through the runners', () => {
    const second: CoreChoice = { ...defaultCore(), fluid: 'melt' };
    const trial = forTrials({ ...inputs, tabs, core: second });
    expect(trial.core).toEqual(second);
    expect(trial.tabs).toEqual(tabs);
  });
});
