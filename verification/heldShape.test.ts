import { beforeAll, describe, expect, it } from 'vitest';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import type { Packing } from '../src/core/model/packing';
import { DEFAULT_WARPAGE, type HoldChoice } from '../src/core/model/warpage';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { plainContext } from '../src/core/stage/context';
import { box } from './shapes';
import { openBox, TURNS } from './solids';

async function run(mesh: TriangleMesh, gate: Vec3, cycle: Partial<Inputs['cycle']>, hold: HoldChoice = 'tool') {
  const base = emptyInputs('held');
  const inputs: Inputs = {
    ...base,
    gates: [{ id: 'G1', position: gate, diameter: 0.0015 }],
    cycle: { ...base.cycle, ...cycle },
    warpage: { ...DEFAULT_WARPAGE, hold },
    detail: 'quick',
  };
  const outcome = await runPipeline(mesh, 'held', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled' || !outcome.shape || !outcome.pack?.frozen) throw new Error(outcome.status);
  return { outcome, shape: outcome.shape, frozen: outcome.pack.frozen };
}
type Run = Awaited<ReturnType<typeof run>>;

describe('a plate between halves of 40 and 60 °C', () => {
  const plate = box(0.12, 0.06, 0.002);
  /** Let go before the middle has frozen: held by pressure beyond that, it would not end concave on its hot side. */
  const packing: Packing = { by: 'constant', pressure: 6e6, time: 9.5 };
  /** With the gate in the colder face, so that the second case is the first one turned over. */
  const warm = (upper: number, lower: number) =>
    run(plate, [0.06, 0, upper > lower ? -0.001 : 0.001], {
      mouldTemperature: 273.15 + upper,
      lowerMouldTemperature: 273.15 + lower,
      packing,
    });
  let below: Run;
  let above: Run;
  let even: Run;
  beforeAll(async () => {
    [below, above, even] = [await warm(40, 60), await warm(60, 40), await warm(50, 50)];
  }, 180_000);

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
    const held = await run(plate, [0.06, 0, 0.001], {
      mouldTemperature: 273.15 + 40,
      lowerMouldTemperature: 273.15 + 60,
      packing: { by: 'constant', pressure: 4e7, time: null },
    });
    expect(bow(held)).toBeLessThan(0);
    expect(held.shape.facts.meanShrinkage).toBeLessThan(0.8 * below.shape.facts.meanShrinkage);
  });

  it('turns over with the temperatures, and stays straight between equal ones', () => {
    // The grid cuts this wall once between its faces: its two nodes end 3e-5 apart in strain, of 2.8e-2, whatever is warm.
    expect(bow(above) / bow(below)).toBeLessThan(-0.9);
    expect(bow(above) / bow(below)).toBeGreaterThan(-1.1);
    expect(Math.abs(bow(even))).toBeLessThan(0.05 * Math.abs(bow(below)));
  });
});

describe.each(['as drawn', 'turned 30° about x, then 17° about z'])('a box around its core, %s', (how) => {
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

  it('shrinks less along it than upwards; with nothing but pressure to hold it, alike', async () => {
    const held = walls(await run(part, gate, {}));
    const free = walls(await run(part, gate, {}, 'pressure'));
    const all = walls(await run(part, gate, {}, 'ejection'));
    expect(held.up - held.along).toBeGreaterThan(5e-4);
    expect(free.up).toBe(free.along);
    // Upwards the core holds nothing back; along it, it holds as if all were held.
    expect(Math.abs(held.along / all.along - 1)).toBeLessThan(0.08);
    expect(held.up).toBeGreaterThan(free.up - 1e-3);
  }, 120_000);
});
