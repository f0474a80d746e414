import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { ReadableStream } from 'node:stream/web';
import { fileURLToPath } from 'node:url';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { box } from '../../verification/shapes';
import { writeStl } from '../core/formats/stl';
import { emptyInputs, type Inputs } from '../core/model/study';
import { studyFileOf, studyFileSchema } from '../core/model/studyFile';
import { inMetres } from '../core/pipeline/importPart';
import { readStl } from '../core/formats/stl';
import { weld } from '../core/geometry/mesh';
import { UNTURNED } from '../core/model/body';
import type { GeometryResults } from '../core/model/geometryTask';
import { openDatabase, type Database } from '../store/db/client';
import { runs } from '../store/db/schema';
import { seedDemo } from './demo';
import { DEFAULT_INSERT } from '../core/model/insert';
import { exportProject, exportStudy } from './exportStudy';
import { exportBodies, runGeometryTask, saveGeometry } from './geometry';
import { acceptImport, receiveImport, receiveStudy } from './imports';
import type { StructureAsk } from '../core/model/structureAsk';
import { runDir } from '../store/paths';
import { RunQueue, type RunEvent } from './queue';
import { structureOfRun } from './trials';
import {
  branchVariant,
  changeVariant,
  copyProject,
  createProject,
  createRun,
  listProjects,
  resultsOfVariant,
  viewProject,
} from './studies';

const data = mkdtempSync(path.join(os.tmpdir(), 'bellows-server-'));
const plate = box(0.05, 0.02, 0.002);
const file = writeStl(plate);
const STUDY_ALONE = JSON.stringify(studyFileOf('Alone', emptyInputs(), 'part.stl', 'mm'));
let db: Database;
let inputs: Inputs;

const stream = (bytes: Uint8Array) =>
  new Blob([new Uint8Array(bytes)]).stream() as unknown as ReadableStream<Uint8Array>;
const receive = (name: string, bytes: Uint8Array) =>
  receiveImport(name, stream(bytes), () => {}, new AbortController().signal);
const statusOf = async (id: string) => (await db.select().from(runs).where(eq(runs.id, id)))[0].status;
async function until(check: () => Promise<boolean>): Promise<void> {
  // Runs at normal detail are made thrice: for the numbers, and for the errors of grid and steps.
  for (let i = 0; i < 4000; i++) {
    if (await check()) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error('waited in vain');
}

beforeAll(async () => {
  process.env.BELLOWS_DATA = data;
  process.env.BELLOWS_HOME = fileURLToPath(new URL('../..', import.meta.url));
  db = await openDatabase();
  const part = await saveGeometry(db, inMetres(weld(readStl(file)).mesh, 'mm'));
  inputs = {
    ...emptyInputs(part.hash, 'Plate'),
    gates: [{ id: 'G1', position: [0.005, 0, 0.001], diameter: 0.002 }],
    detail: 'quick',
  };
});
afterAll(() => rmSync(data, { recursive: true, force: true }));

describe('imports', () => {
  it('an upload waits for its unit, then becomes a part in metres', async () => {
    const preview = await receive('Holder.stl', file);
    expect(preview.bodies[0].report.bounds.max[0]).toBeCloseTo(50, 4);
    expect([preview.guessedUnit, preview.metresPerUnit]).toEqual(['mm', null]);
    await expect(acceptImport(db, preview.id, null, UNTURNED)).rejects.toThrow(/unit/);
    const part = await acceptImport(db, preview.id, 'cm', UNTURNED);
    expect(part.bodies[0].name).toBe('Holder');
    expect(part.geometries[0].report.volume).toBeCloseTo(0.5 * 0.2 * 0.02, 8);
    await expect(acceptImport(db, preview.id, 'cm', UNTURNED)).rejects.toMatchObject({ status: 404 });
  });

  it.each([
    ['nothing', 'x.stl', new Uint8Array(0), /empty/],
    ['words', 'x.stl', new TextEncoder().encode('only words'), /not an STL/],
    ['an unknown kind', 'x.doc', new TextEncoder().encode('only words'), /cannot be read/],
  ])('%s is refused', async (_name, name, bytes, message) => {
    await expect(receive(name, bytes)).rejects.toThrow(message);
  });

  it('an open surface comes in with its findings, and mending closes it', async () => {
    const open = writeStl({ ...plate, triangles: plate.triangles.slice(3) });
    const preview = await receive('open.stl', open);
    expect(preview.bodies[0].findings[0].code).toBe('open');
    const { geometries } = await acceptImport(db, preview.id, 'mm', UNTURNED);
    // Places lie where the surface lies, in metres.
    expect(Math.abs(geometries[0].findings[0].places[0].position[0])).toBeLessThan(0.051);
    const { answer, geometries: made } = await runGeometryTask(
      db,
      { do: 'mend', bodies: [{ id: 'B1', mesh: geometries[0].hash }] },
      () => {},
      new AbortController().signal,
    );
    expect((answer as GeometryResults['mend']).bodies[0]).toMatchObject({ id: 'B1', left: 0 });
    expect(made[0].report.volume).toBeCloseTo(0.05 * 0.02 * 0.002, 10);
  });

  it('an aborted task leaves nothing behind', async () => {
    const abort = new AbortController();
    const body = inputs.bodies[0];
    const task = runGeometryTask(db, { do: 'trace', body: { id: body.id, mesh: body.mesh } }, () => {}, abort.signal);
    abort.abort();
    await expect(task).rejects.toThrow(/Cancelled/);
  });

  it('bodies go out as STL and 3MF and come back the same', async () => {
    const project = await createProject(db, 'Out', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    for (const format of ['stl', '3mf'] as const) {
      const { fileName, bytes } = await exportBodies(db, id, format, null);
      const preview = await receive(fileName, bytes);
      const back = await acceptImport(db, preview.id, 'mm', UNTURNED);
      expect(back.geometries[0].report.volume).toBeCloseTo(0.05 * 0.02 * 0.002, 12);
    }
  });

  it('an id that is no id reads no files', async () => {
    await expect(acceptImport(db, '../../etc', 'mm', UNTURNED)).rejects.toMatchObject({ status: 404 });
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
    await changeVariant(db, same.id, { version: 1, name: 'Renamed' });
    await changeVariant(db, first.id, { version: 1, deleted: true });
    let view = await viewProject(db, project.id);
    expect(view?.variants.map((v) => v.name)).toEqual(['Renamed', 'Finer']);
    await changeVariant(db, first.id, { version: 2, deleted: false });
    view = await viewProject(db, project.id);
    expect(view?.variants.map((v) => v.name)).toEqual(['First', 'Renamed', 'Finer']);
    expect(view?.geometries.map((g) => g.hash)).toEqual([inputs.bodies[0].mesh]);
  });

  it('a save on a version that is no longer there is refused with what is; of two at once one is', async () => {
    const project = await createProject(db, 'Two at once', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    const ends = await Promise.allSettled(
      (['fine', 'quick'] as const).map((detail) =>
        changeVariant(db, id, { version: 1, inputs: { ...inputs, detail } }),
      ),
    );
    expect(ends.map((e) => e.status).sort()).toEqual(['fulfilled', 'rejected']);
    const lost = ends.find((e) => e.status === 'rejected');
    expect(lost?.reason).toMatchObject({ status: 409, now: { id, version: 2 } });
    expect((await viewProject(db, project.id))?.variants[0].version).toBe(2);
  });

  it('carry note, star and colour, and stand under another one of their project', async () => {
    const project = await createProject(db, 'Tree', inputs);
    const first = (await viewProject(db, project.id))!.variants[0];
    const hot = await branchVariant(db, first.id, 'Hot');
    const gate = await branchVariant(db, first.id, 'Gate');
    const marked = await changeVariant(db, hot.id, { version: 1, note: 'too hot', starred: true, colour: 'plum' });
    expect(marked).toMatchObject({ note: 'too hot', starred: true, colour: 'plum', inputs: hot.inputs, version: 2 });
    const moved = await changeVariant(db, gate.id, { version: 1, parentId: hot.id });
    expect(moved).toMatchObject({ parentId: hot.id, note: '', starred: false, colour: null });
    const other = (await viewProject(db, (await createProject(db, 'Another', inputs)).id))!.variants[0];
    for (const parentId of [gate.id, hot.id, other.id, 'nobody'])
      await expect(changeVariant(db, hot.id, { version: 2, parentId })).rejects.toThrow('another one of its project');
    expect((await changeVariant(db, gate.id, { version: 2, parentId: null })).parentId).toBeNull();
  });

  it('are copied with their project: the tree, notes and stars of those that are there, and no result', async () => {
    const project = await createProject(db, 'Original', inputs);
    const first = (await viewProject(db, project.id))!.variants[0];
    const hot = await branchVariant(db, first.id, 'Hot');
    const hotter = await branchVariant(db, hot.id, 'Hotter');
    const gate = await branchVariant(db, first.id, 'Gate', { ...inputs, detail: 'fine' });
    await changeVariant(db, gate.id, { version: 1, note: 'thin', starred: true });
    await changeVariant(db, hot.id, { version: 1, deleted: true });
    const copy = await copyProject(db, project.id, 'Copy');
    const view = (await viewProject(db, copy!.id))!;
    const named = (name: string) => view.variants.find((v) => v.name === name)!;
    expect(view.project.name).toBe('Copy');
    expect(view.variants.map((v) => v.name)).toEqual(['First', 'Hotter', 'Gate']);
    expect(named('Gate')).toMatchObject({ parentId: named('First').id, note: 'thin', starred: true, version: 1 });
    expect(named('Gate').inputs.detail).toBe('fine');
    expect(named('Hotter').parentId).toBeNull();
    expect(view.runs).toEqual([]);
    const ids = view.variants.map((v) => v.id);
    for (const id of [first.id, hot.id, hotter.id, gate.id]) expect(ids).not.toContain(id);
    // What is changed in the copy stays there.
    await changeVariant(db, named('Gate').id, { version: 1, name: 'Other' });
    expect((await viewProject(db, project.id))!.variants.map((v) => v.name)).toEqual(['First', 'Hotter', 'Gate']);
    expect(await copyProject(db, 'nobody', 'x')).toBeNull();
  });

  it('that was deleted is not run, branched or changed', async () => {
    const project = await createProject(db, 'Deleted', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    await branchVariant(db, id, 'Left');
    await changeVariant(db, id, { version: 1, deleted: true });
    const gone = { status: 404 };
    await expect(createRun(db, id)).rejects.toMatchObject(gone);
    await expect(branchVariant(db, id, 'x')).rejects.toMatchObject(gone);
    await expect(changeVariant(db, id, { version: 2, name: 'x' })).rejects.toMatchObject(gone);
    await changeVariant(db, id, { version: 2, deleted: false });
    expect((await viewProject(db, project.id))?.variants).toHaveLength(2);
  });

  it('the last variant stays', async () => {
    const project = await createProject(db, 'Single', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    await expect(changeVariant(db, id, { version: 1, deleted: true })).rejects.toMatchObject({ status: 409 });
    await expect(changeVariant(db, 'nobody', { version: 1, name: 'x' })).rejects.toMatchObject({ status: 404 });
    expect(await viewProject(db, 'nobody')).toBeNull();
  });

  it('exports a study the schema accepts, with its geometry', async () => {
    const project = await createProject(db, 'Export', inputs);
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    const { fileName, bytes } = await exportStudy(db, id);
    expect(fileName).toBe('export-first.zip');
    const files = unzipSync(bytes);
    const study = studyFileSchema.parse(JSON.parse(new TextDecoder().decode(files['study.json'])));
    expect(study.gates[0].position_mm).toEqual([5, 0, 1]);
    // The geometry leaves as it came in, to the last bit of every coordinate.
    expect(weld(readStl(files[study.geometry.path])).mesh).toEqual(weld(readStl(file)).mesh);
  });
});

describe('inserts', () => {
  it('leave with the study that names them', async () => {
    const [part] = inputs.bodies;
    const insert = { ...part, id: 'B2', name: 'Steel bar', role: 'insert' as const };
    const inserts = [{ ...DEFAULT_INSERT, id: 'B2', temperature: 373.15 }];
    const project = await createProject(db, 'Insert', { ...inputs, bodies: [part, insert], inserts });
    const id = (await viewProject(db, project.id))?.variants[0].id ?? '';
    const files = unzipSync((await exportStudy(db, id)).bytes);
    const study = studyFileSchema.parse(JSON.parse(new TextDecoder().decode(files['study.json'])));
    expect(study.bodies).toEqual([{ id: 'B2', name: 'Steel bar', path: 'steel-bar-b2.stl', unit: 'mm' }]);
    expect(weld(readStl(files['steel-bar-b2.stl'])).mesh).toEqual(weld(readStl(file)).mesh);
  });
});

describe('a study that comes in as it was exported', () => {
  const bring = (bytes: Uint8Array) => receiveStudy(db, stream(bytes), () => {}, new AbortController().signal);

  it('is a project with the same inputs, inserts and surfaces among them', async () => {
    const [part] = inputs.bodies;
    const insert = { ...part, id: 'B2', name: 'Steel bar', role: 'insert' as const };
    const inserts = [{ ...DEFAULT_INSERT, id: 'B2', temperature: 373.15 }];
    const cycle = { ...inputs.cycle, packing: { by: 'constant' as const, pressure: 3e7, time: 2 } };
    const project = await createProject(db, 'Round trip', { ...inputs, bodies: [part, insert], inserts, cycle });
    const [{ id }] = (await viewProject(db, project.id))!.variants;
    const { bytes } = await exportStudy(db, id);
    const made = await bring(bytes);
    expect(made.name).toBe('Round trip, First');
    const view = (await viewProject(db, made.id))!;
    const back = view.variants[0].inputs;
    expect(back).toMatchObject({ gates: inputs.gates, cycle, inserts, detail: 'quick' });
    expect(back.bodies.map((b) => [b.role, b.mesh])).toEqual([
      ['cavity', part.mesh],
      ['insert', part.mesh],
    ]);
    // It goes out again as it came in.
    const [again] = view.variants;
    const { 'study.json': study } = unzipSync((await exportStudy(db, again.id)).bytes);
    const json = (text: Uint8Array) =>
      JSON.parse(new TextDecoder().decode(text)) as { geometry: unknown; name: string };
    const { name: _, geometry: __, ...before } = json(unzipSync(bytes)['study.json']);
    const { name: ___, geometry: ____, ...after } = json(study);
    expect(after).toEqual(before);
  });

  it('is a project with its tree where a project went out, and the surfaces that its variants share are there once', async () => {
    const project = await createProject(db, 'Whole tree', inputs);
    const [first] = (await viewProject(db, project.id))!.variants;
    const hotter = { ...inputs, cycle: { ...inputs.cycle, meltTemperature: 540 } };
    const a = await branchVariant(db, first.id, 'Hotter', hotter);
    const b = await branchVariant(db, a.id, 'Hotter still', inputs);
    await branchVariant(db, first.id, 'Bare', { ...inputs, bodies: [] });
    await changeVariant(db, a.id, { version: 1, note: 'Watch the cycle', starred: true, colour: 'plum' });
    await changeVariant(db, b.id, { version: 1, note: 'Too hot' });
    const { fileName, bytes } = await exportProject(db, project.id);
    expect(fileName).toBe('whole-tree.zip');
    expect(Object.keys(unzipSync(bytes)).filter((file) => file.endsWith('.stl'))).toHaveLength(1);
    const made = await bring(bytes);
    expect(made.name).toBe('Whole tree');
    const back = (await viewProject(db, made.id))!.variants;
    // One without a part is no study, and stays behind.
    expect(back.map((v) => v.name)).toEqual(['First', 'Hotter', 'Hotter still']);
    expect(back.map((v) => v.parentId)).toEqual([null, back[0].id, back[1].id]);
    expect(back[1]).toMatchObject({ note: 'Watch the cycle', starred: true, colour: 'plum' });
    expect(back[1].inputs.cycle.meltTemperature).toBeCloseTo(540, 9);
    expect(back.map((v) => v.inputs.bodies[0].mesh)).toEqual(back.map(() => inputs.bodies[0].mesh));
  });

  it.each<[string, object, RegExp]>([
    ['another version', { version: 2 }, /can not be taken: .*version/s],
    ['no variant', { variants: [] }, /at least one variant/],
    ['a study that is not there', { variants: [{ name: 'A', study: 'b.json', parent: null }] }, /names “b.json”/],
    ['a ring', { variants: [{ name: 'A', study: 'a/study.json', parent: 0 }] }, /hangs under one that stands before/],
    ['what it does not know', { owner: 'x' }, /owner/],
  ])('is refused with a project of %s', async (_, change, message) => {
    const whole = {
      format: 'bellows-project',
      version: 1,
      name: 'P',
      variants: [{ name: 'A', study: 'a/study.json', parent: null }],
    };
    const files = {
      'project.json': strToU8(JSON.stringify({ ...whole, ...change })),
      'a/study.json': strToU8(STUDY_ALONE),
    };
    const before = (await listProjects(db)).length;
    await expect(bring(zipSync(files))).rejects.toMatchObject({ message: expect.stringMatching(message) });
    expect(await listProjects(db)).toHaveLength(before);
  });

  it.each<[string, Record<string, string | Uint8Array>, RegExp]>([
    ['nothing that is a study', { 'readme.txt': 'x' }, /holds no study.json/],
    ['no JSON', { 'study.json': '{' }, /no valid JSON/],
    ['another format', { 'study.json': '{ "format": "x" }' }, /can not be taken: .*format/s],
    ['a surface that is missing', { 'study.json': STUDY_ALONE }, /names “part.stl”, which is not/],
    [
      'a way out of the archive',
      { 'study.json': STUDY_ALONE.replace('part.stl', '../../etc/passwd') },
      /names “\.\.\/\.\./,
    ],
    ['a surface that is none', { 'study.json': STUDY_ALONE, 'part.stl': 'nothing' }, /STL/],
  ])('is refused with %s, and leaves nothing', async (_, files, message) => {
    const before = (await listProjects(db)).length;
    const content = Object.fromEntries(
      Object.entries(files).map(([name, text]) => [name, typeof text === 'string' ? strToU8(text) : text]),
    );
    await expect(bring(zipSync(content))).rejects.toMatchObject({ message: expect.stringMatching(message) });
    expect(await listProjects(db)).toHaveLength(before);
  });

  it('is refused where it is no archive, or one that would fill the memory', async () => {
    await expect(bring(strToU8('no archive at all'))).rejects.toMatchObject({
      message: 'The file is no whole zip archive.',
    });
    const bomb = zipSync({ 'study.json': new Uint8Array(20 * 2 ** 20) });
    expect(bomb.length).toBeLessThan(100_000);
    await expect(bring(bomb)).rejects.toMatchObject({ message: expect.stringContaining('too large') });
    const many = Object.fromEntries(Array.from({ length: 1200 }, (_, k) => [`${k}.stl`, new Uint8Array(0)]));
    await expect(bring(zipSync(many))).rejects.toMatchObject({ message: expect.stringContaining('more than 1000') });
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

  it('all runs of a variant that came to a result stay reachable, with the inputs they were made with', async () => {
    const queue = new RunQueue(db);
    const project = await createProject(db, 'Again', inputs);
    const [variant] = (await viewProject(db, project.id))!.variants;
    const listed = async () => (await listProjects(db)).find((p) => p.id === project.id)!.variants;
    expect(await listed()).toMatchObject([{ id: variant.id, parentId: null, answers: null }]);
    const first = await createRun(db, variant.id);
    queue.enqueue(first.id);
    await until(async () => (await statusOf(first.id)) === 'filled');
    const hotter = { ...variant.inputs, cycle: { ...variant.inputs.cycle, meltTemperature: 510 } };
    await changeVariant(db, variant.id, { version: variant.version, inputs: hotter });
    const second = await createRun(db, variant.id);
    expect((await resultsOfVariant(db, variant.id)).map((r) => r.id)).toEqual([first.id]);
    queue.enqueue(second.id);
    await until(async () => (await statusOf(second.id)) === 'filled');
    const all = await resultsOfVariant(db, variant.id);
    expect(all.map((r) => r.id)).toEqual([second.id, first.id]);
    expect(all.map((r) => r.inputs.cycle.meltTemperature)).toEqual([510, variant.inputs.cycle.meltTemperature]);
    // The start page shows what the newest of them says.
    const told = all[0].answers!.map(({ id, question, verdict }) => ({ id, question, verdict }));
    expect(await listed()).toMatchObject([{ id: variant.id, answers: told }]);
    await expect(resultsOfVariant(db, crypto.randomUUID())).rejects.toThrow(/no longer there/);
  });

  it('makes files and the counter-warped body of the shape of a run, once', async () => {
    const { id } = await newRun();
    new RunQueue(db).enqueue(id);
    await until(async () => (await statusOf(id)) === 'filled');
    const made = (ask: StructureAsk) => structureOfRun(db, id, ask, () => {}, new AbortController().signal);
    expect(await made('deck')).toEqual({ file: 'structure.inp' });
    expect(readFileSync(path.join(runDir(id), 'structure.inp'), 'utf8')).toContain('TYPE=C3D10, ELSET=PLASTIC');
    const found = await made('counter');
    if (!('steps' in found)) throw new Error('no steps');
    expect(found.steps[1].rms).toBeLessThan(found.steps[0].rms);
    expect(existsSync(path.join(runDir(id), 'counter.f32'))).toBe(true);
    expect(await made('counter')).toEqual(found);
    // Runs of earlier versions have kept no strains.
    rmSync(path.join(runDir(id), 'shot.bin'));
    await expect(made('vtu')).rejects.toThrow(/before strains were kept/);
    await expect(
      structureOfRun(db, crypto.randomUUID(), 'deck', () => {}, new AbortController().signal),
    ).rejects.toThrow(/no longer there/);
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
