import { beforeAll, describe, expect, it } from 'vitest';
import { few } from '../../../verification/extent';
import { memoryStore } from '../../../verification/memoryStore';
import { box } from '../../../verification/shapes';
import { turnOf } from '../../../verification/storm/parts';
import { blockOf } from '../cooling/block';
import { DEFAULT_PLAN, layOutChannels, withLayout } from '../cooling/layout';
import type { PhaseStore } from '../formats/phaseStore';
import { packTree } from '../formats/tree';
import { boundsOf, mapVertices, type TriangleMesh } from '../geometry/mesh';
import { defaultCooling } from '../model/cooling';
import { emptyInputs, type Inputs } from '../model/study';
import { coolMemory } from '../solvers/cool/stage';
import { plainContext } from '../stage/context';
import { makeGrid } from './grids';
import { settleMould, type Mould } from './mould';
import { resolve } from './resolve';

/** Channels above and below a box, in a block of their own. */
function cooled(mesh: TriangleMesh, patch: Partial<Inputs> = {}): Inputs {
  const part = boundsOf(mesh.positions);
  const plain = defaultCooling();
  const plan = DEFAULT_PLAN(part);
  const block = blockOf(plain, part, []);
  const cooling = withLayout(plain, plan, layOutChannels(plan, mesh, part, block, plain.supplies[0].id));
  const gates = [{ id: 'G1', position: [...mesh.positions.slice(0, 3)] as [number, number, number], diameter: 0.002 }];
  return { ...emptyInputs('box'), gates, cooling, detail: 'quick', ...patch };
}

const drawn = box(0.04, 0.02, 0.002);
const bytesOf = ({ result, source }: Mould) => packTree([coolMemory(result), source.memory]);
const same = (a: Mould, b: Mould) => expect(Buffer.compare(bytesOf(a), bytesOf(b))).toBe(0);

const LIES: readonly [string, TriangleMesh][] = [
  ['turned', mapVertices(drawn, turnOf(2).apply)],
  ['as drawn', drawn],
];

describe.each(few(LIES, 1))('a mould that is kept, %s', (_, mesh) => {
  const { kept, store } = memoryStore();
  const settle = async (inputs: Inputs, from?: PhaseStore): Promise<Mould> => {
    const run = resolve(mesh, inputs);
    const grid = await makeGrid(mesh, 'box', inputs, plainContext());
    if ('message' in grid) throw new Error(grid.message);
    const outcome = await settleMould(run, grid, new Map(), plainContext(), from);
    if (outcome.status === 'failed') throw new Error(outcome.message);
    return outcome.mould;
  };
  const inputs = cooled(mesh);
  let fresh: Mould;
  let stored: Mould;
  beforeAll(async () => {
    fresh = await settle(inputs);
    await settle(inputs, store);
    stored = await settle(inputs, store);
  });

  it('is the one that was settled, to the bit', () => {
    expect([fresh.reused, stored.reused]).toEqual([false, true]);
    expect(fresh.result.converged).toBe(true);
    expect(fresh.result.balance.toCoolant).toBeGreaterThan(0);
    same(stored, fresh);
  });

  it('goes on as that would when the shot tells how long it takes', async () => {
    const longer = fresh.source.ejectableAt.map((t) => 1.3 * t);
    const moved = await fresh.resettle(longer, plainContext());
    expect(await stored.resettle(longer, plainContext())).toBe(moved);
    same(stored, fresh);
    const again = await settle(inputs, store);
    expect(await again.resettle(longer, plainContext())).toBe(moved);
    same(again, fresh);
  });

  it('is settled anew when something that it reads has changed, and not otherwise', async () => {
    const { cooling, cycle } = inputs;
    const [supply] = cooling!.supplies;
    const warmer = { ...cooling!, supplies: [{ ...supply, temperature: supply.temperature + 10 }] };
    expect((await settle({ ...inputs, cooling: warmer }, store)).reused).toBe(false);
    expect((await settle({ ...inputs, cycle: { ...cycle, pressureLimit: 5e7 } }, store)).reused).toBe(true);
    expect((await settle({ ...inputs, cycle: { ...cycle, coolingTime: 9 } }, store)).reused).toBe(false);
  });

  it('is settled anew when what was kept can not be read', async () => {
    for (const key of kept.keys()) kept.set(key, Uint8Array.of(1, 2, 3));
    expect((await settle(inputs, store)).reused).toBe(false);
  });
});
