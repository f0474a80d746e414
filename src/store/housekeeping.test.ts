import { existsSync, mkdirSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { temporaryName } from '../runtime/files';
import type { Database } from './db/client';
import { geometries, projects, runs, variants } from './db/schema';
import { DELETED_KEPT_MS, freeDeleted, SURFACE_KEPT_MS, sweep } from './housekeeping';
import { importDir, importPath, mapsDir, meshDir, meshPath, runDir, runsDir } from './paths';
import { aProject, aRun, aSurface, freshData } from './testData';
import { canKeep, roomOf, usageOf } from './usage';

let db: Database;
let folder: string;
let end: () => void;
beforeEach(async () => void ({ db, folder, end } = await freshData()));
afterEach(() => end());

const rowsOf = async () => ({
  projects: (await db.select().from(projects)).map((p) => p.name).sort(),
  nVariants: (await db.select().from(variants)).length,
  runs: (await db.select().from(runs)).map((r) => r.id).sort(),
});
const long = (ms: number) => new Date(Date.now() - ms - 1000);

describe('what an earlier life of the server has left', () => {
  it('goes, and results stay', async () => {
    const mesh = await aSurface(db, 'whole');
    const { variantId } = await aProject(db, 'One', mesh);
    const kept = await Promise.all((['filled', 'stalled'] as const).map((s) => aRun(db, variantId, mesh, s)));
    for (const status of ['interrupted', 'failed', 'queued'] as const) await aRun(db, variantId, mesh, status);
    mkdirSync(runDir('of-no-run'), { recursive: true });
    utimesSync(runDir('of-no-run'), long(0), long(2 * 86.4e6));
    mkdirSync(importPath('upload'), { recursive: true });
    writeFileSync(temporaryName(meshPath(mesh)), 'ha');
    expect((await sweep(db, true)).nFiles).toBe(6);
    expect(readdirSync(runsDir()).sort()).toEqual(kept.sort());
    expect(readdirSync(meshDir())).toEqual([path.basename(meshPath(mesh))]);
    expect(readdirSync(importDir())).toEqual([]);
    expect(await sweep(db, true)).toEqual({ nFiles: 0, bytes: 0 });
  });

  it('stays as long as the server may be at it', async () => {
    const mesh = await aSurface(db, 'whole');
    const { variantId } = await aProject(db, 'One', mesh);
    const running = await aRun(db, variantId, mesh, 'running');
    mkdirSync(importPath('upload'), { recursive: true });
    mkdirSync(runDir('of-no-run'), { recursive: true });
    expect((await sweep(db, false)).nFiles).toBe(0);
    expect(existsSync(runDir(running))).toBe(true);
    for (const place of [importPath('upload'), runDir('of-no-run')]) utimesSync(place, long(48e6), long(2 * 86.4e6));
    expect((await sweep(db, false)).nFiles).toBe(2);
    expect(existsSync(runDir(running))).toBe(true);
  });
});

describe('what is deleted', () => {
  it('is kept for a day with all its files, then freed with them', async () => {
    const mesh = await aSurface(db, 'a');
    const stays = await aProject(db, 'Stays', mesh);
    const goes = await aProject(db, 'Goes', mesh);
    const kept = await aRun(db, stays.variantId, mesh, 'filled');
    const freed = await aRun(db, goes.variantId, mesh, 'filled');
    await db.update(projects).set({ deletedAt: new Date() }).where(eq(projects.id, goes.id));
    expect(await sweep(db, true)).toEqual({ nFiles: 0, bytes: 0 });
    expect((await rowsOf()).runs).toEqual([kept, freed].sort());
    await db
      .update(projects)
      .set({ deletedAt: long(DELETED_KEPT_MS) })
      .where(eq(projects.id, goes.id));
    const { nFiles, bytes } = await sweep(db, true);
    expect(nFiles).toBe(1);
    expect(bytes).toBeGreaterThan(4000);
    expect(await rowsOf()).toEqual({ projects: ['Stays'], nVariants: 1, runs: [kept] });
    expect([existsSync(runDir(kept)), existsSync(runDir(freed))]).toEqual([true, false]);
  });

  it('leaves what was branched from it hanging where it came from', async () => {
    const mesh = await aSurface(db, 'a');
    const { id, variantId } = await aProject(db, 'One', mesh);
    const [root] = await db.select().from(variants).where(eq(variants.id, variantId));
    await db.insert(variants).values({ ...root, id: 'middle', parentId: variantId, deletedAt: long(DELETED_KEPT_MS) });
    await db.insert(variants).values({ ...root, id: 'leaf', parentId: 'middle' });
    await freeDeleted(db, long(DELETED_KEPT_MS - 2000));
    const left = await db.select().from(variants).where(eq(variants.projectId, id));
    expect(left.map((v) => [v.id, v.parentId])).toEqual([
      [variantId, null],
      ['leaf', variantId],
    ]);
  });
});

describe('surfaces', () => {
  it('that nothing names go a week after their last use; named ones stay, by deleted variants too', async () => {
    const [named, byDeleted, old, fresh] = await Promise.all(['a', 'b', 'c', 'd'].map((c) => aSurface(db, c)));
    await aProject(db, 'One', named);
    const { variantId } = await aProject(db, 'Two', byDeleted);
    await db.update(variants).set({ deletedAt: new Date() }).where(eq(variants.id, variantId));
    for (const hash of [named, byDeleted, old]) utimesSync(meshPath(hash), long(0), long(SURFACE_KEPT_MS));
    await sweep(db, false);
    expect([named, byDeleted, old, fresh].map((hash) => existsSync(meshPath(hash)))).toEqual([true, true, false, true]);
    expect((await db.select().from(geometries)).map((g) => g.hash).sort()).toEqual([named, byDeleted, fresh].sort());
  });

  it('have maps that give way to newer ones', async () => {
    mkdirSync(mapsDir(), { recursive: true });
    const place = (k: number) => path.join(mapsDir(), `${String(k).repeat(64)}.bin`);
    for (const k of [0, 1, 2]) {
      writeFileSync(place(k), '');
      // As long as the room for all of them, without filling the disk.
      const { truncateSync } = await import('node:fs');
      truncateSync(place(k), 200_000_000);
      utimesSync(place(k), new Date(1e12 + k), new Date(1e12 + 1000 * k));
    }
    await sweep(db, false);
    expect([0, 1, 2].map((k) => existsSync(place(k)))).toEqual([false, true, true]);
  });
});

describe('the account of room', () => {
  it('says whether anything can be kept', () => {
    expect(canKeep()).toBe(true);
    rmSync(folder, { recursive: true });
    expect(canKeep()).toBe(false);
  });

  it('tells by project what it takes up, deleted things too', async () => {
    const mesh = await aSurface(db, 'surface');
    const { id, variantId } = await aProject(db, 'One', mesh);
    const run = await aRun(db, variantId, mesh, 'filled');
    await db.update(runs).set({ deletedAt: new Date() }).where(eq(runs.id, run));
    process.env.BELLOWS_DATA_LIMIT_GB = '3';
    const usage = await usageOf(db);
    delete process.env.BELLOWS_DATA_LIMIT_GB;
    expect(usage.limit).toBe(3e9);
    expect(usage.parts.surfaces).toBe(7);
    const [project] = usage.projects;
    expect(project).toMatchObject({ id, name: 'One', deletedAt: null });
    expect(project.bytes).toBe(7 + usage.parts.results);
    expect(project.runs[0].deletedAt).not.toBeNull();
    expect(Object.values(usage.parts).reduce((a, b) => a + b)).toBe(usage.total);
    expect(roomOf().total).toBe(usage.total);
  });
});
