import { beforeAll, describe, expect, it } from 'vitest';
import { DEFAULT_PLAN, layOutChannels, withLayout } from '@/core/cooling/layout';
import { blockOf } from '@/core/cooling/block';
import { boundsOf, type Vec3 } from '@/core/geometry/mesh';
import { defaultCooling, type Cooling, type LayoutPlan } from '@/core/model/cooling';
import { emptyInputs, type Inputs } from '@/core/model/study';
import { coolingStudy } from '@/core/pipeline/coolingStudy';
import { runPipeline, type PipelineOutcome } from '@/core/pipeline/pipeline';
import { plainContext } from '@/core/stage/context';
import { prism } from './shapes';

const mesh = prism(
  [
    [-0.04, -0.025],
    [0.04, -0.025],
    [0.04, 0.025],
    [-0.04, 0.025],
  ],
  0,
  0.0025,
);
const part = boundsOf(mesh.positions);
const block = blockOf(defaultCooling(), part);
const cooled = (patch: Partial<LayoutPlan> = {}): Cooling => {
  const plan = { ...DEFAULT_PLAN(part), ...patch };
  return withLayout(defaultCooling(), plan, layOutChannels(plan, mesh, part, block, 'U1'));
};
const study = (cooling: Cooling): Inputs => ({
  ...emptyInputs('plate'),
  gates: [{ id: 'G1', position: [-0.03, 0, 0], diameter: 0.002 }],
  cooling,
  detail: 'quick',
});
const run = (cooling: Cooling) => runPipeline(mesh, 'plate', study(cooling), plainContext(), { gridError: false });

type Done = Extract<PipelineOutcome, { mould: unknown }>;
const done = (outcome: PipelineOutcome): Done => {
  if (outcome.status !== 'filled') throw new Error(outcome.status);
  return outcome;
};

describe('a plate in a mould', () => {
  let both: Done;
  let below: Done;
  beforeAll(async () => {
    both = done(await run(cooled()));
    below = done(await run(cooled({ above: false })));
  });

  const walls = ({ mould }: Done) => {
    const T = mould?.source.wallTemperature ?? new Float64Array(0);
    const n = T.length / 2;
    const mean = (side: number) => T.reduce((s, t, k) => (k % 2 === side ? s + t : s), 0) / n;
    return [mean(0), mean(1)];
  };

  it('channels on both sides: both walls alike; below only: the upper one is warmer, and it cools longer', () => {
    const [[top, bottom], [warm, cool]] = [walls(both), walls(below)];
    expect(Math.abs(top - bottom)).toBeLessThan(2);
    expect(warm).toBeGreaterThan(cool + 3);
    expect(below.summary.pack?.ejectableTime_s).toBeGreaterThan(both.summary.pack?.ejectableTime_s ?? Infinity);
  });

  it('heat in is heat out, and what the mould was settled for is what the shot does', () => {
    for (const { summary } of [both, below]) {
      const { cool, pack } = summary;
      expect(cool?.balanceError).toBeLessThan(5e-3);
      expect(Math.abs((cool?.openTime_s ?? 0) / (pack?.openTime_s ?? 1) - 1)).toBeLessThan(0.1);
      const shares = cool?.lines.reduce((s, l) => s + l.share, 0);
      expect(shares).toBeCloseTo(1, 6);
      const supplied = cool?.supplies.reduce((s, x) => s + x.heat_W, 0) ?? 0;
      expect(Math.abs(supplied / (cool?.heat_W.coolant ?? 1) - 1)).toBeLessThan(0.01);
    }
  });

  it('the mould takes up the heat that filling and packing give it', () => {
    const { pack, summary, mould } = both;
    const lost = (pack?.heat.lost ?? 0) / (mould?.source.cycleHeat ?? 1);
    // The shot counts its own heat, and on past the opening until every place is cold.
    expect(lost).toBeGreaterThan(0.95);
    expect(lost).toBeLessThan(1.2);
    expect(summary.cool?.heat_W.part).toBeGreaterThan(50);
  });

  it('copper alloy under the plate cools it', async () => {
    const c = cooled({ above: false });
    const centre: Vec3 = [0, 0, -0.012];
    const axes: [Vec3, Vec3, Vec3] = [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ];
    const shape = { shape: 'box' as const, centre, axes, size: [0.08, 0.05, 0.024] as Vec3 };
    const copper = done(await run({ ...c, inserts: [{ id: 'M1', name: 'Plate', shape, metal: 'copper-hw-k' }] }));
    expect(walls(copper)[1]).toBeLessThan(walls(below)[1] - 1);
  });

  it('refuses what cannot be, with place and remedy', async () => {
    const c = cooled();
    const through: Cooling = {
      ...c,
      lines: c.lines.map((l) =>
        l.id === 'B1' ? { ...l, from: [l.from[0], l.from[1], 0.001], to: [l.to[0], l.to[1], 0.001] } : l,
      ),
    };
    const outcome = await run(through);
    expect(outcome.status).toBe('refused');
    if (outcome.status !== 'refused') return;
    const problem = outcome.problems.find((p) => p.message.includes('into the cavity'));
    expect(problem).toMatchObject({ station: 'cooling', target: 'B1' });
    expect(problem?.place).toBeDefined();
  });
});

it('trials move the layout to where the mould is more even, and nothing else', async () => {
  const cooling = cooled({ distance: 0.014, pitch: 0.03, count: 2 });
  const outcome = await coolingStudy(mesh, 'plate', study(cooling), 'even', plainContext());
  if (outcome.status !== 'found') throw new Error(outcome.message);
  const { best, before, trials, inputs } = outcome.report;
  expect(trials.length).toBeGreaterThan(5);
  expect(best.spread).toBeLessThan(before.spread);
  expect(Math.min(...trials.map((t) => t.spread))).toBe(best.spread);
  expect(inputs.cooling?.plan).toMatchObject({ pitch: best.pitch, distance: best.distance, count: 2 });
  expect({ ...inputs, cooling: null }).toEqual({ ...study(cooling), cooling: null });
});
