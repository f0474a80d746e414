import { copyFileSync, existsSync, linkSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { and, eq, inArray, isNull, notInArray } from 'drizzle-orm';
import * as tar from 'tar';
import { temporaryName } from '../runtime/files';
import { hasResults } from '../runtime/wire';
import { DATABASE, filesOf, LABEL, quoted, stagingFolder, type BackupLabel } from './archive';
import { openAsItIs, openDatabase, type Database } from './db/client';
import { projects, runs, variants } from './db/schema';
import { bytesOf, namedSurfaces } from './housekeeping';
import { meshPath, runDir } from './paths';

/**
 * Writes projects, variants, runs with their results, surfaces and materials as one compressed archive. The server may
 * go on meanwhile: the database is copied as of one moment, files are written once and held by links until they are packed.
 * What can be calculated again is left out: phases, maps, uploads that wait; and what was deleted.
 */
export async function backup(file: string): Promise<BackupLabel & { bytes: number }> {
  const staging = stagingFolder('backup');
  mkdirSync(path.join(staging, 'meshes'), { recursive: true });
  mkdirSync(path.join(staging, 'runs'));
  try {
    const db = await copyOfDatabase(path.join(staging, 'copy.db'));
    const label = await gather(db, staging);
    // Once more, so that everything is in one file without a journal beside it.
    await db.$client.execute(`VACUUM INTO ${quoted(path.join(staging, DATABASE))}`);
    db.$client.close();
    writeFileSync(path.join(staging, LABEL), JSON.stringify(label));
    await pack(staging, path.resolve(file));
    return { ...label, bytes: bytesOf(file) };
  } finally {
    rmSync(staging, { recursive: true, force: true });
  }
}

async function copyOfDatabase(copy: string): Promise<Database> {
  const live = await openAsItIs();
  try {
    await live.$client.execute(`VACUUM INTO ${quoted(copy)}`);
  } finally {
    live.$client.close();
  }
  const db = await openDatabase(copy);
  await leaveOutDeleted(db);
  // Nobody works on them where they are brought back.
  await db
    .update(runs)
    .set({ status: 'interrupted' })
    .where(inArray(runs.status, ['queued', 'running']));
  return db;
}

async function leaveOutDeleted(db: Database): Promise<void> {
  const living = await db
    .select({ id: variants.id, projectId: variants.projectId })
    .from(variants)
    .innerJoin(projects, eq(projects.id, variants.projectId))
    .where(and(isNull(variants.deletedAt), isNull(projects.deletedAt)));
  const kept = living.map((v) => v.id);
  const keptProjects = [...new Set(living.map((v) => v.projectId))];
  const deletedRuns = (await db.select({ id: runs.id, deletedAt: runs.deletedAt }).from(runs))
    .filter((r) => r.deletedAt)
    .map((r) => r.id);
  await db.batch([
    db.delete(runs).where(inArray(runs.id, deletedRuns)),
    db.delete(runs).where(notInArray(runs.variantId, kept)),
    db.delete(variants).where(notInArray(variants.id, kept)),
    db.delete(projects).where(notInArray(projects.id, keptProjects)),
  ]);
}

/** Links everything that the rows name into the folder. */
async function gather(db: Database, staging: string): Promise<BackupLabel> {
  const missing: string[] = [];
  for (const hash of await namedSurfaces(db)) {
    if (existsSync(meshPath(hash))) linked(meshPath(hash), path.join(staging, 'meshes', `${hash}.mesh`));
    else missing.push(hash);
  }
  const rows = await db.select({ id: runs.id, status: runs.status }).from(runs);
  const results = rows.filter((r) => hasResults(r.status)).map((r) => r.id);
  for (const id of results) {
    const from = filesOf(runDir(id));
    if (from.missing.length) missing.push(id);
    mkdirSync(path.join(staging, 'runs', id));
    for (const name of from.files) linked(path.join(runDir(id), name), path.join(staging, 'runs', id, name));
  }
  const nProjects = (await db.select({ id: projects.id }).from(projects)).length;
  const made = new Date().toISOString();
  return { format: 'bellows-backup', version: 1, made, nProjects, nRuns: results.length, missing };
}

/** The same file under another name, in no time where the disk can do that. */
function linked(from: string, to: string): void {
  try {
    linkSync(from, to);
  } catch {
    copyFileSync(from, to);
  }
}

async function pack(staging: string, file: string): Promise<void> {
  const unfinished = temporaryName(file);
  try {
    await tar.create({ gzip: { level: 1 }, file: unfinished, cwd: staging, portable: true }, [
      LABEL,
      DATABASE,
      'meshes',
      'runs',
    ]);
    renameSync(unfinished, file);
  } catch (error) {
    rmSync(unfinished, { force: true });
    throw error;
  }
}
