import { toast } from 'sonner';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyInputs, type Inputs } from '@/core/model/study';
import { inputKey } from '@/core/model/inputKey';
import type { RunView } from '@/runtime/wire';
import { openStudy, present, settle, variantOf, type TestServer } from './testServer';
import { SOLVER_VERSION } from '@/core/setup/version';
import {
  askedUnderWay,
  freshName,
  isOutOfDate,
  latestResult,
  outOfDate,
  problemsOf,
  runUnderWay,
  useStudy,
} from './store';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

const inputs: Inputs = { ...emptyInputs('a'.repeat(64)), gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.002 }] };
const variant = variantOf(inputs);
const run = (patch: Partial<RunView> = {}): RunView => ({
  id: 'r1',
  variantId: 'v1',
  inputs,
  inputKey: inputKey(inputs),
  status: 'filled',
  problems: null,
  summary: null,
  answers: null,
  createdAt: '2030-01-01T00:00:00.000Z',
  startedAt: null,
  finishedAt: null,
  ...patch,
});
let server: TestServer;
beforeEach(() => void (server = openStudy(inputs)));
afterEach(() => vi.unstubAllGlobals());

const detail = (value: Inputs['detail']) => useStudy.getState().change(value, { ...present().inputs, detail: value });

describe('changes', () => {
  it('go to the server at once, and back and forth by undo and redo', async () => {
    detail('fine');
    detail('quick');
    await settle();
    expect(server.variants.get('v1')?.inputs.detail).toBe('quick');
    useStudy.getState().undo();
    await settle();
    expect([present().inputs.detail, server.variants.get('v1')?.inputs.detail]).toEqual(['fine', 'fine']);
    useStudy.getState().undo();
    useStudy.getState().undo();
    await settle();
    expect(present().inputs.detail).toBe('normal');
    useStudy.getState().redo();
    await settle();
    expect(server.variants.get('v1')?.inputs.detail).toBe('fine');
  });

  it('what changes nothing is no step', () => {
    detail('normal');
    expect(useStudy.getState().done).toHaveLength(0);
    expect(server.requests).toHaveLength(0);
  });

  it('a new change forgets what was undone', async () => {
    detail('fine');
    useStudy.getState().undo();
    detail('quick');
    await settle();
    expect(useStudy.getState().undone).toHaveLength(0);
    useStudy.getState().redo();
    expect(present().inputs.detail).toBe('quick');
  });

  it('undo goes back to the variant that was changed', async () => {
    detail('fine');
    await useStudy.getState().branch('Second');
    expect(present().name).toBe('Second');
    useStudy.getState().undo();
    await settle();
    expect(useStudy.getState().variants.map((v) => v.name)).toEqual(['First']);
    useStudy.getState().undo();
    await settle();
    expect([present().id, present().inputs.detail]).toEqual(['v1', 'normal']);
  });
});

describe('variants', () => {
  it('branch with other inputs, rename, delete with undo', async () => {
    const made = await useStudy.getState().branch('Second', { ...inputs, detail: 'fine' });
    expect(made?.inputs.detail).toBe('fine');
    useStudy.getState().rename('v2', '  Better  ');
    await settle();
    expect(server.variants.get('v2')?.name).toBe('Better');
    useStudy.getState().remove('v2');
    await settle();
    expect(useStudy.getState().variants.map((v) => v.id)).toEqual(['v1']);
    expect(present().id).toBe('v1');
    useStudy.getState().undo();
    await settle();
    expect(useStudy.getState().variants.map((v) => v.name)).toEqual(['First', 'Better']);
  });

  it('what is tried of an earlier run takes the names that were given since, and none of what it has not', async () => {
    const probes = [{ id: 'P1', position: [0, 0, 0] as [number, number, number] }];
    const names = { 'gate G1': 'Rim', 'probe P1': 'Corner' };
    useStudy.getState().change('Names', { ...inputs, probes, names });
    const made = await useStudy.getState().branch('Tried', { ...inputs, detail: 'fine' });
    expect(made?.inputs).toEqual({ ...inputs, detail: 'fine', names: { 'gate G1': 'Rim' } });
  });

  it('a refusal leaves everything as it was', async () => {
    server.failNext = true;
    expect(await useStudy.getState().branch('Second')).toBeNull();
    expect(useStudy.getState().variants).toHaveLength(1);
    expect(useStudy.getState().done).toHaveLength(0);
  });

  it('a refused change is taken back, told, and can be done again', async () => {
    const fine: Inputs = { ...inputs, detail: 'fine' };
    server.failNext = true;
    useStudy.getState().change('Detail', fine);
    expect(present().inputs.detail).toBe('fine');
    await settle();
    expect(present().inputs).toEqual(server.variants.get('v1')?.inputs);
    expect(present().inputs.detail).toBe('normal');
    expect([useStudy.getState().done.length, useStudy.getState().undone.length]).toEqual([0, 1]);
    useStudy.getState().redo();
    await settle();
    expect([present().inputs, server.variants.get('v1')?.inputs]).toEqual([fine, fine]);
  });

  it('a refused change that a newer one has replaced is not in the way', async () => {
    server.failNext = true;
    useStudy.getState().change('Detail', { ...inputs, detail: 'fine' });
    useStudy.getState().change('Detail', { ...inputs, detail: 'quick' });
    await settle();
    expect(present().inputs.detail).toBe('quick');
    expect(server.variants.get('v1')?.inputs.detail).toBe('quick');
    useStudy.getState().undo();
    await settle();
    expect(server.variants.get('v1')?.inputs.detail).toBe('fine');
  });

  describe('of another page', () => {
    /** Another page saves this of the same variant. */
    const elsewhere = (patch: Partial<Inputs>) => {
      const now = server.variants.get('v1');
      if (!now) throw new Error('no variant');
      server.variants.set('v1', { ...now, inputs: { ...now.inputs, ...patch }, version: now.version + 1 });
    };
    const stored = () => server.variants.get('v1')?.inputs;

    it('stay where ours do not touch them, on the server, on the page and under undo', async () => {
      elsewhere({ resin: 'pp-hollin-h3' });
      detail('fine');
      await settle();
      for (const at of [stored(), present().inputs])
        expect(at).toMatchObject({ resin: 'pp-hollin-h3', detail: 'fine' });
      useStudy.getState().undo();
      await settle();
      expect(stored()).toMatchObject({ resin: 'pp-hollin-h3', detail: 'normal' });
    });

    it('stay under saves that were already on their way', async () => {
      elsewhere({ resin: 'pp-hollin-h3' });
      detail('fine');
      useStudy.getState().change('gate', { ...present().inputs, gates: [] });
      await settle();
      expect(stored()).toMatchObject({ resin: 'pp-hollin-h3', detail: 'fine', gates: [] });
      expect(present().inputs).toEqual(stored());
    });

    it('win where both say something else: ours is told, taken back and can be done again', async () => {
      elsewhere({ detail: 'quick' });
      detail('fine');
      await settle();
      expect(vi.mocked(toast.error)).toHaveBeenLastCalledWith(
        'Another page has changed this too: Detail.',
        expect.anything(),
      );
      expect([present().inputs.detail, stored()?.detail]).toEqual(['quick', 'quick']);
      expect(useStudy.getState().done).toHaveLength(0);
      elsewhere({ resin: 'pp-hollin-h3' });
      useStudy.getState().refresh({
        project: { id: 'p', name: 'Project' },
        variants: [...server.variants.values()],
        runs: [],
        geometries: [],
      });
      useStudy.getState().redo();
      await settle();
      // The step again, and no more than it: what else the other page has set stays.
      for (const at of [stored(), present().inputs])
        expect(at).toMatchObject({ resin: 'pp-hollin-h3', detail: 'fine' });
    });

    it('come in when the project is fetched again, but not over what is on its way', async () => {
      const view = () => ({
        project: { id: 'p', name: 'Project' },
        variants: [...server.variants.values()],
        runs: [],
        geometries: [],
      });
      elsewhere({ resin: 'pp-hollin-h3' });
      useStudy.getState().refresh(view());
      expect(present().inputs.resin).toBe('pp-hollin-h3');
      const before = view();
      detail('fine');
      useStudy.getState().refresh(before);
      expect(present().inputs.detail).toBe('fine');
      await settle();
      useStudy.getState().refresh(before);
      expect(present().inputs.detail).toBe('fine');
      useStudy.getState().refresh({ ...view(), project: { id: 'other', name: 'Other' }, variants: [] });
      expect(useStudy.getState().variants).toHaveLength(1);
    });
  });

  it('a run starts on what the page shows, after a refused change too', async () => {
    server.failNext = true;
    useStudy.getState().change('Detail', { ...inputs, detail: 'fine' });
    await useStudy.getState().startRun();
    expect(server.requests.at(-1)).toBe('POST /api/runs');
    expect(present().inputs).toEqual(server.variants.get('v1')?.inputs);
  });

  it('a result of an earlier solver is one no longer', () => {
    const summary = { solver: SOLVER_VERSION } as RunView['summary'];
    expect(outOfDate(run({ summary }), variant)).toBeNull();
    expect(outOfDate(run({ summary: { solver: 'first-1' } as RunView['summary'] }), variant)).toBe('solver');
    expect(outOfDate(run({ summary: {} as RunView['summary'] }), variant)).toBe('solver');
    expect(outOfDate(run({ summary, inputs: { ...inputs, detail: 'fine' } }), variant)).toBe('inputs');
    // What differs in nothing but how far it goes is told as such.
    expect(outOfDate(run({ summary, inputs: { ...inputs, upTo: 'fill' } }), variant)).toBe('shorter');
    const packed = { ...variant, inputs: { ...inputs, upTo: 'pack' as const } };
    expect(outOfDate(run({ summary }), packed)).toBe('farther');
    expect(outOfDate(run({ summary, inputs: { ...inputs, upTo: 'fill', detail: 'fine' } }), variant)).toBe('inputs');
    // A key as an earlier version wrote it says nothing.
    expect(outOfDate(run({ summary, inputKey: 'other' }), variant)).toBeNull();
  });

  it('names that are taken get a number', () => {
    expect(freshName([variant], 'First')).toBe('First 2');
    expect(freshName([variant, { ...variant, name: 'First 2' }], 'First')).toBe('First 3');
    expect(freshName([variant], 'Other')).toBe('Other');
  });
});

describe('what the page asks', () => {
  it('which result counts, and whether it is out of date', () => {
    const { putRun } = useStudy.getState();
    putRun(run({ id: 'old', status: 'stalled' }));
    putRun(run({ id: 'new', status: 'cancelled' }));
    expect(latestResult(useStudy.getState())?.id).toBe('old');
    putRun(run({ id: 'other', variantId: 'v9' }));
    expect(latestResult(useStudy.getState())?.id).toBe('old');
    expect(isOutOfDate(run(), variant)).toBe(false);
    expect(isOutOfDate(run(), { ...variant, inputs: { ...inputs, detail: 'fine' } })).toBe(true);
    expect(runUnderWay(useStudy.getState())).toBeNull();
    putRun(run({ id: 'now', status: 'queued' }));
    expect(runUnderWay(useStudy.getState())?.id).toBe('now');
    putRun(run({ id: 'now', status: 'failed' }));
    expect(runUnderWay(useStudy.getState())).toBeNull();
    // One that nobody has asked for is under way, and in nobody's way.
    putRun(run({ id: 'demo', status: 'running', aside: true }));
    expect(runUnderWay(useStudy.getState())?.id).toBe('demo');
    expect(askedUnderWay(useStudy.getState())).toBeNull();
    putRun(run({ id: 'demo', status: 'cancelled', aside: true }));
  });

  it('a part that is not there is a problem of the Part station', () => {
    expect(problemsOf(useStudy.getState()).map((p) => p.station)).toEqual(['part']);
  });
});

describe('marks and earlier results', () => {
  it('are a step each, taken back whole', async () => {
    useStudy.getState().mark('v1', 'Star “First”', { starred: true });
    useStudy.getState().mark('v1', 'Note on “First”', { note: 'thin rib' });
    await settle();
    expect(server.variants.get('v1')).toMatchObject({ starred: true, note: 'thin rib' });
    useStudy.getState().undo();
    await settle();
    expect(server.variants.get('v1')).toMatchObject({ starred: true, note: '' });
    useStudy.getState().undo();
    useStudy.getState().redo();
    await settle();
    expect(present()).toMatchObject({ starred: true, note: '' });
  });

  it('an earlier result is looked at in place of the newest, of its own variant only', () => {
    const newest = run({ id: 'new' });
    const earlier = run({ id: 'old', inputs: { ...inputs, detail: 'fine' } });
    useStudy.getState().putRun(newest);
    useStudy.getState().openRun(earlier);
    expect(latestResult(useStudy.getState())?.id).toBe('old');
    expect(outOfDate(latestResult(useStudy.getState())!, present())).toBe('inputs');
    useStudy.setState({ opened: { ...earlier, variantId: 'v2' } });
    expect(latestResult(useStudy.getState())?.id).toBe('new');
    useStudy.getState().openRun(null);
    expect(latestResult(useStudy.getState())?.id).toBe('new');
  });
});
