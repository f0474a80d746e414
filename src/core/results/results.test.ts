import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { checkEdges } from '../geometry/check';
import { mapVertices, measure, weld } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { packArrays, unpackArrays } from '../formats/arrays';
import { base64, writeVtu } from '../formats/vtu';
import { historyCsv } from './historyCsv';
import { emptyInputs, type Inputs } from '../model/study';
import { runPipeline } from '../pipeline/pipeline';
import { plainContext } from '../stage/context';
import { surfaceMap, WEIGHTS } from '../grid/surfaceMap';

const mesh = box(0.08, 0.03, 0.002);
const inputs: Inputs = {
  ...emptyInputs('plate'),
  gates: [{ id: 'G1', position: [0.004, 0, 0.001], diameter: 0.002 }],
  detail: 'quick',
  // What is asked of here is told by the filling.
  upTo: 'fill',
};
const run = async (patch: Partial<Inputs> = {}) => {
  const outcome = await runPipeline(mesh, 'plate', { ...inputs, ...patch }, plainContext());
  if (outcome.status !== 'filled' && outcome.status !== 'stalled') throw new Error(outcome.status);
  return outcome;
};

describe('pipeline and answer', () => {
  it('a plate with a gate at one end fills last at the other', async () => {
    const { summary, answers, gridResult } = await run();
    expect(summary.status).toBe('filled');
    expect(summary.lastPlace_m[0]).toBeGreaterThan(0.07);
    expect(Math.abs(summary.lastPlace_m[1])).toBeGreaterThan(0.01);
    // From the gate to the far corner and not much farther.
    const straight = Math.hypot(0.076, 0.015);
    expect(summary.flowLength_m).toBeGreaterThan(0.9 * straight);
    expect(summary.flowLength_m).toBeLessThan(1.25 * straight);
    expect(summary.partVolume_m3).toBeCloseTo(measure(mesh).volume, 12);
    expect(answers[0].verdict).toBe('good');
    expect(gridResult.gridKey).toBe('plate-quick');
  });

  it('a weak machine gives a short shot, with the changes to try', async () => {
    const { summary, answers } = await run({ cycle: { ...inputs.cycle, pressureLimit: 3e5 } });
    expect(summary.status).toBe('stalled');
    expect(summary.emptyVolume_m3).toBeGreaterThan(0);
    const [answer] = answers;
    expect(answer.verdict).toBe('problem');
    const second = answer.try.find((t) => t.id === 'second-gate');
    expect(second?.inputs.gates).toHaveLength(2);
    expect(second?.inputs.gates[1].position[0]).toBeGreaterThan(0.04);
    // What it offers can be run as it is.
    const after = await run({ ...second?.inputs });
    expect(after.summary.shareFilled).toBeGreaterThan(summary.shareFilled);
  });

  it('the limit decides between good, watch and problem', async () => {
    const { summary } = await run();
    const tight = await run({ cycle: { ...inputs.cycle, pressureLimit: 1.1 * summary.pressureNeeded_Pa } });
    expect(tight.answers[0].verdict).toBe('watch');
  });

  it('a body that no gate reaches is told, with its place', async () => {
    const soup: number[] = [];
    const other = mapVertices(mesh, ([x, y, z]) => [x, y, z + 0.03]);
    for (const m of [mesh, other]) for (const v of m.triangles) soup.push(...m.positions.slice(3 * v, 3 * v + 3));
    const outcome = await runPipeline(weld(soup).mesh, 'two', inputs, plainContext());
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    const [answer] = outcome.answers;
    expect(outcome.summary.unreachableVolume_m3).toBeCloseTo(measure(mesh).volume, 9);
    expect(outcome.summary.shareFilled).toBeCloseTo(0.5, 6);
    expect([answer.verdict, answer.headline]).toEqual(['problem', 'The melt cannot reach the whole part.']);
    expect(answer.where?.position[2]).toBeGreaterThan(0.02);
    // The gate it offers makes the other body fill.
    const again = await runPipeline(weld(soup).mesh, 'two', answer.try[0].inputs, plainContext());
    expect(again.status === 'filled' && again.summary.unreachableVolume_m3).toBe(0);
  });

  it('a fin thinner than a cell is told, with its place', async () => {
    // The block, 8 mm thick, sets the cells; the fin beside it, 0.3 mm thick, holds few of their centres.
    const soup: number[] = [];
    const fin = mapVertices(box(0.03, 0.0003, 0.03), ([x, y, z]) => [x + 0.06, y, z]);
    for (const m of [box(0.04, 0.04, 0.008), fin])
      for (const v of m.triangles) soup.push(...m.positions.slice(3 * v, 3 * v + 3));
    const gates = [{ id: 'G1', position: [0.02, 0, 0.004] as [number, number, number], diameter: 0.004 }];
    const outcome = await runPipeline(weld(soup).mesh, 'fin', { ...inputs, gates }, plainContext());
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    expect(outcome.summary.nThinCells).toBeGreaterThan(0);
    const said = /among them near (\d+\.?\d*), /.exec(outcome.answers[0].why.join(' '));
    expect(Number(said?.[1])).toBeGreaterThan(55);
  });

  it('is refused with reasons when something is missing', async () => {
    const outcome = await runPipeline(mesh, 'plate', { ...inputs, gates: [] }, plainContext());
    expect(outcome.status).toBe('refused');
  });
});

describe('drawing surface', () => {
  it('refining keeps the surface closed and its area', () => {
    const coarse = disc(0.03, 0.002, 12);
    const dense = refine(coarse, 0.002);
    expect(checkEdges(dense)).toEqual({ nOpen: 0, nNonManifold: 0, nMisoriented: 0 });
    expect(measure(dense).area).toBeCloseTo(measure(coarse).area, 12);
    expect(dense.triangles.length).toBeGreaterThan(20 * coarse.triangles.length);
  });

  it('shows a linear field as it is', async () => {
    const { gridResult } = await run();
    const map = surfaceMap(mesh, gridResult.fine, gridResult.grid);
    const { position } = gridResult.grid;
    for (let v = 0; v < map.positions.length / 3; v++) {
      const x = map.positions[3 * v];
      // Beyond the outermost centres a mean cannot reach.
      if (x < 0.004 || x > 0.076) continue;
      let sum = 0;
      let total = 0;
      for (let s = WEIGHTS * v; s < WEIGHTS * (v + 1); s++) {
        sum += map.weights[s] * position[3 * map.nodes[s]];
        total += map.weights[s];
      }
      // Weights are bytes, each rounded to 1/255 of a block.
      expect(Math.abs(sum / total - x)).toBeLessThan(0.03 * gridResult.grid.spacing);
    }
  });
});

describe('files', () => {
  it('arrays come back by name', () => {
    const packed = packArrays({ a: 1 }, { x: Float32Array.of(1, 2, 3), i: Int32Array.of(-7) });
    const { meta, arrays } = unpackArrays(packed.buffer as ArrayBuffer);
    expect(meta).toEqual({ a: 1 });
    expect([...arrays.x]).toEqual([1, 2, 3]);
    expect([...arrays.i]).toEqual([-7]);
  });

  it('base64 of any length', () => {
    for (const n of [0, 1, 2, 3, 30_000, 30_001, 65_537]) {
      const bytes = Uint8Array.from({ length: n }, (_, i) => i % 251);
      expect(base64(bytes)).toBe(Buffer.from(bytes).toString('base64'));
    }
  });

  it('VTU: counts, and the data decode to what was computed', async () => {
    const { gridResult, fields, history } = await run();
    const text = writeVtu(gridResult.fine, gridResult.grid, fields);
    const nCells = Number(/NumberOfCells="(\d+)"/.exec(text)?.[1]);
    const array = (name: string) => {
      const match = new RegExp(`Name="${name}"[^>]*>([^<]*)<`).exec(text);
      const bytes = Buffer.from(match?.[1] ?? '', 'base64');
      expect(bytes.readUInt32LE(0)).toBe(bytes.length - 4);
      return bytes.subarray(4);
    };
    expect(array('types').length).toBe(nCells);
    expect(array('connectivity').length).toBe(nCells * 32);
    const times = new Float32Array(new Uint8Array(array('fillTime_s')).buffer);
    expect(times).toHaveLength(nCells);
    expect(Math.max(...times)).toBeLessThanOrEqual(history.time[history.time.length - 1] + 1e-6);
    const csv = historyCsv(history, ['G1']).trim().split('\n');
    expect(csv).toHaveLength(history.time.length + 1);
    expect(csv[0]).toBe(
      'time_s,pressure_MPa,nozzlePressure_MPa,flowRate_cm3_s,shareFilled,clampForce_kN,phase,flow_G1_cm3_s',
    );
    expect(csv[20].split(',')[6]).toBe('injection');
    // A vector and a profile carry their components.
    expect(array('velocity_m_s').length).toBe(nCells * 12);
    expect(array('profile_K').length).toBe(nCells * 36);
  });
});
