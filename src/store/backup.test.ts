import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import * as tar from 'tar';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { backup } from './backup';
import { openDatabase, type Database } from './db/client';
import { projects, runs, variants } from './db/schema';
import { meshPath, runDir } from './paths';
import { restore } from './restore';
import { aProject, aRun, aSurface, freshData } from './testData';

let db: Database;
let folder: string;
const ends: (() => void)[] = [];
let file: string;
let kept: { mesh: string; run: string };

/** Another, empty data folder. */
async function elsewhere(): Promise<Database> {
  const fresh = await freshData();
  ends.push(fresh.end);
  return fresh.db;
}

beforeEach(async () => {
  const fresh = await freshData();
  ends.push(fresh.end);
  ({ db, folder } = fresh);
  const mesh = await aSurface(db, 'surface');
  const { variantId } = await aProject(db, 'Kept', mesh);
  kept = { mesh, run: await aRun(db, variantId, mesh, 'filled') };
  await aRun(db, variantId, mesh, 'running');
  const gone = await aProject(db, 'Deleted', await aSurface(db, 'other'));
  await aRun(db, gone.variantId, mesh, 'filled');
  await db.update(projects).set({ deletedAt: new Date() }).where(eq(projects.id, gone.id));
  file = path.join(folder, 'kept.tar.gz');
});
afterEach(() => ends.splice(0).forEach((end) => end()));

const namesOf = async (of: Database) => (await of.select().from(projects)).map((p) => p.name).sort();

describe('a backup', () => {
  it('holds what there is and not what was deleted, and comes back elsewhere', async () => {
    expect(await backup(file)).toMatchObject({ nProjects: 1, nRuns: 1, missing: [] });
    const other = await elsewhere();
    expect(await restore(file, false)).toMatchObject({ nProjects: 1 });
    expect(await namesOf(other)).toEqual(['Kept']);
    expect((await other.select().from(runs)).map((r) => r.status).sort()).toEqual(['filled', 'interrupted']);
    expect(readFileSync(meshPath(kept.mesh), 'utf8')).toBe('surface');
    expect(readdirSync(runDir(kept.run)).sort()).toEqual(['grid.bin', 'manifest.json', 'pressure.f32', 'surface.bin']);
    expect(readdirSync(path.dirname(file)).filter((n) => n.endsWith('.tmp'))).toEqual([]);
  });

  it('is as of one moment while others write', async () => {
    const writing = (async () => {
      for (let k = 0; k < 30; k++) {
        const [{ id }] = await db.select().from(projects).limit(1);
        await db.batch([
          db
            .update(projects)
            .set({ name: `Kept ${k}` })
            .where(eq(projects.id, id)),
          db
            .update(variants)
            .set({ name: `Kept ${k}` })
            .where(eq(variants.projectId, id)),
        ]);
        await new Promise(setImmediate);
      }
    })();
    await backup(file);
    await writing;
    const other = await elsewhere();
    await restore(file, false);
    const [project] = await other.select().from(projects);
    const [variant] = await other.select().from(variants);
    expect(variant.name === project.name || project.name === 'Kept').toBe(true);
  });

  it('goes in place of what is there only when that is said, and what was not in it goes', async () => {
    await backup(file);
    await aProject(db, 'Newer', kept.mesh);
    await expect(restore(file, false)).rejects.toThrow(/holds 2 projects/);
    expect(await namesOf(db)).toEqual(['Deleted', 'Kept', 'Newer']);
    await restore(file, true);
    expect(await namesOf(await openDatabase())).toEqual(['Kept']);
  });

  it('tells what was not there to be kept, and comes back without it', async () => {
    rmSync(meshPath(kept.mesh));
    expect((await backup(file)).missing).toEqual([kept.mesh]);
    await elsewhere();
    await restore(file, false);
    expect(existsSync(meshPath(kept.mesh))).toBe(false);
  });
});

describe('an archive that is no whole backup changes nothing', () => {
  /** The backup, unpacked, changed and packed again. */
  async function changed(change: (at: string) => void): Promise<void> {
    await backup(file);
    const at = path.join(folder, 'unpacked');
    mkdirSync(at);
    await tar.extract({ file, cwd: at });
    change(at);
    await tar.create({ gzip: true, file, cwd: at }, readdirSync(at));
  }
  const refused = async (message: RegExp) => {
    const before = await namesOf(db);
    process.env.BELLOWS_DATA = folder;
    await expect(restore(file, true)).rejects.toThrow(message);
    expect(await namesOf(await openDatabase())).toEqual(before);
    expect(readdirSync(folder).filter((n) => n.includes('.tmp'))).toEqual([]);
  };
  const meshIn = (at: string) => path.join(at, 'meshes', `${kept.mesh}.mesh`);

  it.each<[string, (at: string) => void, RegExp]>([
    ['a surface that is not what it was', (at) => writeFileSync(meshIn(at), 'changed'), /not whole: surface/],
    ['a surface that is gone', (at) => rmSync(meshIn(at)), /not whole: surface/],
    ['a result that lacks a field', (at) => rmSync(path.join(at, 'runs', kept.run, 'pressure.f32')), /not whole: run/],
    ['a database that is damaged', (at) => truncateSync(path.join(at, 'bellows.db'), 9000), /not whole: its database/],
    ['a database that is none', (at) => writeFileSync(path.join(at, 'bellows.db'), 'x'.repeat(9000)), /its database/],
    [
      'a file that no backup has',
      (at) => writeFileSync(path.join(at, 'runs', 'x.sh'), 'x'),
      /holds what no backup has/,
    ],
    [
      'a link out of it',
      (at) => symlinkSync('/etc/passwd', path.join(at, 'meshes', `${'f'.repeat(64)}.mesh`)),
      /holds/,
    ],
    ['no label', (at) => rmSync(path.join(at, 'bellows-backup.json')), /no backup of Bellows/],
    ['a strange label', (at) => writeFileSync(path.join(at, 'bellows-backup.json'), '{'), /labelled in a way/],
  ])('%s', async (_what, change, message) => {
    await changed(change);
    await refused(message);
  });

  it('of a newer Bellows', async () => {
    await db.$client.execute("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9999999999999)");
    await backup(file);
    await refused(/A newer Bellows/);
  });

  it('cut short, or something else', async () => {
    await backup(file);
    truncateSync(file, 1500);
    await refused(/no whole backup/);
    writeFileSync(file, 'words');
    await refused(/no whole backup|no backup of Bellows/);
    rmSync(file);
    await expect(restore(file, true)).rejects.toThrow(/There is no file/);
  });
});
