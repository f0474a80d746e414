import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { NodeReader, type ReadableGrid } from '../src/core/grid/nodeReader';
import { PointMapper } from '../src/core/grid/surfaceMap';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/stage/context';
import { ALL } from './extent';

const soup = readStl(readFileSync(new URL('../samples/feeder-tray.stl', import.meta.url)));
const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));

async function filled(detail: Inputs['detail']) {
  const inputs: Inputs = {
    ...emptyInputs('tray'),
    resin: 'pp-hollin-h14',
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 }],
    detail,
    upTo: 'fill',
  };
  // The error is stated by the finer one, which runs the coarser one for it.
  const outcome = await runPipeline(mesh, 'tray', inputs, plainContext(), { gridError: detail !== 'quick' });
  if (outcome.status !== 'filled') throw new Error(outcome.status);
  const { fine, grid } = outcome.gridResult;
  const readable: ReadableGrid = { nNodes: grid.n, mapper: new PointMapper(fine, grid), centroid: grid.centroid };
  const values = (id: string) => outcome.fields.find((f) => f.id === id)!;
  return { outcome, grid, readable, values };
}

/** Share of the volume where the two differ by no more than `within`. */
function shareWithin(volume: ArrayLike<number>, a: ArrayLike<number>, b: ArrayLike<number>, within: number): number {
  let [near, all] = [0, 0];
  for (let i = 0; i < a.length; i++) {
    if (a[i] !== a[i] || b[i] !== b[i]) continue;
    all += volume[i];
    if (Math.abs(a[i] - b[i]) <= within) near += volume[i];
  }
  return near / all;
}

describe('the sample tray at quick and at normal', () => {
  it.runIf(ALL)('fields differ by no more than the stated error of the grid nearly everywhere', async () => {
    const [quick, normal] = [await filled('quick'), await filled('normal')];
    const error = normal.outcome.gridError!.numbers.find((n) => n.id === 'pressureNeeded_Pa')!;
    const reader = NodeReader.on(quick.readable, normal.readable.centroid);
    const { summary } = normal.outcome;
    const last = ({ values }: typeof quick, id: string) => {
      const { data, times } = values(id);
      const n = data.length / Math.max(1, times.length);
      return data.subarray(data.length - n);
    };
    // The whole drop from gate to front is off by its error at most; when a place is reached has none stated: 3 %.
    for (const [id, within] of [
      ['fillTime', 0.03 * summary.fillTime_s],
      ['pressure', error.error],
    ] as const) {
      const there = reader.read(last(quick, id));
      expect(shareWithin(normal.grid.volume, last(normal, id), there, within), id).toBeGreaterThan(0.98);
    }
    // Read on its own grid a field is itself.
    const own = NodeReader.on(normal.readable, normal.readable.centroid).read(last(normal, 'fillTime'));
    expect(shareWithin(normal.grid.volume, last(normal, 'fillTime'), own, 0.01 * summary.fillTime_s)).toBeGreaterThan(
      0.97,
    );
  });
});
