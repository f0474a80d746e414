import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { toast } from 'sonner';
import type { GeometryTask } from '@/core/model/geometryTask';
import { emptyInputs } from '@/core/model/study';
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
const done = (answer: unknown, geometries: unknown[] = []) => ({ type: 'done', result: { answer, geometries } });

describe('work on surfaces', () => {
  it('goes one piece at a time, in the order it was asked for, and tells how far it is', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    expect(names()).toEqual(['a']);
    asked[0].say({ type: 'progress', fraction: 0.4, message: 'Looking' });
    await settle();
    expect(useTask.getState().running).toMatchObject({ label: 'Checking a', fraction: 0.4, message: 'Looking' });
    asked[0].say(done('of a'));
    expect(await first).toBe('of a');
    await settle();
    asked[1].say(done('of b'));
    expect(await second).toBe('of b');
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
    asked[1].say(done('of c'));
    expect(await c).toBe('of c');
  });

  it('that is cancelled ends without a word, and what waits goes on', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    cancelTask();
    expect(await first).toBeNull();
    expect(asked[0].aborted).toBe(true);
    expect(toast.error).not.toHaveBeenCalled();
    await settle();
    asked[1].say(done('of b'));
    expect(await second).toBe('of b');
  });

  it('that is refused says why, and what waits goes on', async () => {
    const [first, second] = [check('a'), mend('b')];
    await settle();
    asked[0].say({ type: 'failed', message: 'It is open.', remedy: 'Mend it.' });
    expect(await first).toBeNull();
    expect(toast.error).toHaveBeenCalledWith('It is open.', { description: 'Mend it.' });
    await settle();
    asked[1].say(done('of b'));
    expect(await second).toBe('of b');
  });

  it('brings the surfaces that it made, each once', async () => {
    const result = mend('a');
    await settle();
    asked[0].say(done(null, [{ hash: 'h', triangles: 12 }]));
    await result;
    const again = mend('a');
    await settle();
    asked[1].say(done(null, [{ hash: 'h', triangles: 14 }]));
    await again;
    expect(useStudy.getState().geometries.filter((g) => g.hash === 'h')).toEqual([{ hash: 'h', triangles: 14 }]);
  });
});
