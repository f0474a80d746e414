import { Worker } from 'node:worker_threads';
import { resolve } from '../setup/resolve';
import { build } from 'esbuild';
import { describe, expect, it } from 'vitest';
import { memoryStore } from '../../../verification/memoryStore';
import { ALL } from '../../../verification/extent';
import { box, ORIENTATIONS } from '../../../verification/shapes';
import { packTree, unpackTree } from '../formats/tree';
import { closestPoint } from '../geometry/closestPoint';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { toolOnGrid } from '../grid/tool';
import { defaultFeed } from '../model/feed';
import { CYCLE_NUMBER_IDS, CYCLE_NUMBERS } from '../model/parameters';
import { cavityBody, emptyInputs, type Inputs } from '../model/study';
import { runFill } from '../solvers/fill/stage';
import type { PackInput } from '../solvers/pack/outcome';
import { pack } from '../solvers/pack/stage';
import type { Observer, Sight } from '../solvers/shot/phase';
import { emptyState, type ShotState } from '../solvers/shot/state';
import { makeGrid } from '../setup/grids';
import type { PhaseStore } from '../formats/phaseStore';
import { runProcess, type PhaseStep, type Stand } from './process';
import { knownOf } from '../setup/settings';
import { shotPlan } from './shot';
import { packInputOf, fillInputOf, placeFeed, type ShotInput } from './shotInput';
import { plainContext } from '../stage/context';

const turn = Object.values(ORIENTATIONS)[2];
const mesh = mapVertices(box(0.03, 0.016, 0.002), turn);
const gate = closestPoint(mesh, turn([0.004, 0, 0.001]));

const twoGates = (x: number, k: number) => ({
  id: `G${k + 1}`,
  position: closestPoint(mesh, turn([0.004 + x, 0, 0.001])).point as Vec3,
  diameter: 0.0015,
});

/** A small plate, turned, through a cold runner or straight from the machine. */
async function shotOf(change: Partial<Inputs> = {}): Promise<ShotInput> {
  const inputs: Inputs = {
    ...emptyInputs(),
    bodies: [cavityBody('plate')],
    gates: [{ id: 'G1', position: gate.point, diameter: 0.0015 }],
    detail: 'quick',
    ...change,
  };
  const gridResult = await makeGrid(mesh, 'plate', inputs, plainContext());
  if ('message' in gridResult) throw new Error(gridResult.message);
  const { fine, grid } = gridResult;
  const opening = turn([0, 0, 1]);
  return {
    gridResult,
    tool: toolOnGrid(mesh, fine, grid, { opening, partingHeight: null }, { halves: false, growth: false }),
    surfaces: inputs.gates.map((g) => closestPoint(mesh, g.position)),
    ...resolve(mesh, inputs),
    walls: null,
    open: null,
    steel: null,
    behind: null,
    transfer: null,
  };
}

const withPacking = (pressure: number): Partial<Inputs> => ({
  cycle: { ...emptyInputs().cycle, packing: { by: 'constant' as const, pressure, time: 2 } },
});

async function through(shot: ShotInput, store?: PhaseStore, between: PhaseStep[] = [], observers: Observer[] = []) {
  const placed = placeFeed(shot);
  const phases = shotPlan(shot, placed).phases.slice();
  phases.splice(2, 0, ...between);
  const start: Stand = { state: emptyState(placed.joined.grid, placed.joined.gating), found: {} };
  const ctx = { ...plainContext(), observers };
  const outcome = await runProcess([{ phases }], start, ctx, { version: 'test', store });
  if (outcome.status === 'failed') throw new Error(outcome.message);
  return outcome;
}

const same = (a: unknown, b: unknown) => expect(Buffer.compare(packTree(a), packTree(b))).toBe(0);

describe('phases of a shot over a stored state', () => {
  const feed = { feed: defaultFeed(0.002, -0.006, false), tool: { ...emptyInputs().tool, opening: turn([0, 0, 1]) } };

  it('a phase that does nothing, put between filling and packing, changes nothing', async () => {
    const shot = await shotOf();
    const rest: PhaseStep = { name: 'rest', stage: 'fill', input: () => ({}), run: (stand) => Promise.resolve(stand) };
    const [plain, rested] = [await through(shot), await through(shot, undefined, [rest])];
    expect(plain.stand.found.pack?.status).toBe('ejected');
    same(rested.stand, plain.stand);
  });

  it.each([
    ['straight from the machine', {}],
    ['through a runner', feed],
  ])('written to bytes and gone on from on another thread: the same bits, %s', async (_, change) => {
    const shot = await shotOf(change);
    const placed = placeFeed(shot);
    const filling = fillInputOf(shot, placed);
    const here = await through(shot);
    const { stand } = await through({ ...shot, inputs: { ...shot.inputs, upTo: 'fill' } });
    const input = packInputOf(shot, filling, placed.joined, stand);
    const before = stand.found.fill?.result;
    const bytes = packTree({ state: stand.state, input: { ...input, before } });
    const found = unpackTree(await onAnotherThread(bytes)) as { state: ShotState };
    same(found.state, here.stand.state);
    expect(found.state.time).toBeGreaterThan(stand.state.time);
  });

  it.each([
    ['straight from the machine', {}],
    ['through a runner', feed],
    ['against air that is shut in', { cycle: { ...emptyInputs().cycle, venting: 'sealed' as const } }],
    ['from two gates', { gates: [0, 0.02].map((x, k) => twoGates(x, k)) }],
  ])('a filling that is stopped at switchover and gone on with is one that was not stopped, %s', async (_, change) => {
    const shot = await shotOf(change);
    const { joined, network } = placeFeed(shot);
    const input = fillInputOf(shot, { joined, network });
    const whole = await runFill(input, plainContext());
    const { stand } = await through({ ...shot, inputs: { ...shot.inputs, upTo: 'fill' } });
    if (whole.status === 'failed') throw new Error(whole.message);
    expect(whole.status).toBe(stand.found.fill?.status);
    same(stand.state, whole.state);
    const { gateShare } = whole.result.node;
    const nGates = shot.inputs.gates.length;
    for (let i = 0; i < joined.nodeOf.length; i++) {
      const shares = gateShare.subarray(i * nGates, (i + 1) * nGates);
      expect(shares.reduce((sum, x) => sum + x, 0)).toBeCloseTo(1, 5);
    }
    const { solves: _s, iterations: _i, ...found } = stand.found.fill!.result;
    const { solves: _t, iterations: _u, ...expected } = whole.result;
    same(found, expected);
  });

  it('a phase leaves the state that it gets as it is', async () => {
    const shot = await shotOf();
    const placed = placeFeed(shot);
    const { stand } = await through({ ...shot, inputs: { ...shot.inputs, upTo: 'fill' } });
    const before = packTree(stand.state);
    const input = packInputOf(shot, fillInputOf(shot, placed), placed.joined, stand) as PackInput;
    await pack(stand.state, input, plainContext());
    expect(Buffer.compare(packTree(stand.state), before)).toBe(0);
  });

  it('those who watch see every step and change none', async () => {
    const shot = await shotOf();
    const seen: Pick<Sight, 'time' | 'machine' | 'shareFilled'>[] = [];
    const watch: Observer = {
      look: ({ time, machine, shareFilled }) => void seen.push({ time, machine, shareFilled }),
    };
    const [plain, watched] = [await through(shot), await through(shot, undefined, [], [watch])];
    same(watched.stand, plain.stand);
    expect(new Set(seen.map((s) => s.machine))).toEqual(new Set(['injection', 'packing', 'cooling', 'open']));
    for (let k = 1; k < seen.length; k++) expect(seen[k].time).toBeGreaterThanOrEqual(seen[k - 1].time);
    expect(seen.at(-1)?.shareFilled).toBe(1);
  });

  it('a state of another grid is refused', async () => {
    const shot = await shotOf();
    const placed = placeFeed(shot);
    const { stand } = await through(shot);
    const state = { ...stand.state, node: { ...stand.state.node, pressure: new Float64Array(3) } };
    const input = packInputOf(shot, fillInputOf(shot, placed), placed.joined, stand) as PackInput;
    await expect(pack(state, input, plainContext())).rejects.toThrow('node.pressure has 3 values');
  });
});

describe('what is run again', () => {
  it('nothing, where nothing that was read has changed; and what comes back is what was found', async () => {
    const { store, kept } = memoryStore();
    const first = await through(await shotOf(), store);
    const second = await through(await shotOf(), store);
    expect(first.reused).toEqual([]);
    expect(second.reused).toEqual(['fill', 'fill-up', 'pack']);
    expect(kept.size).toBe(3);
    same(second.stand, first.stand);
  });

  it('packing alone after a change of its pressure, everything after one of the resin or of the gate', async () => {
    const { store } = memoryStore();
    await through(await shotOf(withPacking(2e7)), store);
    const pressed = await through(await shotOf(withPacking(3e7)), store);
    expect(pressed.reused).toEqual(['fill']);
    same(pressed.stand, (await through(await shotOf(withPacking(3e7)))).stand);
    expect((await through(await shotOf({ ...withPacking(2e7), resin: 'abs-corran-220' }), store)).reused).toEqual([]);
    const wide = { gates: [{ id: 'G1', position: gate.point as Vec3, diameter: 0.002 }] };
    expect((await through(await shotOf({ ...withPacking(2e7), ...wide }), store)).reused).toEqual([]);
  });

  it('after a change of a number of the cycle: from the phase on that its table names', async () => {
    const { store } = memoryStore();
    const { cycle } = emptyInputs();
    const PHASES = ['fill', 'fill-up', 'pack'];
    const first = await shotOf();
    await through(first, store);
    const known = knownOf(first.inputs, first.settings.resin, first.settings.machine);
    const firstOfEach = PHASES.concat('answers').flatMap(
      (p) => CYCLE_NUMBER_IDS.find((id) => CYCLE_NUMBERS[id].phase === p) ?? [],
    );
    for (const id of ALL ? CYCLE_NUMBER_IDS : firstOfEach) {
      const { fallback, max, phase } = CYCLE_NUMBERS[id];
      const usual = fallback(known) ?? 10;
      const other = id === 'solidShare' ? 0.8 : Math.min(max, usual + (usual > 1e3 ? 0.01 * usual : 1));
      // Above what the machine can, a limit is none.
      const set = id === 'pressureLimit' ? 0.5 * usual : other;
      const { reused } = await through(await shotOf({ cycle: { ...cycle, [id]: set } }), store);
      const at = PHASES.indexOf(phase);
      expect(reused, id).toEqual(at < 0 ? PHASES : PHASES.slice(0, at));
    }
  });

  it('what can not be read is calculated again', async () => {
    const { store, kept } = memoryStore();
    const first = await through(await shotOf(), store);
    for (const key of kept.keys()) kept.set(key, Uint8Array.of(1, 2, 3));
    const second = await through(await shotOf(), store);
    expect(second.reused).toEqual([]);
    same(second.stand, first.stand);
  });
});

/** Packing in a worker of its own: bytes in, bytes out. */
async function onAnotherThread(bytes: Uint8Array): Promise<Uint8Array> {
  const { outputFiles } = await build({
    stdin: {
      contents: `
        import { parentPort, workerData } from 'node:worker_threads';
        import { packTree, unpackTree } from './src/core/formats/tree';
        import { plainContext } from './src/core/stage/context';
        import { pack } from './src/core/solvers/pack/stage';
        const { state, input } = unpackTree(workerData);
        void pack(state, input, plainContext()).then(({ state }) => parentPort.postMessage(packTree({ state })));
      `,
      resolveDir: process.cwd(),
      loader: 'ts',
    },
    bundle: true,
    platform: 'node',
    format: 'cjs',
    write: false,
  });
  const worker = new Worker(outputFiles[0].text, { eval: true, workerData: bytes });
  return new Promise((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
  });
}

describe('instants that are kept', () => {
  it('are as many as are wanted, and change no number', async () => {
    const runs = [];
    for (const instants of ['few', undefined, 'many'] as const) {
      const { stand } = await through(await shotOf({ ...withPacking(2e7), ...(instants ? { instants } : {}) }));
      const { result } = stand.found.pack!;
      runs.push({ kept: result.frames.times.length, numbers: [stand.state.time, stand.state.node.held, result.node] });
    }
    const [few, usual, many] = runs;
    expect(few.kept).toBeLessThan(0.8 * usual.kept);
    expect(many.kept).toBeGreaterThan(1.6 * usual.kept);
    expect(few.numbers).toEqual(usual.numbers);
    expect(many.numbers).toEqual(usual.numbers);
  });
});
