import { readdirSync, rmSync, statSync, type Stats } from 'node:fs';
import path from 'node:path';
import { eq, inArray, lte, or } from 'drizzle-orm';
import { HALF_WRITTEN } from '../runtime/files';
import { hasResults } from '../runtime/wire';
import type { Database } from './db/client';
import { geometries, projects, runs, variants } from './db/schema';
import { importDir, mapsDir, meshDir, phaseDir, runDir, runsDir } from './paths';

/** What is deleted can be brought back for so long, ms. */
export const DELETED_KEPT_MS = 24 * 3_600_000;
/** A surface that nothing names may still be wanted by the undo of a page: kept for so long after its last use, ms. */
export const SURFACE_KEPT_MS = 7 * 24 * 3_600_000;
/** Room for maps of parts, bytes: the oldest are calculated again when they are asked for. */
const MAPS_ROOM = 500_000_000;
/** A copy or a restore that is under way has touched its folder within this time, ms. */
const STAGED_KEPT_MS = 24 * 3_600_000;

export interface Freed {
  nFiles: number;
  bytes: number;
}

export const namesIn = (folder: string): string[] => {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
};

const factsOf = (place: string): Stats | null => {
  try {
    return statSync(place);
  } catch {
    return null;
  }
};

/** Size of a file, or of everything in a folder, bytes; nothing for what is not there. */
export function bytesOf(place: string): number {
  const facts = factsOf(place);
  if (!facts) return 0;
  if (!facts.isDirectory()) return facts.size;
  return namesIn(place).reduce((sum, name) => sum + bytesOf(path.join(place, name)), 0);
}

/** Takes places away. What can not be removed stays: it is in nobody's way. */
function remove(places: readonly string[]): Freed {
  const freed: Freed = { nFiles: 0, bytes: 0 };
  for (const place of places) {
    const bytes = bytesOf(place);
    try {
      rmSync(place, { recursive: true, force: true });
      freed.nFiles++;
      freed.bytes += bytes;
    } catch {
      // Its owner is somebody else, or the disk is read-only.
    }
  }
  return freed;
}

const HASH = /[0-9a-f]{64}/g;

/** Hashes of the surfaces that variants and runs name, deleted ones too. */
export async function namedSurfaces(db: Database): Promise<Set<string>> {
  const { rows } = await db.$client.execute('SELECT inputs FROM variants UNION ALL SELECT inputs FROM runs');
  return new Set(rows.flatMap((row) => String(row.inputs).match(HASH) ?? []));
}

/** Places in the data folder that belong to nothing any more. Surfaces: unused since `before`. */
export interface Orphans {
  /** Uploads that were not confirmed. */
  uploads: string[];
  /** Of runs without a row or a result. */
  runs: string[];
  /** Written by half, and what a copy or a restore has left. */
  halves: string[];
  surfaces: string[];
}

export async function orphansOf(db: Database, before: Date, alone: boolean): Promise<Orphans> {
  const rows = await db.select({ id: runs.id, status: runs.status }).from(runs);
  const known = new Map(rows.map((r) => [r.id, hasResults(r.status)]));
  const named = await namedSurfaces(db);
  const inFolder = (folder: string, wanted: (name: string, place: string) => boolean) =>
    namesIn(folder)
      .map((name) => [name, path.join(folder, name)] as const)
      .filter(([name, place]) => wanted(name, place))
      .map(([, place]) => place);
  const untouched = (place: string, since: number) => (factsOf(place)?.mtimeMs ?? Infinity) < since;
  const yesterday = Date.now() - STAGED_KEPT_MS;
  return {
    uploads: inFolder(importDir(), (_, place) => alone || untouched(place, yesterday)),
    // One without a row may be on its way out of a backup; one under way is in use while the server is up.
    runs: inFolder(runsDir(), (id, place) => (known.has(id) ? alone && !known.get(id) : untouched(place, yesterday))),
    halves: [
      ...[meshDir(), mapsDir(), phaseDir()].flatMap((folder) =>
        inFolder(folder, (name, place) => HALF_WRITTEN.test(name) && (alone || untouched(place, yesterday))),
      ),
      ...inFolder(path.dirname(meshDir()), (name, place) => STAGED.test(name) && untouched(place, yesterday)),
    ],
    surfaces: inFolder(
      meshDir(),
      (name, place) => name.endsWith('.mesh') && !named.has(name.slice(0, 64)) && untouched(place, before.getTime()),
    ),
  };
}

/** Folders and files in which a backup or a restore is put together. */
const STAGED = /^(backup|restore)\.\d+-\d+-\d+\.tmp$/;

/**
 * Takes away what an earlier life of the server has left behind and nobody can ask for, what has been deleted long ago,
 * and surfaces that nothing has named for long. `alone`: no server works on the folder.
 */
export async function sweep(db: Database, alone: boolean, now = Date.now()): Promise<Freed> {
  const deleted = await freeDeleted(db, new Date(now - DELETED_KEPT_MS));
  const orphans = await orphansOf(db, new Date(now - SURFACE_KEPT_MS), alone);
  const hashes = orphans.surfaces.map((place) => path.basename(place, '.mesh'));
  // The rows first: a surface without a row is an orphan again at the next start.
  for (let i = 0; i < hashes.length; i += 500)
    await db.delete(geometries).where(inArray(geometries.hash, hashes.slice(i, i + 500)));
  const freed = remove(Object.values(orphans).flat() as string[]);
  const maps = remove(beyond(mapsDir(), MAPS_ROOM));
  return {
    nFiles: deleted.nFiles + freed.nFiles + maps.nFiles,
    bytes: deleted.bytes + freed.bytes + maps.bytes,
  };
}

/** The files of a folder longest untouched, until what stays fits into the room, bytes. */
function beyond(folder: string, room: number): string[] {
  const files = namesIn(folder)
    .map((name) => ({ place: path.join(folder, name), facts: factsOf(path.join(folder, name)) }))
    .filter((f) => f.facts)
    .sort((a, b) => (a.facts as Stats).mtimeMs - (b.facts as Stats).mtimeMs);
  let held = files.reduce((sum, f) => sum + (f.facts as Stats).size, 0);
  return files
    .filter(({ facts }) => {
      if (held <= room) return false;
      held -= (facts as Stats).size;
      return true;
    })
    .map((f) => f.place);
}

/** Frees the projects, variants and runs that were deleted up to then: their rows, then their results. */
export async function freeDeleted(db: Database, before: Date): Promise<Freed> {
  const idsOf = (rows: { id: string }[]) => rows.map((r) => r.id);
  const goneProjects = idsOf(
    await db.select({ id: projects.id }).from(projects).where(lte(projects.deletedAt, before)),
  );
  const goneVariants = await db
    .select({ id: variants.id, parentId: variants.parentId })
    .from(variants)
    .where(or(lte(variants.deletedAt, before), inArray(variants.projectId, goneProjects)));
  const variantIds = idsOf(goneVariants);
  const goneRuns = idsOf(
    await db
      .select({ id: runs.id })
      .from(runs)
      .where(or(lte(runs.deletedAt, before), inArray(runs.variantId, variantIds))),
  );
  if (!goneProjects.length && !variantIds.length && !goneRuns.length) return { nFiles: 0, bytes: 0 };
  await db.batch([
    db.delete(runs).where(inArray(runs.id, goneRuns)),
    // Variants branched from one that goes hang on where it came from.
    ...goneVariants.map(({ id, parentId }) => db.update(variants).set({ parentId }).where(eq(variants.parentId, id))),
    db.delete(variants).where(inArray(variants.id, variantIds)),
    db.delete(projects).where(inArray(projects.id, goneProjects)),
  ]);
  return remove(goneRuns.map(runDir));
}
