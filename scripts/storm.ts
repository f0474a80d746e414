/**
 * `npm run storm [parts] [first seed] [detail] [threads] [objects]`: random parts as drawn, turned and mirrored with their tool,
 * each through grid, filling, packing and shape. Prints every failure with its seed; exit code 1 when there is one.
 */
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import type { Detail } from '../src/core/grid/lattice';
import { stormCase, stormFigures, type StormCase, type StormOptions } from '../verification/storm/storm';

/** Largest difference between a part and its turned or mirrored self that is let pass. */
const TOLERANCE: Record<Detail, number> = { quick: 0.03, normal: 0.02, fine: 0.02 };
const percent = (x: number) => `${(100 * x).toFixed(2)} %`;

function report(c: StormCase): void {
  const pressure = c.runs.map((r) => r.pressure.map((p) => (p / 1e6).toFixed(2)).join('–')).join(' / ');
  const said = c.failures.length ? `\n    ${c.failures.join('\n    ')}` : '';
  console.log(
    `${String(c.seed).padStart(4)} ${c.kind.padEnd(18)} ${(1e3 * c.wall).toFixed(2).padStart(5)} mm  ` +
      `${pressure} MPa  ${c.runs.map((r) => (1e3 * r.deviation).toFixed(3)).join(' / ')} mm  ${c.runs.map((r) => r.status).join(' ')}  ${percent(Math.max(...c.runs.map((r) => r.heat)))} ${c.seconds.toFixed(1)} s${said}`,
  );
}

async function main(): Promise<void> {
  const [parts = '300', first = '1', detail = 'quick', threads = '2', what] = process.argv.slice(2);
  if (!(detail in TOLERANCE)) throw new Error(`Detail is quick, normal or fine, not ${detail}.`);
  const seeds = Array.from({ length: Number(parts) }, (_, k) => Number(first) + k);
  const options: StormOptions = {
    detail: detail as Detail,
    tolerance: TOLERANCE[detail as Detail],
    shape: true,
    objects: what === 'objects',
  };
  const cases: StormCase[] = [];
  const worker = () =>
    new Promise<void>((done, fail) => {
      const thread = new Worker(new URL(import.meta.url), { workerData: options });
      const send = () => {
        const seed = seeds.shift();
        if (seed === undefined) void thread.terminate().then(() => done());
        else thread.postMessage(seed);
      };
      thread.on('message', (c: StormCase) => {
        cases.push(c);
        report(c);
        send();
      });
      thread.on('error', fail);
      send();
    });
  await Promise.all(Array.from({ length: Number(threads) }, worker));
  const { sound, pressure, weight, deviation, turnedDeviation, heat, halvings, beforeEnds } = stormFigures(cases);
  console.log(
    `\n${sound} of ${cases.length} parts sound; pressure of the pairs ${percent(pressure.rms)} rms, ${percent(pressure.largest)} at most; ` +
      `weight ${percent(weight.rms)} rms, ${percent(weight.largest)} at most; ` +
      `deviation of the shape ${percent(deviation.rms)} rms, ${percent(deviation.largest)} at most, of turned against mirrored ${percent(turnedDeviation)} rms; pressure before the ends close ${percent(beforeEnds)} rms; ` +
      `heat off by ${percent(heat)} at most; ${halvings} steps halved`,
  );
  const failed = cases.filter((c) => c.failures.length).map((c) => c.seed);
  if (failed.length) console.log(`Failing seeds: ${failed.sort((a, b) => a - b).join(', ')}`);
  process.exitCode = failed.length ? 1 : 0;
}

if (isMainThread) await main();
else {
  const port = parentPort;
  port?.on('message', async (seed: number) => port.postMessage(await stormCase(seed, workerData as StormOptions)));
}
