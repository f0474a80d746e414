import { accessSync, constants, statfsSync } from 'node:fs';
import path from 'node:path';
import { inArray } from 'drizzle-orm';
import { isUnderWay, type Usage } from '../runtime/wire';
import type { Database } from './db/client';
import { projects, runs, variants } from './db/schema';
import { bytesOf, DELETED_KEPT_MS, namesIn } from './housekeeping';
import { dataDir, importDir, mapsDir, meshDir, meshPath, phaseDir, runDir, runsDir } from './paths';

/** What the data may take up before the page warns, bytes. BELLOWS_DATA_LIMIT_GB sets it. */
const LIMIT = 20e9;
export const dataLimit = (): number => Number(process.env.BELLOWS_DATA_LIMIT_GB) * 1e9 || LIMIT;

/** Room that is left on the disk of the data folder for who runs the program, bytes. */
export function roomLeft(): number {
  const { bavail, bsize } = statfsSync(dataDir());
  return bavail * bsize;
}

/** The room in short: what the data take up, what they may, what is left on the disk, bytes. */
export const roomOf = (): Pick<Usage, 'total' | 'limit' | 'available'> => ({
  total: bytesOf(dataDir()),
  limit: dataLimit(),
  available: roomLeft(),
});

/** Whether anything can be kept in the data folder now. */
export function canKeep(): boolean {
  try {
    accessSync(dataDir(), constants.W_OK);
    return roomLeft() > 0;
  } catch {
    return false;
  }
}

/** How much the data take up, in all and by project. Surfaces that projects share count for each of them. */
export async function usageOf(db: Database): Promise<Usage> {
  const results = new Map(namesIn(runsDir()).map((id) => [id, bytesOf(runDir(id))]));
  const sumOf = (all: Iterable<number>) => [...all].reduce((a, b) => a + b, 0);
  const folders = [runsDir(), meshDir(), phaseDir(), mapsDir(), importDir()].map((folder) => path.basename(folder));
  const others = namesIn(dataDir()).filter((name) => !folders.includes(name));
  const parts = {
    results: sumOf(results.values()),
    surfaces: bytesOf(meshDir()),
    again: bytesOf(phaseDir()) + bytesOf(mapsDir()),
    uploads: bytesOf(importDir()),
    rest: sumOf(others.map((name) => bytesOf(path.join(dataDir(), name)))),
  };
  const allProjects = await db.select().from(projects);
  const allVariants = await db.select().from(variants);
  const allRuns = await db
    .select({
      id: runs.id,
      variantId: runs.variantId,
      status: runs.status,
      createdAt: runs.createdAt,
      deletedAt: runs.deletedAt,
    })
    .from(runs);
  const surfaces = new Map<string, number>();
  const sizeOf = (hash: string) => {
    if (!surfaces.has(hash)) surfaces.set(hash, bytesOf(meshPath(hash)));
    return surfaces.get(hash) as number;
  };
  return {
    folder: dataDir(),
    total: sumOf(Object.values(parts)),
    limit: dataLimit(),
    available: roomLeft(),
    keptFor_h: DELETED_KEPT_MS / 3_600_000,
    parts,
    projects: allProjects.map((project) => {
      const own = allVariants.filter((v) => v.projectId === project.id);
      const named = new Set(own.flatMap((v) => v.inputs.bodies.flatMap((b) => [b.mesh, b.original ?? b.mesh])));
      const ownRuns = allRuns
        .filter((r) => own.some((v) => v.id === r.variantId))
        .sort((a, b) => b.createdAt.getTime() - a.createdAt.getTime())
        .map((r) => ({
          id: r.id,
          variant: own.find((v) => v.id === r.variantId)?.name ?? '',
          status: r.status,
          createdAt: r.createdAt.toISOString(),
          deletedAt: r.deletedAt?.toISOString() ?? null,
          bytes: results.get(r.id) ?? 0,
        }));
      return {
        id: project.id,
        name: project.name,
        deletedAt: project.deletedAt?.toISOString() ?? null,
        bytes: [...named].reduce((sum, hash) => sum + sizeOf(hash), 0) + ownRuns.reduce((sum, r) => sum + r.bytes, 0),
        variants: own.map((v) => ({
          id: v.id,
          name: v.name,
          version: v.version,
          deletedAt: v.deletedAt?.toISOString() ?? null,
        })),
        runs: ownRuns,
      };
    }),
  };
}

/** Runs under way of a project, or of a variant. */
export async function runsUnderWay(db: Database, of: { projectId?: string; variantId?: string }): Promise<string[]> {
  const own = await db.select({ id: variants.id, projectId: variants.projectId }).from(variants);
  const ids = own.filter((v) => v.projectId === of.projectId || v.id === of.variantId).map((v) => v.id);
  const rows = await db.select({ id: runs.id, status: runs.status }).from(runs).where(inArray(runs.variantId, ids));
  return rows.filter((r) => isUnderWay(r.status)).map((r) => r.id);
}
