import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { ReadableStream } from 'node:stream/web';
import { fileURLToPath } from 'node:url';
import { unzipSync } from 'fflate';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { box } from '../../verification/shapes';
import { writeStl } from '../core/formats/stl';
import { emptyInputs, studyFileSchema, type Inputs } from '../core/model/study';
import { importPart, inMetres } from '../core/pipeline/importPart';
import { openDatabase, type Database } from './db/client';
import { runs } from './db/schema';
import { seedDemo } from './demo';
import { exportStudy } from './exportStudy';
import { acceptImport, receiveImport, savePart } from './imports';
import { RunQueue, type RunEvent } from './queue';
import { branchVariant, changeVariant, createProject, createRun, listProjects, viewProject } from './studies';

const data = mkdtempSync(path.join(os.tmpdir(), 'bellows-server-'));
const plate = box(0.05, 0.02, 0.002);
const file = writeStl(plate);
let db: Database;
let inputs: Inputs;

const stream = (bytes: Uint8Array) =>
  new Blob([new Uint8Array(bytes)]).stream() as unknown as ReadableStream<Uint8Array>;
const statusOf = async (id: string) => (await db.select().from(runs).where(eq(runs.id, id)))[0].status;
async function until(check: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 400; i++) {
    if (await check()) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error('waited in vain');
}

beforeAll(async () => {
  process.env.BELLOWS_DATA = data;
  process.env.BELLOWS_HOME = fileURLToPath(new URL('../..', import.meta.url));
  db = await openDatabase();
  const part = await savePart(db, 'Plate', 'mm', inMetres(importPart(file).mesh, 'mm'), []);
  inputs = {
    ...emptyInputs(part.hash),
    gates: [{ id: 'G1', position: [0.005, 0, 0.001], diameter: 0.002 }],
    detail: 'quick',
  };
});
afterAll(() => rmSync(data, { recursive: true, force: true }));

describe('imports', () => {
  it('an upload waits for its unit, then becomes a part in metres', async () => {
    const preview = await receiveImport('Holder.stl', stream(file));
    expect(preview.report.bounds.max[0]).toBeCloseTo(50, 4);
    expect(preview.guessedUnit).toBe('mm');
    const part = await acceptImport(db, preview.id, 'cm');
    expect(part.name).toBe('Holder');
    expect(part.size.volume).toBeCloseTo(0.5 * 0.2 * 0.02, 8);
    await expect(acceptImport(db, preview.id, 'cm')).rejects.toMatchObject({ status: 404 });
  });

  it.each([
    ['nothing', null, /empty/],
    ['words', stream(new TextEncoder().encode('only words')), /not an STL/],
  ])('%s is refused', async (_name, body, message) => {
    await expect(receiveImport('x.stl', body)).rejects.toThrow(message);
  });

  it('an open surface is shown and not accepted', async () => {
    const open = writeStl({ ...plate, triangles: plate.triangles.slice(3) });
    const preview = await receiveImport('open.stl', stream(open));
    expect(preview.findings[0].code).toBe('open');
    await expect(acceptImport(db, preview.id, 'mm')).rejects.toThrow(/not closed/);
  });

  it('an id that is no id reads no files', async () => {
    await expect(acceptImport(db, '../../etc', 'mm')).rejects.toMatchObject({ status: 404 });
  });
});

describe('variants', () => {
  it('branch with and without a change, rename, delete and bring back', async () => {
    const project = await createProject(db, 'Variants', inputs);
    const first = (await viewProject(db, project.id))?.variants[0];
    if (!first) throw new Error('no variant');
    const same = await branchVariant(db, first.id, 'Same');
    const finer = await branchVariant(db, same.id, 'Finer', { ...inputs, detail: 'fine' });
    expect([same.inputs, finer.parentId]).toEqual([inputs, same.id]);
    await changeVariant(db, same.id, { name: 'Renamed' });
    await changeVariant(db, first.id, { deleted: true });
    let view = await viewProject(db, project.id);
    expect(view?.variants.map((v) => v.name)).toEqual(['Renamed', 'Finer']);
    await changeVariant(db, first.id, { deleted: false });
    view = await viewProject(db, project.id);
    expect(view?.variants.map((v) => v.name)).toEqual(['First', 'Renamed', 'Finer']);
    expect(view?.parts.map((p) => p.hash)).toEqual([inputs.part]);
  });

  it('the last variant stays', async () => {
    const project = await createProject(db, 'Single', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    await expect(changeVariant(db, id, { deleted: true })).rejects.toMatchObject({ status: 409 });
    await expect(changeVariant(db, 'nobody', { name: 'x' })).rejects.toMatchObject({ status: 404 });
    expect(await viewProject(db, 'nobody')).toBeNull();
  });

  it('exports a study the schema accepts, with its geometry', async () => {
    const project = await createProject(db, 'Export', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    const { fileName, bytes } = await exportStudy(db, id);
    expect(fileName).toBe('plate-first.zip');
    const files = unzipSync(bytes);
    const study = studyFileSchema.parse(JSON.parse(new TextDecoder().decode(files['study.json'])));
    expect(study.gates[0].position_mm).toEqual([5, 0, 1]);
    // The geometry leaves as it came in, to the last bit of every coordinate.
    expect(importPart(files[study.geometry.path]).mesh).toEqual(importPart(file).mesh);
  });
});

describe('demo data', () => {
  it('go into an empty database only', async () => {
    const before = (await listProjects(db)).length;
    await seedDemo(db);
    expect((await listProjects(db)).length).toBe(before);
  });
});

describe('queue', () => {
  const newRun = async (change: Partial<Inputs> = {}) => {
    const project = await createProject(db, 'Queue', { ...inputs, ...change });
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    return createRun(db, id);
  };

  it('runs one after the other and tells every step in order', async () => {
    const queue = new RunQueue(db);
    const [a, b] = [await newRun(), await newRun()];
    const events: RunEvent[] = [];
    queue.enqueue(a.id);
    queue.enqueue(b.id);
    queue.subscribe(a.id, 0, (event) => events.push(event));
    await until(async () => (await statusOf(a.id)) === 'running');
    expect(await statusOf(b.id)).toBe('queued');
    await until(async () => (await statusOf(b.id)) === 'filled');
    expect(await statusOf(a.id)).toBe('filled');
    const ids = events.map((e) => e.id);
    expect(ids).toEqual([...ids].sort((x, y) => x - y));
    expect(events.filter((e) => e.type === 'status').map((e) => e.status)).toEqual(['queued', 'running', 'filled']);
    expect(events.findIndex((e) => e.type === 'grid')).toBeLessThan(events.findIndex((e) => e.type === 'filled'));
    // A listener that comes late and has seen the first two hears the rest.
    const late: RunEvent[] = [];
    queue.subscribe(a.id, ids[1], (event) => late.push(event));
    expect(late.map((e) => e.id)).toEqual(queueIds(queue, a.id).filter((id) => id > ids[1]));
  });

  it('cancels what waits and what runs', async () => {
    const queue = new RunQueue(db);
    const [a, b] = [await newRun({ detail: 'fine' }), await newRun()];
    queue.enqueue(a.id);
    queue.enqueue(b.id);
    await until(async () => (await statusOf(a.id)) === 'running');
    await queue.cancel(b.id);
    expect(await statusOf(b.id)).toBe('cancelled');
    await queue.cancel(a.id);
    await until(async () => (await statusOf(a.id)) === 'cancelled');
  });

  it('a gate off the part fails with its reason', async () => {
    const queue = new RunQueue(db);
    const run = await newRun({ gates: [{ id: 'G7', position: [0.005, 0, 0.02], diameter: 0.002 }] });
    queue.enqueue(run.id);
    await until(async () => (await statusOf(run.id)) === 'failed');
    const [row] = await db.select().from(runs).where(eq(runs.id, run.id));
    expect(row.problems?.[0].message).toMatch(/G7 is 19\.0 mm off the part/);
  });

  it('what cannot be run is refused at once', async () => {
    await expect(newRun({ gates: [] })).rejects.toThrow(/no gate/);
  });

  it('after a start marks what ran as interrupted and takes up what waited', async () => {
    const [ran, waited] = [await newRun(), await newRun()];
    await db.update(runs).set({ status: 'running' }).where(eq(runs.id, ran.id));
    await new RunQueue(db).recover();
    expect(await statusOf(ran.id)).toBe('interrupted');
    await until(async () => (await statusOf(waited.id)) === 'filled');
  });
});

function queueIds(queue: RunQueue, runId: string): number[] {
  const ids: number[] = [];
  queue.subscribe(runId, 0, (event) => ids.push(event.id))?.();
  return ids;
}
