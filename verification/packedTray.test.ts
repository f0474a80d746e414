import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { readStl } from '@/core/formats/stl';
import { weld } from '@/core/geometry/mesh';
import { emptyInputs } from '@/core/model/study';
import { runPipeline } from '@/core/pipeline/pipeline';
import { plainContext } from '@/core/stage/context';
import { ALL } from './extent';

/**
 * A whole cycle of the sample tray in the long steps of Detail quick, with walls of two temperatures: places lose
 * their pressure and get it back, ways close while melt still comes. What must hold then: nothing is pressed harder
 * than the machine presses, nothing gets hotter than the melt, and the balances close.
 */
it.runIf(ALL)('no place is overfilled or overheated in long steps', async () => {
  const soup = readStl(readFileSync(new URL('../samples/feeder-tray.stl', import.meta.url)));
  const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));
  const plain = emptyInputs('tray');
  const outcome = await runPipeline(
    mesh,
    'tray',
    {
      ...plain,
      gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.002 }],
      cycle: { ...plain.cycle, mouldTemperature: 308.15, lowerMouldTemperature: 318.15 },
      detail: 'quick',
      upTo: 'pack',
    },
    plainContext(),
    { gridError: false },
  );
  if (outcome.status !== 'filled' || !outcome.pack) throw new Error(outcome.status);
  const { pack, history, settings, fields } = outcome;
  const pressed = Math.max(...history.nozzlePressure.filter((_, k) => history.phase[k] === 'packing'));
  // The last drops of the filling have put a few places under more than the packing pressure; they relax to it.
  expect(Math.max(...pack.course.highestPressure.slice(3))).toBeLessThan(1.3 * pressed);
  // The gate is as thick as its wall: what is left there has waited a tenth of the cycle, no more.
  expect(pack.pressureAtOpening).toBeLessThan(0.4 * pressed);
  const temperature = fields.find((f) => f.id === 'profile');
  expect(temperature?.range[1]).toBeLessThan(settings.meltTemperature + 25);
  expect(temperature?.range[0]).toBeGreaterThan(305);
  expect(pack.massError).toBeLessThan(1e-6);
  expect(pack.heatError).toBeLessThan(0.01);
});
