import { beforeAll, describe, expect, it } from 'vitest';
import { boundsOf, mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import type { Packing } from '../src/core/model/packing';
import { DEFAULT_WARPAGE, type HoldChoice } from '../src/core/model/warpage';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { plainContext } from '../src/core/stage/context';
import { ALL, few } from './extent';
import { box } from './shapes';
import { openBox, TURNS } from './solids';
import { blockOf } from '../src/core/cooling/block';
import { DEFAULT_PLAN, layOutChannels, withLayout } from '../src/core/cooling/layout';
import { defaultCooling } from '../src/core/model/cooling';

function inputsWith(gate: Vec3, cycle: Partial<Inputs['cycle']>, hold: HoldChoice = 'tool'): Inputs {
  const base = emptyInputs('held');
  return {
    ...base,
    gates: [{ id: 'G1', position: gate, diameter: 0.0015 }],
    cycle: { ...base.cycle, ...cycle },
    // So tight that the answer has something to try.
    warpage: { ...DEFAULT_WARPAGE, hold, tolerance: 5e-5 },
    detail: 'quick',
  };
}

async function run(mesh: TriangleMesh, inputs: Inputs) {
  const outcome = await runPipeline(mesh, 'held', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled' || !outcome.shape || !outcome.pack?.frozen) throw new Error(outcome.status);
  return { outcome, shape: outcome.shape, frozen: outcome.pack.frozen };
}
type Run = Awaited<ReturnType<typeof run>>;

/** Straight channels above and below, as laid out where nothing else is asked for. */
function channelsAround(part: TriangleMesh) {
  const bounds = boundsOf(part.positions);
  const [plan, fresh] = [DEFAULT_PLAN(bounds), defaultCooling()];
  return withLayout(fresh, plan, layOutChannels(plan, part, bounds, blockOf(fresh, bounds), fresh.supplies[0].id));
}

/** What the answer on the shape tries under that name. */
function tried({ outcome }: Run, id: string): Inputs {
  const found = outcome.answers.find((a) => a.id === 'what-shape')?.try.find((t) => t.id === id);
  if (!found?.inputs) throw new Error(`nothing is tried as ${id}`);
  return found.inputs;
}

/** What uneven cooling makes of the shape in the mean, m. */
const byCooling = ({ shape }: Run) => shape.facts.causes.find((c) => c.cause === 'cooling')?.rms_m ?? NaN;

describe('a plate between halves of 40 and 60 °C', () => {
  const plate = box(0.12, 0.06, 0.002);
  /** Let go before the middle has frozen: held by pressure beyond that, it would not end concave on its hot side. */
  const packing: Packing = { by: 'constant', pressure: 6e6, time: 9.5 };
  /** With the gate in the colder face, so that the second case is the first one turned over. */
  const warm = (upper: number, lower: number) =>
    run(
      plate,
      inputsWith([0.06, 0, upper > lower ? -0.001 : 0.001], {
        mouldTemperature: 273.15 + upper,
        lowerMouldTemperature: 273.15 + lower,
        packing,
      }),
    );
  let below: Run;
  let above: Run;
  let even: Run;
  beforeAll(async () => {
    [below, above] = [await warm(40, 60), await warm(60, 40)];
    even = await run(plate, tried(below, 'even-halves'));
  });

  /** Height of the middle over the ends by uneven cooling alone, beside the gate, mean of both faces, m. */
  const bow = ({ shape }: Run) => {
    const { positions } = shape.input.surface;
    const on = (x: number, z: number) => {
      let [best, least] = [0, Infinity];
      for (let v = 0; v < positions.length; v += 3) {
        const d = Math.hypot(positions[v] - x, positions[v + 1] - 0.018, positions[v + 2] - z);
        if (d < least) [best, least] = [v, d];
      }
      return shape.result.byCause.cooling[best + 2];
    };
    const at = (x: number) => (on(x, 0.001) + on(x, -0.001)) / 2;
    return at(0.06) - (at(0.005) + at(0.115)) / 2;
  };

  it('stands concave on the hot side, by what its layers say one by one', () => {
    // Curvature that each column would take by itself, from what its layers want in the room; mean over the plate.
    const { frozen, outcome } = below;
    const { grid } = outcome.gridResult;
    const first = below.shape.result.shrinkage.bend;
    let [sum, volume] = [0, 0];
    for (let i = 0; i < grid.n; i++) {
      if (Math.abs(grid.centroid[3 * i] - 0.06) > 0.05 || Math.abs(grid.centroid[3 * i + 1]) > 0.025) continue;
      sum += grid.volume[i] * first[i];
      volume += grid.volume[i];
    }
    expect(frozen.nLayers).toBe(2 * HALF_LAYERS);
    const curvature = sum / volume / 0.001;
    // The upper, first side is the colder one and ends up longer.
    expect(curvature).toBeGreaterThan(0);
    const expected = (curvature * 0.055 ** 2) / 2;
    expect((bow(below) - bow(above)) / 2 / expected).toBeGreaterThan(0.9);
    expect((bow(below) - bow(above)) / 2 / expected).toBeLessThan(1.1);
    expect(expected).toBeGreaterThan(1e-4);
  });

  it('hardly bends, and the other way, where pressure holds it until its middle has frozen', async () => {
    const held = await run(
      plate,
      inputsWith([0.06, 0, 0.001], {
        mouldTemperature: 273.15 + 40,
        lowerMouldTemperature: 273.15 + 60,
        packing: { by: 'constant', pressure: 4e7, time: null },
      }),
    );
    expect(bow(held)).toBeLessThan(0);
    expect(held.shape.facts.meanShrinkage).toBeLessThan(0.8 * below.shape.facts.meanShrinkage);
  });

  it('turns over with the temperatures, and is straight between equal ones, as the answer tries', () => {
    // The grid cuts this wall once between its faces: its two nodes end 3e-5 apart in strain, of 2.8e-2, whatever is warm.
    expect(bow(above) / bow(below)).toBeLessThan(-0.9);
    expect(bow(above) / bow(below)).toBeGreaterThan(-1.1);
    expect(Math.abs(bow(even))).toBeLessThan(0.05 * Math.abs(bow(below)));
  });
});

describe.each(few(['turned 30° about x, then 17° about z', 'as drawn'], 1))('a box around its core, %s', (how) => {
  const turn = TURNS[how];
  const part = mapVertices(openBox(0.06, 0.04, 0.02, 0.002), turn);
  const gate = turn([0, 0, 0]);
  /** Mean over the long walls, away from edges, of what they shrink by along the core and upwards. */
  const walls = ({ outcome, frozen }: Run) => {
    const { grid } = outcome.gridResult;
    const axes = ([0, 1, 2] as const).map((d) => turn([d === 0 ? 1 : 0, d === 1 ? 1 : 0, d === 2 ? 1 : 0]));
    let [along, up, volume] = [0, 0, 0];
    for (let i = 0; i < grid.n; i++) {
      const place = axes.map((e) => e.reduce((sum, x, d) => sum + x * grid.centroid[3 * i + d], 0));
      if (Math.abs(place[1]) < 0.017 || Math.abs(place[0]) > 0.022 || place[2] < 0.006) continue;
      const { nLayers, node } = frozen;
      let apart = 0;
      if (node.uneven.length) for (let t = 0; t < nLayers; t++) apart += node.uneven[i * nLayers + t] / nLayers;
      along -= grid.volume[i] * (node.mean[i] + apart);
      up -= grid.volume[i] * (node.mean[i] - apart);
      volume += grid.volume[i];
    }
    return { along: along / volume, up: up / volume };
  };

  it.runIf(ALL)('shrinks less along it than upwards; with nothing but pressure to hold it, alike', async () => {
    const held = walls(await run(part, inputsWith(gate, {})));
    const free = walls(await run(part, inputsWith(gate, {}, 'pressure')));
    const all = walls(await run(part, inputsWith(gate, {}, 'ejection')));
    expect(held.up - held.along).toBeGreaterThan(5e-4);
    expect(free.up).toBe(free.along);
    // Upwards the core holds nothing back; along it, it holds as if all were held.
    expect(Math.abs(held.along / all.along - 1)).toBeLessThan(0.08);
    expect(held.up).toBeGreaterThan(free.up - 1e-3);
  });
});

describe('a box around a core that its circuits leave hot', () => {
  it.runIf(ALL)('bends less by uneven cooling with a colder core, in step with its two halves', async () => {
    const part = openBox(0.06, 0.04, 0.02, 0.002);
    const inputs = { ...inputsWith([0, 0, 0], {}), cooling: channelsAround(part) };
    const hot = await run(part, inputs);
    const colder = await run(part, tried(hot, 'colder-half'));
    const apart = ({ outcome }: Run) => outcome.summary.cool?.difference_K.middle ?? NaN;
    expect(hot.outcome.summary.cool?.halves_K?.upper).toBeGreaterThan(310);
    const nearer = apart(colder) / apart(hot);
    expect(nearer).toBeLessThan(0.8);
    expect(Math.abs(byCooling(colder) / byCooling(hot) - nearer)).toBeLessThan(0.1);
  });
});
