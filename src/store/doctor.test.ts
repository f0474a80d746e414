import { rmSync, truncateSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Database } from './db/client';
import { variants } from './db/schema';
import { examine } from './doctor';
import { databasePath, meshPath, runDir } from './paths';
import { aProject, aRun, aSurface, freshData } from './testData';

let db: Database;
let folder: string;
let end: () => void;
let mesh: string;
let run: string;
let variantId: string;
beforeEach(async () => {
  ({ db, folder, end } = await freshData());
  mesh = await aSurface(db, 'surface');
  ({ variantId } = await aProject(db, 'One', mesh));
  run = await aRun(db, variantId, mesh, 'filled');
});
afterEach(() => end());

const bad = async () => (await examine()).filter((f) => f.severity === 'bad').map((f) => f.message);

describe('a doctor', () => {
  it('finds nothing where nothing is amiss, and changes nothing', async () => {
    expect(await bad()).toEqual([]);
    expect((await examine()).map((f) => f.message)).toEqual(
      expect.arrayContaining(['The database is whole.', '1 variant can be read.', '1 surface is whole.']),
    );
  });

  it.each<[string, () => void | Promise<unknown>, RegExp]>([
    ['a surface that is gone', () => rmSync(meshPath(mesh)), /1 surface is missing/],
    ['a surface that has changed', () => writeFileSync(meshPath(mesh), 'x'), /1 surface is not what it was/],
    ['a result without a field', () => rmSync(path.join(runDir(run), 'pressure.f32')), /1 result lacks files/],
    [
      'a variant that can not be read',
      () =>
        db
          .update(variants)
          .set({ inputs: { gates: 3 } as never })
          .where(eq(variants.id, variantId)),
      /“First” can not be read: bodies: is missing/,
    ],
    ['no database', () => rmSync(databasePath()), /There is no database/],
  ])('finds %s', async (_what, damage, message) => {
    await damage();
    expect((await bad()).join('\n')).toMatch(message);
  });

  it('finds a damaged database', async () => {
    await db.$client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
    db.$client.close();
    truncateSync(databasePath(), 6000);
    expect((await bad()).join()).toMatch(/The database (is damaged|can not be read)/);
  });

  it('tells files that belong to nothing, with their size', async () => {
    const left = path.join(folder, 'backup.1-0-1.tmp');
    writeFileSync(left, 'x'.repeat(2e6));
    const { utimesSync } = await import('node:fs');
    utimesSync(left, new Date(1e12), new Date(1e12));
    expect((await examine()).map((f) => f.message)).toContain('1 file belongs to nothing (2.0 MB in .).');
  });
});
