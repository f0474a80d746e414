import { accessSync, constants, existsSync } from 'node:fs';
import path from 'node:path';
import { count } from '../core/geometry/finding';
import { inputsSchema } from '../core/model/study';
import { describeIssues } from '../core/model/studyFile';
import { hasResults, isUnderWay } from '../runtime/wire';
import { filesOf, isWhole } from './archive';
import { knownMigrations, openAsItIs, seenMigrations, type Database } from './db/client';
import { runs, variants } from './db/schema';
import { bytesOf, namedSurfaces, orphansOf, SURFACE_KEPT_MS } from './housekeeping';
import { databasePath, dataDir, meshDir, meshPath, runDir } from './paths';
import { dataLimit, roomLeft } from './usage';

export interface Finding {
  /** "bad": something is lost or will be; "note": room that can be had, or what is worth knowing. */
  severity: 'good' | 'note' | 'bad';
  message: string;
  remedy?: string;
}

const LITTLE_ROOM = 1e9;
const named = (ids: readonly string[]) => `${ids.slice(0, 3).join(', ')}${ids.length > 3 ? ', …' : ''}`;
const BACKUP = 'Bring a backup back ("bellows restore FILE").';

/** State of the data folder: what is damaged, what is missing, what nobody needs. Nothing is changed. */
export async function examine(): Promise<Finding[]> {
  if (!existsSync(databasePath()))
    return [
      {
        severity: 'bad',
        message: `There is no database in ${dataDir()}.`,
        remedy: 'Name the data folder with BELLOWS_DATA, or start Bellows once.',
      },
    ];
  const findings = room();
  let db: Database;
  try {
    db = await openAsItIs();
    findings.push(...(await database(db)));
  } catch {
    findings.push({ severity: 'bad', message: 'The database can not be read.', remedy: BACKUP });
    return findings;
  }
  if (findings.some((f) => f.message === OF_ANOTHER_VERSION)) return findings;
  findings.push(...(await studies(db)), ...(await surfaces(db)), ...(await results(db)), ...(await orphans(db)));
  db.$client.close();
  return findings;
}

function room(): Finding[] {
  const findings: Finding[] = [];
  try {
    accessSync(dataDir(), constants.W_OK);
  } catch {
    findings.push({
      severity: 'bad',
      message: `${dataDir()} may not be written.`,
      remedy: 'Give its owner the right to write there.',
    });
  }
  const left = roomLeft();
  const total = bytesOf(dataDir());
  const gb = (bytes: number) => `${(bytes / 1e9).toFixed(2)} GB`;
  if (left < LITTLE_ROOM)
    findings.push({
      severity: 'bad',
      message: `${gb(left)} are free on the disk.`,
      remedy: 'Free some space, or delete runs on the page Data.',
    });
  else findings.push({ severity: 'good', message: `${gb(left)} are free on the disk.` });
  const within = total <= dataLimit();
  findings.push({
    severity: within ? 'good' : 'note',
    message: `The data take up ${gb(total)} of ${gb(dataLimit())}.`,
    remedy: within ? undefined : 'Delete runs on the page Data, or raise BELLOWS_DATA_LIMIT_GB.',
  });
  return findings;
}

const OF_ANOTHER_VERSION = 'The database is of another version of Bellows.';

async function database(db: Database): Promise<Finding[]> {
  const { rows } = await db.$client.execute('PRAGMA integrity_check');
  if (rows[0]?.integrity_check !== 'ok')
    return [{ severity: 'bad', message: 'The database is damaged.', remedy: BACKUP }];
  const seen = await seenMigrations(db);
  if (seen !== knownMigrations())
    return [
      {
        severity: seen > knownMigrations() ? 'bad' : 'note',
        message: OF_ANOTHER_VERSION,
        remedy: seen > knownMigrations() ? 'Update Bellows.' : 'Start Bellows once: it brings it up to date.',
      },
    ];
  const torn = await db.$client.execute('PRAGMA foreign_key_check');
  if (torn.rows.length)
    return [
      {
        severity: 'bad',
        message: `${count(torn.rows.length, 'row refers', 'rows refer')} to what is not there.`,
        remedy: BACKUP,
      },
    ];
  return [{ severity: 'good', message: 'The database is whole.' }];
}

async function studies(db: Database): Promise<Finding[]> {
  const broken: Finding[] = [];
  const all = await db.select().from(variants);
  for (const { name, inputs } of all) {
    const parsed = inputsSchema.safeParse(inputs);
    if (parsed.success) continue;
    broken.push({
      severity: 'bad',
      message: `The variant “${name}” can not be read: ${describeIssues(parsed.error, inputs).split('\n')[0]}`,
      remedy: BACKUP,
    });
  }
  return broken.length
    ? broken
    : [{ severity: 'good', message: `${count(all.length, 'variant', 'variants')} can be read.` }];
}

async function surfaces(db: Database): Promise<Finding[]> {
  const hashes = [...(await namedSurfaces(db))];
  const missing = hashes.filter((hash) => !existsSync(meshPath(hash)));
  const changed = hashes.filter((hash) => !missing.includes(hash) && !isWhole(meshPath(hash), hash));
  const findings: Finding[] = [];
  const tell = (one: string, many: string, which: string[]) =>
    which.length &&
    findings.push({ severity: 'bad', message: `${count(which.length, one, many)}: ${named(which)}.`, remedy: BACKUP });
  tell('surface is missing', 'surfaces are missing', missing);
  tell('surface is not what it was', 'surfaces are not what they were', changed);
  const whole = count(hashes.length, 'surface is whole', 'surfaces are whole');
  return findings.length ? findings : [{ severity: 'good', message: `${whole}.` }];
}

async function results(db: Database): Promise<Finding[]> {
  const rows = await db.select({ id: runs.id, status: runs.status }).from(runs);
  const withResults = rows.filter((r) => hasResults(r.status)).map((r) => r.id);
  const torn = withResults.filter((id) => filesOf(runDir(id)).missing.length);
  if (torn.length)
    return [
      {
        severity: 'bad',
        message: `${count(torn.length, 'result lacks files', 'results lack files')}: ${named(torn)}.`,
        remedy: 'Run those variants again, or bring a backup back.',
      },
    ];
  return [{ severity: 'good', message: `${count(withResults.length, 'result is whole', 'results are whole')}.` }];
}

async function orphans(db: Database): Promise<Finding[]> {
  const found = await orphansOf(db, new Date(Date.now() - SURFACE_KEPT_MS), false);
  const places = Object.values(found).flat() as string[];
  const underWay = (await db.select({ status: runs.status }).from(runs)).filter((r) => isUnderWay(r.status)).length;
  const findings: Finding[] = underWay
    ? [{ severity: 'note', message: `${count(underWay, 'run is under way or waits', 'runs are under way or wait')}.` }]
    : [];
  if (!places.length) return findings;
  const bytes = places.reduce((sum, place) => sum + bytesOf(place), 0);
  const inFolders = [...new Set(places.map((p) => path.relative(path.dirname(meshDir()), path.dirname(p)) || '.'))];
  findings.push({
    severity: 'note',
    message: `${count(places.length, 'file belongs', 'files belong')} to nothing (${(bytes / 1e6).toFixed(1)} MB in ${inFolders.join(', ')}).`,
    remedy: 'The next start of Bellows takes them away.',
  });
  return findings;
}
