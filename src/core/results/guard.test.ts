import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { joined } from '../geometry/shells';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { buildFineGrid } from '../grid/grid';
import { latticeOver } from '../grid/lattice';
import { buildPressureGrid } from '../grid/pressureGrid';
import { emptyInputs, type Inputs } from '../model/study';
import { runPipeline } from '../pipeline/pipeline';
import { plainContext } from '../stage/context';
import { failed, guardFill, guardGrid, guardPack, guardShape } from './guard';
import { upper, type ShapeFacts } from './shape';

const plate = box(0.05, 0.02, 0.002);
const inputs: Inputs = {
  ...emptyInputs('plate'),
  gates: [{ id: 'G1', position: [0.01, 0, 0.001], diameter: 0.002 }],
  detail: 'quick',
  upTo: 'pack',
};

const sound = async () => {
  const outcome = await runPipeline(plate, 'plate', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled' || !outcome.pack) throw new Error(outcome.status);
  return { ...outcome, pack: outcome.pack };
};

describe('a result against itself', () => {
  it('a plain run breaks no bound', async () => {
    expect((await sound()).breaches).toEqual([]);
  });

  it('a value that is none is found with its place, and no answer stays good', async () => {
    const { fill, settings, gridResult, answers } = await sound();
    const { grid } = gridResult;
    fill.frames.node.temperature[fill.frames.node.temperature.length - 1][17] = NaN;
    const found = guardFill(grid, { status: 'filled', result: fill }, settings);
    expect(found.map((b) => b.rule)).toContain('finite');
    const { place } = found.find((b) => b.rule === 'finite')!;
    expect(place?.[0]).toBeCloseTo(grid.centroid[3 * 17], 9);
    for (const answer of failed(answers, found)) {
      expect(answer.verdict).toBe('problem');
      expect(answer.why[0]).toContain('no numbers');
      expect(answer.try).toEqual([]);
    }
  });

  it('mass, pressure, temperature and settling of the filling', async () => {
    const { fill, settings, gridResult } = await sound();
    const rules = (patch: object) =>
      guardFill(gridResult.grid, { status: 'filled', result: { ...fill, ...patch } }, settings).map((b) => b.rule);
    expect(rules({ massError: 1e-5 })).toEqual(['fillMass']);
    expect(rules({ unsettled: 2 })).toEqual(['fillSettled']);
    const pressure = fill.frames.node.pressure.map((p) => p.map((x) => 3 * x));
    expect(rules({ frames: { ...fill.frames, node: { ...fill.frames.node, pressure } } })).toEqual(['fillPressure']);
    const temperature = fill.frames.node.temperature.map((T) => T.map((x) => x + 300));
    expect(rules({ frames: { ...fill.frames, node: { ...fill.frames.node, temperature } } })).toEqual([
      'fillTemperature',
    ]);
  });

  it('mass, heat, pressure and shrinkage of packing; the shape rests on it, the filling does not', async () => {
    const { pack, settings, gridResult, answers } = await sound();
    const breaches = (patch: object) => guardPack(gridResult.grid, { ...pack, ...patch }, settings);
    const rules = (patch: object) => breaches(patch).map((b) => b.rule);
    expect(rules({ massError: 0.01 })).toEqual(['packMass']);
    expect(rules({ heatError: -0.2 })).toEqual(['packHeat']);
    expect(rules({ mass: NaN })).toEqual(['finite']);
    expect(rules({ node: { ...pack.node, shrinkage: pack.node.shrinkage.map(() => 4.8) } })).toEqual(['shrinkage']);
    const spike = { course: { ...pack.course, highestPressure: [2e9] } };
    expect(rules(spike)).toEqual(['packPressure']);
    const judged = failed(answers, breaches(spike));
    expect(judged.find((a) => a.id === 'will-it-fill')?.verdict).toBe(answers[0].verdict);
    expect(judged.find((a) => a.id === 'does-it-pack-out')?.verdict).toBe('problem');
  });

  it('a grid that holds less than the surface encloses, as where bodies overlap', () => {
    const both = joined([plate, mapVertices(plate, ([x, y, z]) => [x + 0.02, y, z])]);
    const fine = buildFineGrid(both, latticeOver(both, 0.0012));
    const [breach] = guardGrid(both, fine, buildPressureGrid(fine));
    expect(breach.rule).toBe('gridVolume');
    // 30 % is enclosed twice; cells that the surface cuts show less of it.
    expect(breach.value).toBeGreaterThan(0.2);
    expect(breach.value).toBeLessThan(0.3);
  });
});

describe('a shape against itself', () => {
  const facts = {
    largest_m: 2e-4,
    place_m: [0, 0, 0],
    skinStress_Pa: 2e7,
    stressPlace_m: [1, 0, 0],
  } as unknown as ShapeFacts;
  const whole = { residual: 1e-5, structurePieces: [{ volume: 1e-6, place: [0, 0, 0] as Vec3 }] };
  const bounds = { pieces: 1, size: 0.1, young: 2e9 };
  const rules = (f: Partial<ShapeFacts>, r: Partial<typeof whole> = {}, b: Partial<typeof bounds> = {}) =>
    guardShape({ ...facts, ...f }, { ...whole, ...r }, { ...bounds, ...b }).map((x) => x.rule);

  it('a plain one breaks no bound, and two loose pieces are two where the part has two', () => {
    expect(rules({})).toEqual([]);
    const two = { structurePieces: [...whole.structurePieces, { volume: 1e-8, place: [0.03, 0, 0] as Vec3 }] };
    expect(rules({}, two, { pieces: 2 })).toEqual([]);
    const [torn] = guardShape(facts, { ...whole, ...two }, bounds);
    expect(torn.rule).toBe('shapePieces');
    expect(torn.place).toEqual([0.03, 0, 0]);
  });

  it('size, stress, balance and values that are none', () => {
    expect(rules({ largest_m: 0.021 })).toEqual(['shapeSize']);
    expect(rules({ skinStress_Pa: 2.1e8 })).toEqual(['shapeStress']);
    expect(rules({}, { residual: 0.01 })).toEqual(['shapeSettled']);
    expect(rules({ largest_m: NaN })).toEqual(['finite']);
    for (const breach of guardShape({ ...facts, largest_m: NaN }, whole, bounds)) expect(breach.stage).toBe('shape');
  });
});

describe('what a share of the surface reaches', () => {
  it('is not made by one place, and weighs by area', () => {
    const values = Float32Array.from({ length: 1000 }, (_, i) => (i === 500 ? 100 : i / 1000));
    const areas = new Float64Array(1000).fill(1);
    expect(upper(values, areas, 0.01).value).toBeCloseTo(0.99, 2);
    areas[500] = 20;
    expect(upper(values, areas, 0.01)).toEqual({ value: 100, at: 500 });
    expect(upper([NaN, NaN], [1, 1], 0.01)).toEqual({ value: 0, at: -1 });
  });
});
