import { existsSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { eq } from 'drizzle-orm';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { emptyInputs } from '../core/model/study';
import { openDatabase, type Database } from '../store/db/client';
import { runs, variants } from '../store/db/schema';
import { RunQueue, type RunEvent } from './queue';
import { phaseDir } from '../store/paths';
import { createProject } from './studies';
import { workInWorker } from './workers';

const root = fileURLToPath(new URL('../..', import.meta.url));
const home = mkdtempSync(path.join(os.tmpdir(), 'bellows-home-'));
let db: Database;
let variantId: string;

/** Puts a worker of a few lines in the place of one of the program's. */
function pretend(name: string, body: string): void {
  const folder = path.join(home, 'dist', 'workers');
  mkdirSync(folder, { recursive: true });
  const head = "import { parentPort, workerData } from 'node:worker_threads';\n";
  writeFileSync(path.join(folder, `${name}.worker.mjs`), head + body);
}

/** Fills the memory of its own thread. */
const OVERFLOW = 'const all = []; for (;;) all.push(new Array(1e5).fill(Math.random()));';

beforeAll(async () => {
  process.env.BELLOWS_HOME = home;
  process.env.BELLOWS_HEAP_MB = '64';
  process.env.BELLOWS_DATA = path.join(home, 'data');
  symlinkSync(path.join(root, 'drizzle'), path.join(home, 'drizzle'));
  db = await openDatabase();
  const { id } = await createProject(db, 'Trouble', emptyInputs('0'.repeat(64)));
  [{ id: variantId }] = await db.select().from(variants).where(eq(variants.projectId, id));
  vi.spyOn(console, 'error').mockImplementation(() => {});
});
afterAll(() => {
  vi.restoreAllMocks();
  rmSync(home, { recursive: true, force: true });
});

/** A queued run in the database, under an id that tells the pretended worker what to do. */
async function newRun(id: string): Promise<string> {
  const inputs = emptyInputs('0'.repeat(64));
  await db.insert(runs).values({ id, variantId, inputs, inputKey: id, status: 'queued', createdAt: new Date() });
  return id;
}

/** Puts a run into the queue; how it ended. */
const through = (queue: RunQueue, id: string) =>
  new Promise<RunEvent & { type: 'status' }>((resolve) => {
    queue.enqueue(id);
    queue.subscribe(id, 0, (event) => {
      if (event.type === 'status' && event.status !== 'queued' && event.status !== 'running') resolve(event);
    });
  });
const statusOf = async (id: string) => (await db.select().from(runs).where(eq(runs.id, id)))[0].status;

/** Overflows, crashes, says nothing or fails as the id of the run says. */
const RUNNER = `parentPort.on('message', (task) => {
  if (task.outDir.endsWith('/overflow')) { ${OVERFLOW} }
  if (task.outDir.endsWith('/crash')) process.exit(3);
  if (task.outDir.endsWith('/silent')) return;
  parentPort.postMessage({ type: 'failed', message: 'as told', likely: 'nothing' });
});`;

describe('a worker in trouble', () => {
  it.each([
    ['overflow', 'more memory than it may take'],
    ['crash', 'stopped before it was done'],
  ])(
    'fails its own run with that reason, and the next one goes: %s',
    async (what, reason) => {
      pretend('run', RUNNER);
      const queue = new RunQueue(db);
      const [first, second] = await Promise.all([
        through(queue, await newRun(what)),
        through(queue, await newRun(`after-${what}`)),
      ]);
      expect(first.problems?.[0].message).toContain(reason);
      expect(second.problems?.[0].message).toBe('as told');
      expect(await statusOf(what)).toBe('failed');
    },
    60_000,
  );

  it('that says nothing is given up after twenty minutes, and the next run goes', async () => {
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'Date'] });
    const queue = new RunQueue(db);
    const silent = through(queue, await newRun('silent'));
    while ((await statusOf('silent')) !== 'running') await new Promise((r) => setTimeout(r, 10));
    await new Promise((r) => setTimeout(r, 100));
    vi.advanceTimersByTime(19 * 60_000);
    expect(await statusOf('silent')).toBe('running');
    vi.advanceTimersByTime(2 * 60_000);
    expect((await silent).problems?.[0].message).toContain('said nothing for 20 minutes');
    vi.useRealTimers();
    expect((await through(queue, await newRun('after-silent'))).problems?.[0].message).toBe('as told');
  });

  it('that reads a file is told from one that refuses it', async () => {
    pretend('import', OVERFLOW);
    const never = new AbortController().signal;
    const asked = () => workInWorker('import', {}, () => {}, never);
    await expect(asked()).rejects.toThrow('more memory than it may take');
    pretend('import', "parentPort.postMessage({ type: 'failed', message: 'no part', remedy: 'none' });");
    await expect(asked()).rejects.toThrow('no part');
    pretend('import', "throw new Error('SELECT secret');");
    await expect(asked()).rejects.toThrow(/^The work stopped before it was done\.$/);
  }, 60_000);
});

/** Ends at once, but for runs that go on until they are told to stop, and such that do not listen. */
const STOPPABLE = `parentPort.on('message', (task) => {
  const flag = new Int32Array(task.cancel);
  const name = task.outDir.split('/').pop();
  if (name.startsWith('deaf')) return;
  if (!name.startsWith('long')) return parentPort.postMessage({ type: 'failed', message: 'as told', likely: 'nothing' });
  const timer = setInterval(() => {
    if (!Atomics.load(flag, 0)) return;
    clearInterval(timer);
    parentPort.postMessage({ type: 'cancelled' });
  }, 5);
});`;

describe('runs that nobody has asked for', () => {
  const running = async (id: string) => {
    while ((await statusOf(id)) !== 'running') await new Promise((r) => setTimeout(r, 10));
  };
  const aside = async (id: string) => {
    await newRun(id);
    await db.update(runs).set({ aside: true }).where(eq(runs.id, id));
    return id;
  };

  it.each(['long', 'deaf'])('make way for one that somebody has asked for, and go on behind it: %s', async (kind) => {
    pretend('run', STOPPABLE);
    const queue = new RunQueue(db);
    const [first, second] = [await aside(`${kind}-1`), await aside(`${kind}-2`)];
    queue.enqueue(first, true);
    queue.enqueue(second, true);
    const told: string[] = [];
    queue.subscribe(first, 0, (e) => e.type === 'status' && told.push(e.status));
    await running(first);
    expect((await through(queue, await newRun(`quick-${kind}`))).status).toBe('failed');
    // The others come in their turn.
    await running(second);
    expect(told).toEqual(['queued', 'running', 'queued']);
    expect(await statusOf(first)).toBe('queued');
    await queue.cancel(second);
    await running(first);
    await queue.cancel(first);
    while ((await statusOf(first)) !== 'cancelled') await new Promise((r) => setTimeout(r, 10));
    await queue.stop();
  });

  it('come first among the others once somebody asks for them', async () => {
    pretend('run', STOPPABLE);
    const queue = new RunQueue(db);
    const ids = await Promise.all(['long-a', 'long-b', 'long-c'].map(aside));
    ids.forEach((id) => queue.enqueue(id, true));
    await running('long-a');
    queue.ask('long-c');
    await running('long-c');
    expect([await statusOf('long-a'), await statusOf('long-b')]).toEqual(['queued', 'queued']);
    // It no longer makes way.
    queue.enqueue(await newRun('quick-last'));
    await new Promise((r) => setTimeout(r, 100));
    expect([await statusOf('long-c'), await statusOf('quick-last')]).toEqual(['running', 'queued']);
    await queue.stop();
    expect(await statusOf('long-c')).toBe('queued');
  });
});

describe('a queue that lacks room', () => {
  afterEach(() => {
    delete process.env.BELLOWS_SPARE_MB;
    vi.useRealTimers();
  });

  it('says so, lets go of what can be calculated again, and goes on when there is room', async () => {
    pretend('run', RUNNER);
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    mkdirSync(phaseDir(), { recursive: true });
    writeFileSync(path.join(phaseDir(), 'a.phase'), 'x');
    // More than any disk has.
    process.env.BELLOWS_SPARE_MB = '1e15';
    const queue = new RunQueue(db);
    const told: string[] = [];
    const ended = through(queue, await newRun('waits'));
    queue.subscribe('waits', 0, (event) => event.type === 'progress' && told.push(event.message));
    expect(told.at(-1)).toMatch(/^Waits for room: .* MB are wanted in .*data/);
    expect(existsSync(phaseDir())).toBe(false);
    expect(queue.load).toEqual({ running: 0, waiting: 1 });
    vi.advanceTimersByTime(6000);
    expect(await statusOf('waits')).toBe('queued');
    process.env.BELLOWS_SPARE_MB = '0';
    vi.advanceTimersByTime(6000);
    vi.useRealTimers();
    expect((await ended).problems?.[0].message).toBe('as told');
  });

  it('keeps a run that met a full disk before it began', async () => {
    pretend('run', RUNNER);
    let full = true;
    const failing = new Proxy(db, {
      get: (target, key) => {
        if (key === 'update' && full)
          return () => {
            throw Object.assign(new Error('full'), { code: 'SQLITE_FULL' });
          };
        const value = Reflect.get(target, key) as unknown;
        return typeof value === 'function' ? (value as () => void).bind(target) : value;
      },
    });
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    const queue = new RunQueue(failing);
    const ended = through(queue, await newRun('began-full'));
    while (queue.load.waiting === 0) await new Promise(setImmediate);
    full = false;
    vi.advanceTimersByTime(6000);
    vi.useRealTimers();
    expect((await ended).problems?.[0].message).toBe('as told');
  });
});

describe('a server that is asked to stop', () => {
  it('puts the run under way back among those that wait, and lets listeners go', async () => {
    pretend('run', RUNNER);
    const queue = new RunQueue(db);
    let closed = 0;
    queue.enqueue(await newRun('silent-at-stop/silent'));
    queue.subscribe(
      'silent-at-stop/silent',
      0,
      () => {},
      () => void closed++,
    );
    while ((await statusOf('silent-at-stop/silent')) !== 'running') await new Promise((r) => setTimeout(r, 10));
    await queue.stop();
    expect([await statusOf('silent-at-stop/silent'), closed]).toEqual(['queued', 1]);
    queue.enqueue(await newRun('too-late'));
    expect(await statusOf('too-late')).toBe('queued');
    await db.delete(runs).where(eq(runs.id, 'silent-at-stop/silent'));
  });
});

describe('imports', () => {
  it('go two at once; the others wait and say so', async () => {
    pretend('import', "setTimeout(() => parentPort.postMessage({ type: 'done', at: workerData.k }), 300);");
    const told: string[][] = [];
    const never = new AbortController().signal;
    const begun = Date.now();
    await Promise.all(
      [0, 1, 2, 3, 4].map((k) => workInWorker('import', { k }, (_share, text) => (told[k] ??= []).push(text), never)),
    );
    expect(Date.now() - begun).toBeGreaterThan(850);
    expect(told.filter((t) => t?.includes('Waiting for other work to end'))).toHaveLength(3);
  });

  it.each([
    ['take too long', () => vi.advanceTimersByTime(11 * 60_000), 'took too long'],
    [
      'make the process grow too much',
      () => {
        vi.spyOn(process.memoryUsage, 'rss').mockReturnValue(8 * 2 ** 30);
        vi.advanceTimersByTime(1000);
      },
      'more memory than it may take',
    ],
  ])('that %s are stopped', async (_what, pass, reason) => {
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'Date'] });
    pretend('import', 'setInterval(() => {}, 1000);');
    const hangs = workInWorker('import', {}, () => {}, new AbortController().signal);
    const ended = expect(hangs).rejects.toThrow(reason);
    await new Promise((r) => setTimeout(r, 50));
    pass();
    await ended;
    vi.mocked(process.memoryUsage.rss).mockRestore?.();
    vi.useRealTimers();
    pretend('import', "setTimeout(() => parentPort.postMessage({ type: 'done', at: workerData.k }), 300);");
  });

  it('that are cancelled while they wait do not begin', async () => {
    const abort = new AbortController();
    const held = [0, 1].map((k) => workInWorker('import', { k }, () => {}, new AbortController().signal));
    const waiting = workInWorker('import', { k: 2 }, () => {}, abort.signal);
    abort.abort();
    await expect(waiting).rejects.toThrow('Cancelled.');
    await Promise.all(held);
  });
});

describe('a server that could not start', () => {
  it('tries again with the next request', async () => {
    vi.doMock('server-only', () => ({}));
    vi.doMock('./demo', () => ({ seedDemo: () => Promise.resolve([]) }));
    const good = process.env.BELLOWS_DATA;
    // A file where the folder should be.
    process.env.BELLOWS_DATA = path.join(home, 'no-folder', 'data');
    writeFileSync(path.join(home, 'no-folder'), '');
    const { app } = await import('./app');
    await expect(app()).rejects.toThrow();
    process.env.BELLOWS_DATA = good;
    const started = await app();
    expect((await started.db.select().from(runs)).length).toBeGreaterThan(0);
    expect(await app()).toBe(started);
  });
});

describe('a database that takes nothing', () => {
  it('stops no queue: the run is told to have ended, and is written as soon as there is room', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    const queue = new RunQueue(db);
    const id = await newRun('unwritten');
    const real = db.update.bind(db);
    let full = false;
    const update = vi.spyOn(db, 'update').mockImplementation((table) => {
      if (full) throw Object.assign(new Error('disk'), { code: 'SQLITE_FULL' });
      // From when the run has begun on.
      full = true;
      return real(table);
    });
    const ended = await through(queue, id);
    expect(ended.problems?.[0].message).toBe('as told');
    expect(await statusOf(id)).toBe('running');
    update.mockImplementation(real);
    // The next one goes, and what could not be written is.
    const next = await through(queue, await newRun('after-full'));
    expect(next.problems?.[0].message).toBe('as told');
    await vi.advanceTimersByTimeAsync(6000);
    vi.useRealTimers();
    for (let i = 0; i < 50 && (await statusOf(id)) === 'running'; i++) await new Promise((r) => setTimeout(r, 20));
    expect(await statusOf(id)).toBe('failed');
    update.mockRestore();
  });
});
