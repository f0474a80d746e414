import { readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { HALF_WRITTEN } from '../runtime/files';
import { hasResults } from '../runtime/wire';
import type { Database } from './db/client';
import { runs } from './db/schema';
import { importDir, mapsDir, meshDir, phaseDir, runsDir } from './paths';

const namesIn = (folder: string): string[] => {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
};

/**
 * Takes away what an earlier life of the server has left behind and nobody can ask for: uploads that were not confirmed,
 * folders of runs that came to no result, and files that were not written whole. How many there were. What can not be
 * removed stays: it is in nobody's way.
 */
export async function sweep(db: Database): Promise<number> {
  const rows = await db.select({ id: runs.id, status: runs.status }).from(runs);
  const kept = new Set(rows.filter((r) => hasResults(r.status)).map((r) => r.id));
  const left = [
    ...namesIn(importDir()).map((name) => path.join(importDir(), name)),
    ...namesIn(runsDir())
      .filter((id) => !kept.has(id))
      .map((id) => path.join(runsDir(), id)),
    ...[meshDir(), mapsDir(), phaseDir()].flatMap((folder) =>
      namesIn(folder)
        .filter((name) => HALF_WRITTEN.test(name))
        .map((name) => path.join(folder, name)),
    ),
  ];
  for (const place of left)
    try {
      rmSync(place, { recursive: true, force: true });
    } catch (error) {
      console.error(error);
    }
  return left.length;
}
