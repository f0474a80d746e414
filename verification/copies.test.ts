import { describe, expect, it } from 'vitest';
import { mapVertices } from '../src/core/geometry/mesh';
import type { CavityLayout } from '../src/core/model/cavityLayout';
import { defaultFeed } from '../src/core/model/feed';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { solvedOnce } from '../src/core/setup/feedOf';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/stage/context';
import { relative } from './run';
import { box } from './shapes';

/** A small plate, 12 mm from the sprue, and three copies around it. */
const plate = mapVertices(box(0.04, 0.02, 0.002), ([x, y, z]) => [x + 0.012, y, z]);
const tool = (places: CavityLayout['places'], solveOnce: boolean): Inputs => {
  const base = emptyInputs('plate');
  return {
    ...base,
    detail: 'quick',
    gates: [{ id: 'G1', position: [0.016, 0, -0.001], diameter: 0.002 }],
    cavities: { middle: [0.032, 0], places, solveOnce },
    feed: { ...defaultFeed(0.002, -0.012, false), at: [0, 0] },
    cycle: { ...base.cycle, injection: { by: 'time', time: 1.2 } },
  };
};
const run = async (inputs: Inputs) => {
  const outcome = await runPipeline(plate, 'plate', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled') throw new Error(JSON.stringify(outcome).slice(0, 400));
  return outcome.summary;
};

describe('copies of a cavity', () => {
  it('four around the sprue: one solved for all gives what all give', async () => {
    const circle: CavityLayout['places'] = { by: 'circle', count: 4, centre: [0, 0] };
    expect(solvedOnce(tool(circle, true))).toBe(true);
    const [one, all] = [await run(tool(circle, true)), await run(tool(circle, false))];
    expect(one.nCavities).toBe(4);
    expect(all.gateShares).toHaveLength(4);
    // Quarter turns lie on the same lattice but for where it starts.
    expect(Math.abs(relative(one.fillTime_s, all.fillTime_s))).toBeLessThan(0.02);
    expect(Math.abs(relative(one.pressureNeeded_Pa, all.pressureNeeded_Pa))).toBeLessThan(0.04);
    expect(Math.abs(relative(one.shotMass_kg, all.shotMass_kg))).toBeLessThan(2e-3);
    expect(Math.abs(relative(one.clampForce_N, all.clampForce_N))).toBeLessThan(0.06);
    expect(Math.abs(relative(one.projectedArea_m2, all.projectedArea_m2))).toBeLessThan(0.01);
    for (const { share } of all.gateShares) expect(Math.abs(share - 0.25)).toBeLessThan(0.01);
    expect(one.massError).toBeLessThan(1e-9);
  });

  it('a row is not fed alike by a star: all are solved, and the far ones fill last', async () => {
    const row: CavityLayout['places'] = { by: 'row', columns: 1, rows: 3, pitch: [0.05, 0.03], facing: false };
    const inputs = tool(row, true);
    expect(solvedOnce(inputs)).toBe(false);
    const summary = await run(inputs);
    expect(summary.nCavities).toBe(1);
    expect(summary.gateShares.map((g) => g.gate)).toEqual(['G1', 'G1.2', 'G1.3']);
    expect(summary.partVolume_m3).toBeCloseTo(3 * 0.04 * 0.02 * 0.002, 9);
  });
});
