import { QueryObserver } from '@tanstack/react-query';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { addFilled, useLive, withFilled } from './liveRun';
import { queries } from './queries';
import { failsItsChecks, fieldQuery, fileMark, partQuery } from './runData';

const told = vi.hoisted(() => vi.fn());
vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: told }) }));

let asked: string[] = [];
let refuse = false;
beforeEach(() => {
  queries.clear();
  asked = [];
  refuse = false;
  told.mockClear();
  vi.stubGlobal('fetch', (url: string) => {
    asked.push(url);
    if (refuse) return Promise.resolve(Response.json({ message: 'gone' }, { status: 404 }));
    return Promise.resolve(new Response(Float32Array.of(1, 2, 3).buffer));
  });
});
afterEach(() => vi.unstubAllGlobals());

/** Shows a field as a place on the page does; the returned function ends that. */
async function show(runId: string, field = 'pressure'): Promise<() => void> {
  const observer = new QueryObserver(queries, fieldQuery(runId, field));
  const end = observer.subscribe(() => {});
  await vi.waitFor(() => expect(observer.getCurrentResult().isFetching).toBe(false));
  return end;
}
const held = (runId: string) => queries.getQueryData<Float32Array>(fieldQuery(runId, 'pressure').queryKey);

describe('results that the page holds', () => {
  it('are asked for once, however many places show them', async () => {
    await Promise.all([show('once'), show('once'), show('once', 'velocity')]);
    await show('once');
    expect(asked).toEqual(['/api/runs/once/blobs/pressure.f32', '/api/runs/once/blobs/velocity.f32']);
    expect([...(held('once') ?? [])]).toEqual([1, 2, 3]);
  });

  it('what was refused is told, and asked for again by the next place', async () => {
    refuse = true;
    await show('refused');
    expect(held('refused')).toBeUndefined();
    expect(told).toHaveBeenCalledOnce();
    refuse = false;
    await show('refused');
    expect(held('refused')).toHaveLength(3);
  });

  it('what is on the screen stays, however many runs come after it; of the rest the two last looked at', async () => {
    const letGo = await show('shown');
    for (const id of ['r1', 'r2', 'r3', 'r4']) (await show(id))();
    expect(['shown', 'r1', 'r2', 'r3', 'r4'].map((id) => held(id) !== undefined)).toEqual([
      true,
      false,
      false,
      true,
      true,
    ]);
    // Looked at again it is the newest.
    (await show('r3'))();
    letGo();
    expect(['shown', 'r3', 'r4'].map((id) => held(id) !== undefined)).toEqual([true, true, false]);
  });

  it('two places that show a run keep all of it until both let go', async () => {
    const ends = [await show('twice'), await show('twice', 'velocity')];
    ends[0]();
    for (const id of ['t1', 't2', 't3']) (await show(id))();
    expect(held('twice')).toHaveLength(3);
    ends[1]();
    for (const id of ['t4', 't5']) (await show(id))();
    expect(held('twice')).toBeUndefined();
  });

  it('a result that fails its checks marks its files once that is known', async () => {
    expect(failsItsChecks('broken')).toBe(false);
    queries.setQueryData(partQuery('broken', 'manifest').queryKey, { breaches: [{}] });
    queries.setQueryData(partQuery('sound', 'manifest').queryKey, { breaches: [] });
    expect([failsItsChecks('broken'), failsItsChecks('sound'), failsItsChecks(null)]).toEqual([true, false, false]);
    expect([fileMark('broken'), fileMark('sound')]).toEqual(['failed-checks-', '']);
  });
});

describe('the front of a run under way', () => {
  it('grows with what comes in, in any order, and forgets nothing', () => {
    const first = withFilled(undefined, [{ nodes: Int32Array.of(2, 0), times: Float32Array.of(0.25, 0.125) }]);
    expect([...first.times]).toEqual([0.125, NaN, 0.25]);
    const next = withFilled(first, [
      { nodes: Int32Array.of(4), times: Float32Array.of(0.5) },
      { nodes: Int32Array.of(1), times: Float32Array.of(0.375) },
    ]);
    expect([...next.times]).toEqual([0.125, 0.375, 0.25, NaN, 0.5]);
    expect([first.end, next.end]).toEqual([0.25, 0.5]);
    expect(first.times).toHaveLength(3);
  });

  it('is drawn some times a second, not with every message', async () => {
    vi.useFakeTimers();
    const drawn: number[] = [];
    const stop = useLive.subscribe(({ fronts }) => drawn.push(fronts.live.times.length));
    for (let k = 0; k < 100; k++) addFilled('live', Int32Array.of(k), Float32Array.of(k / 100));
    expect(drawn).toEqual([]);
    await vi.advanceTimersByTimeAsync(500);
    addFilled('live', Int32Array.of(100), Float32Array.of(1));
    await vi.advanceTimersByTimeAsync(500);
    expect(drawn).toEqual([100, 101]);
    stop();
    vi.useRealTimers();
  });
});
