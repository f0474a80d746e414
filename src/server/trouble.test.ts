import { mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { emptyInputs } from '../core/model/study';
import { openDatabase, type Database } from './db/client';
import { runs, variants } from './db/schema';
import { RunQueue, type RunEvent } from './queue';
import { temporaryName } from '../runtime/files';
import { importDir, importPath, meshDir, meshPath, runDir, runsDir } from './paths';
import { createProject } from './studies';
import { sweep } from './sweep';
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

describe('what an earlier life of the server has left', () => {
  it('goes, and results stay', async () => {
    for (const status of ['filled', 'stalled', 'interrupted', 'failed', 'queued'] as const) {
      const id = await newRun(`swept-${status}`);
      await db.update(runs).set({ status }).where(eq(runs.id, id));
      mkdirSync(runDir(id), { recursive: true });
      writeFileSync(path.join(runDir(id), 'grid.bin'), 'x');
    }
    mkdirSync(runDir('of-no-run'), { recursive: true });
    mkdirSync(importPath('upload'), { recursive: true });
    mkdirSync(meshDir(), { recursive: true });
    const mesh = meshPath('0'.repeat(64));
    writeFileSync(mesh, 'whole');
    writeFileSync(temporaryName(mesh), 'ha');
    expect(await sweep(db)).toBe(6);
    expect(readdirSync(runsDir()).sort()).toEqual(['swept-filled', 'swept-stalled']);
    expect(readdirSync(meshDir())).toEqual([path.basename(mesh)]);
    expect(readdirSync(importDir())).toEqual([]);
    expect(await sweep(db)).toBe(0);
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
    vi.doMock('./demo', () => ({ seedDemo: () => Promise.resolve() }));
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
    let full = true;
    const update = vi.spyOn(db, 'update').mockImplementation((table) => {
      if (full) throw Object.assign(new Error('disk'), { code: 'SQLITE_FULL' });
      return real(table);
    });
    const ended = await through(queue, id);
    expect(ended.problems?.[0].message).toContain('no room left');
    expect(await statusOf(id)).toBe('queued');
    full = false;
    // The next one goes, and what could not be written is.
    const next = await through(queue, await newRun('after-full'));
    expect(next.problems?.[0].message).toBe('as told');
    await vi.advanceTimersByTimeAsync(6000);
    vi.useRealTimers();
    for (let i = 0; i < 50 && (await statusOf(id)) === 'queued'; i++) await new Promise((r) => setTimeout(r, 20));
    expect(await statusOf(id)).toBe('failed');
    update.mockRestore();
  });
});
