import { existsSync, mkdirSync, readFileSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';
import { isNull } from 'drizzle-orm';
import * as tar from 'tar';
import { isFull } from '../runtime/files';
import { hasResults } from '../runtime/wire';
import {
  BackupError,
  DATABASE,
  filesOf,
  isWhole,
  LABEL,
  labelSchema,
  quoted,
  stagingFolder,
  type BackupLabel,
} from './archive';
import { knownMigrations, openAsItIs, openDatabase, seenMigrations, type Database } from './db/client';
import { projects, runs } from './db/schema';
import { namedSurfaces, namesIn } from './housekeeping';
import { dataDir, meshDir, runsDir } from './paths';

/** What may stand in a backup: label, database, surfaces by their hash, files of runs by their ids. */
const MEMBER =
  /^(bellows-backup\.json|bellows\.db|meshes|runs|meshes\/[0-9a-f]{64}\.mesh|runs\/[0-9a-f-]{36}(\/[a-zA-Z0-9-]+\.(bin|f32|json|inp|vtu))?)$/;

/** Parents before what refers to them. */
const TABLES = ['geometries', 'materials', 'projects', 'variants', 'runs'];

/**
 * Brings a backup back in place of what the data folder holds. It is unpacked and looked at first: one that is not whole
 * changes nothing. The database changes in one step, so the server may go on; its pages show what there is when they are
 * looked at again. `replace`: what is there may go.
 * @throws BackupError
 */
export async function restore(file: string, replace: boolean): Promise<BackupLabel> {
  if (!existsSync(file))
    throw new BackupError(`There is no file ${file}.`, 'Name the backup that is to be brought back.');
  const staging = stagingFolder('restore');
  mkdirSync(staging, { recursive: true });
  try {
    const label = await unpacked(file, staging);
    await look(staging, label);
    const live = await openDatabase();
    try {
      const n = (await live.select({ id: projects.id }).from(projects).where(isNull(projects.deletedAt))).length;
      if (n && !replace)
        throw new BackupError(
          `The data folder (${dataDir()}) holds ${n} ${n === 1 ? 'project' : 'projects'}.`,
          'Add --replace to bring the backup back in their place; back them up first if they are wanted.',
        );
      moveInto(path.join(staging, 'meshes'), meshDir());
      moveInto(path.join(staging, 'runs'), runsDir());
      await swap(live, path.join(staging, DATABASE));
    } finally {
      live.$client.close();
    }
    return label;
  } finally {
    rmSync(staging, { recursive: true, force: true });
  }
}

async function unpacked(file: string, staging: string): Promise<BackupLabel> {
  let foreign: string | null = null;
  const filter = (name: string, entry: object) => {
    const plain = name.replace(/\/$/, '');
    const type = 'type' in entry ? entry.type : null;
    const ours = MEMBER.test(plain) && (type === 'File' || type === 'Directory');
    if (!ours) foreign ??= plain.slice(0, 80);
    return ours;
  };
  try {
    await tar.extract({ file, cwd: staging, strict: true, filter });
  } catch (error) {
    if (isFull(error)) throw error;
    throw new BackupError('This file is no whole backup.', 'Take another copy of it, or an earlier backup.');
  }
  const no = (what: string) => new BackupError(what, 'Choose a file that "bellows backup" has written.');
  if (foreign !== null) throw no(`The archive holds what no backup has: ${foreign as string}.`);
  const at = path.join(staging, LABEL);
  if (!existsSync(at) || !existsSync(path.join(staging, DATABASE))) throw no('This is no backup of Bellows.');
  const label = labelSchema.safeParse(json(at));
  if (!label.success) throw no('This backup is labelled in a way that is not known.');
  return label.data;
}

function json(file: string): unknown {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
}

/** Looks whether what was unpacked is whole. @throws BackupError */
async function look(staging: string, label: BackupLabel): Promise<void> {
  const copy = path.join(staging, DATABASE);
  const faults = await faultsOf(staging, copy, new Set(label.missing));
  if (!faults.length) return;
  const more = faults.length > 3 ? ` and ${faults.length - 3} more` : '';
  throw new BackupError(
    `The backup is not whole: ${faults.slice(0, 3).join(', ')}${more}.`,
    'Take another copy of it, or an earlier backup. Nothing was changed.',
  );
}

async function faultsOf(staging: string, copy: string, known: ReadonlySet<string>): Promise<string[]> {
  let db: Database;
  try {
    const raw = await openAsItIs(copy);
    const seen = await seenMigrations(raw);
    raw.$client.close();
    if (seen > knownMigrations())
      throw new BackupError('A newer Bellows has written this backup.', 'Update Bellows, then bring it back.');
    db = await openDatabase(copy);
  } catch (error) {
    if (error instanceof BackupError || isFull(error)) throw error;
    return ['its database'];
  }
  const { rows } = await db.$client.execute('PRAGMA integrity_check');
  const faults = rows[0]?.integrity_check === 'ok' ? [] : ['its database'];
  for (const hash of await namedSurfaces(db)) {
    const place = path.join(staging, 'meshes', `${hash}.mesh`);
    if (existsSync(place) ? !isWhole(place, hash) : !known.has(hash)) faults.push(`surface ${hash.slice(0, 8)}`);
  }
  for (const { id, status } of await db.select({ id: runs.id, status: runs.status }).from(runs)) {
    const { missing } = filesOf(path.join(staging, 'runs', id));
    if (hasResults(status) && missing.length && !known.has(id)) faults.push(`run ${id.slice(0, 8)}`);
  }
  db.$client.close();
  return faults;
}

/** Moves files and folders that are not there yet: named by content or by an id of their own, the others are the same. */
function moveInto(from: string, to: string): void {
  mkdirSync(to, { recursive: true });
  for (const name of namesIn(from)) {
    const target = path.join(to, name);
    if (!existsSync(target)) renameSync(path.join(from, name), target);
  }
}

/** Puts all rows of a database in place of those of the live one, in one transaction. */
async function swap({ $client: live }: Database, copy: string): Promise<void> {
  await live.execute(`ATTACH ${quoted(copy)} AS kept`);
  const statements = [...TABLES].reverse().map((table) => `DELETE FROM main.${table}`);
  for (const table of TABLES) {
    const { rows } = await live.execute(`PRAGMA kept.table_info(${table})`);
    const columns = rows.map((row) => `"${String(row.name)}"`).join();
    statements.push(`INSERT INTO main.${table} (${columns}) SELECT ${columns} FROM kept.${table}`);
  }
  try {
    await live.executeMultiple(`BEGIN IMMEDIATE;\n${statements.join(';\n')};\nCOMMIT;`);
  } catch (error) {
    await live.execute('ROLLBACK').catch(() => {});
    throw error;
  }
  await live.execute('DETACH kept');
}
