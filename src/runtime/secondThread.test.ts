import { setTimeout as pause } from 'node:timers/promises';
import { describe, expect, it } from 'vitest';
import { standInMesh } from '../core/model/standIn';
import { buildStructureGrid } from '../core/grid/structureGrid';
import { plainContext, type SecondThread } from '../core/stage/context';
import { solveElastic, type ElasticInput } from '../core/solvers/warp/elastic';
import { LANES } from '../core/solvers/warp/solid';
import { ElasticKernel } from '../core/solvers/warp/kernel';
import { secondThreadFrom } from './secondThread';

const url = new URL('../../dist/workers/second.worker.mjs', import.meta.url);
/** A thread beside this one, on a machine with one core, too: it takes turns there. */
function started(): SecondThread {
  const second = secondThreadFrom(url, 2);
  if (!second) throw new Error('no second thread');
  return second;
}

/** A thread that serves each kernel it is given before the kernel goes on. */
async function served(second: SecondThread): Promise<ElasticKernel> {
  const kernel = new ElasticKernel(second);
  for (let waited = 0; !kernel.isServed && waited < 10_000; waited += 5) await pause(5);
  return kernel;
}

const box = standInMesh({
  shape: 'box',
  centre: [0.015, 0.01, 0.001],
  axes: [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  size: [0.03, 0.02, 0.002],
});
const plate: ElasticInput = {
  grid: buildStructureGrid([box], 0.002),
  solids: [{ young: 2e9, poisson: 0.38 }],
  supports: [],
  strainAt: (x, y, z, _body, out) => {
    out.fill(0);
    const e = [-0.01, -0.01 * x, -0.1 * z, -0.3 * x * y];
    for (let k = 0; k < 3; k++) for (let lane = 0; lane < LANES; lane++) out[LANES * k + lane] = e[lane];
  },
};

describe('the second thread', () => {
  it('is not asked for where there is one core', () => expect(secondThreadFrom(url, 1)).toBeNull());

  it('runs a loop beside the same loop here, in the same memory', async () => {
    const second = started();
    const kernel = await served(second);
    expect(kernel.isServed).toBe(true);
    const n = 400_000;
    const [a, b] = [kernel.allocate(32 * n), kernel.allocate(32 * n)];
    const [here, there] = [kernel.allocate(32), kernel.allocate(32)];
    kernel.f64(a, 4 * n).forEach((_, i, all) => (all[i] = i % 7));
    kernel.f64(b, 4 * n).fill(2);
    const half = n / 2;
    kernel.both('dot', [a, b, half, here], [a + 32 * half, b + 32 * half, half, there]);
    second.end();
    const expected = [0, 1, 2, 3].map((lane) => {
      let sum = 0;
      for (let i = 0; i < n; i++) sum += 2 * ((4 * i + lane) % 7);
      return sum;
    });
    const got = [...kernel.f64(here, 4)].map((v, l) => v + kernel.f64(there, 4)[l]);
    expect(got).toEqual(expected);
  });

  it('returns what a loop returns, and hears of one that fails', async () => {
    const second = started();
    const kernel = await served(second);
    // No elements: nothing is factored, nothing fails.
    kernel.start('factorBlocks', 0, 0, 0, 0, 0, 0, 0, 0, 0);
    expect(kernel.wait()).toBe(-1);
    kernel.start('dot', 0xfffffff0, 0xfffffff0, 4, 0xfffffff0);
    expect(() => kernel.wait()).toThrow('failed in the second thread');
    second.end();
  });

  it.each(['direct', 'iterative'] as const)('changes nothing of a shape, %s', async (method) => {
    const alone = await solveElastic({ ...plate, method }, plainContext());
    let asked = 0;
    let ended = 0;
    const context = plainContext(undefined, undefined, () => {
      asked++;
      const second = started();
      return { ...second, end: () => (ended++, second.end()) };
    });
    const beside = await solveElastic({ ...plate, method }, context);
    expect([asked, ended]).toEqual([1, 1]);
    expect(beside.iterations).toBe(alone.iterations);
    expect(beside.displacement).toEqual(alone.displacement);
  });
});
