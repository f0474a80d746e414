import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { toast } from 'sonner';
import type { GeometryTask } from '@/core/model/geometryTask';
import { emptyInputs } from '@/core/model/study';
import type { GeometryView } from '@/runtime/wire';
import { openStudy, settle } from '../study/testServer';
import { useStudy } from '../study/store';
import { cancelTask, perform, useTask } from './task';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

/** Pieces of work that the server was asked for, each answered when the test says so. */
interface Asked {
  task: { do: string; bodies: { id: string }[] };
  aborted: boolean;
  say(line: unknown): void;
}
let asked: Asked[];

beforeEach(() => {
  openStudy(emptyInputs('m'));
  asked = [];
  vi.mocked(toast.error).mockClear();
  vi.stubGlobal('fetch', (_url: string, init: RequestInit) => {
    const encoder = new TextEncoder();
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        const own: Asked = {
          task: JSON.parse(init.body as string) as Asked['task'],
          aborted: false,
          say: (line) => controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`)),
        };
        init.signal?.addEventListener('abort', () => {
          own.aborted = true;
          controller.error(init.signal?.reason);
        });
        asked.push(own);
      },
    });
    return Promise.resolve(new Response(stream));
  });
});
afterEach(() => vi.unstubAllGlobals());

const body = (id: string) => [{ id, mesh: 'm' }] as unknown as Extract<GeometryTask, { do: 'mend' }>['bodies'];
const check = (id: string) => perform<'overlaps'>(`Checking ${id}`, { do: 'overlaps', bodies: body(id) });
const mend = (id: string) => perform<'mend'>(`Mending ${id}`, { do: 'mend', bodies: body(id) });
const names = () => asked.map((a) => a.task.bodies[0].id);
const SIZE = { volume: 1e-6, area: 1e-4, nTriangles: 12 };
const OF = {
  overlaps: (id: string) => ({ pairs: [], notClosed: [id] }),
  mend: (id: string) => ({ bodies: [{ id, mesh: 'm', done: [], before: SIZE, after: SIZE, left: 0 }] }),
};
const surface = (hash: string, nTriangles: number): GeometryView => ({
  hash,
  report: {
    nOpen: 0,
    nNonManifold: 0,
    nMisoriented: 0,
    nVertices: 8,
    bounds: { min: [0, 0, 0], max: [1, 1, 1] },
    watertight: true,
    insideOut: false,
    ...SIZE,
    nTriangles,
  },
  findings: [],
});
const done = (answer: unknown, geometries: unknown[] = []) => ({ type: 'done', result: { answer, geometries } });

describe('work on surfaces', () => {
  it('goes one piece at a time, in the order it was asked for, and tells how far it is', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    expect(names()).toEqual(['a']);
    asked[0].say({ type: 'progress', fraction: 0.4, message: 'Looking' });
    await settle();
    expect(useTask.getState().running).toMatchObject({ label: 'Checking a', fraction: 0.4, message: 'Looking' });
    asked[0].say(done(OF.overlaps('a')));
    expect(await first).toEqual(OF.overlaps('a'));
    await settle();
    asked[1].say(done(OF.mend('b')));
    expect(await second).toEqual(OF.mend('b'));
    expect(useTask.getState().running).toBeNull();
  });

  it('of the same kind takes the place of the older, whether that is under way or waits', async () => {
    const a = check('a');
    await settle();
    const [b, c] = [check('b'), check('c')];
    expect(await a).toBeNull();
    expect(await b).toBeNull();
    await settle();
    expect(names()).toEqual(['a', 'c']);
    expect(asked[0].aborted).toBe(true);
    asked[1].say(done(OF.overlaps('c')));
    expect(await c).toEqual(OF.overlaps('c'));
  });

  it('that is cancelled ends without a word, and what waits goes on', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    cancelTask();
    expect(await first).toBeNull();
    expect(asked[0].aborted).toBe(true);
    expect(toast.error).not.toHaveBeenCalled();
    await settle();
    asked[1].say(done(OF.mend('b')));
    expect(await second).toEqual(OF.mend('b'));
  });

  it('that is refused says why, and what waits goes on', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    asked[0].say({ type: 'failed', message: 'It is open.', remedy: 'Mend it.' });
    expect(await first).toBeNull();
    expect(toast.error).toHaveBeenCalledWith('It is open.', { description: 'Mend it.' });
    await settle();
    asked[1].say(done(OF.mend('b')));
    expect(await second).toEqual(OF.mend('b'));
  });

  it('brings the surfaces that it made, each once', async () => {
    const result = mend('a');
    await settle();
    asked[0].say(done(OF.mend('a'), [surface('h', 12)]));
    await result;
    const again = mend('a');
    await settle();
    asked[1].say(done(OF.mend('a'), [surface('h', 14)]));
    await again;
    expect(useStudy.getState().geometries.filter((g) => g.hash === 'h')).toEqual([surface('h', 14)]);
  });
});
