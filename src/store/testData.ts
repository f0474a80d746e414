import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { emptyInputs } from '../core/model/study';
import { writeFileAtomic } from '../runtime/files';
import type { RunStatus } from '../runtime/wire';
import { openDatabase, type Database } from './db/client';
import { geometries, projects, runs, variants } from './db/schema';
import { meshPath, runDir } from './paths';

/** A data folder of its own for a test, with its database. */
export async function freshData(): Promise<{ db: Database; folder: string; end: () => void }> {
  process.env.BELLOWS_HOME = fileURLToPath(new URL('../..', import.meta.url));
  const folder = mkdtempSync(path.join(os.tmpdir(), 'bellows-store-'));
  process.env.BELLOWS_DATA = folder;
  return { db: await openDatabase(), folder, end: () => rmSync(folder, { recursive: true, force: true }) };
}

/** Stores a surface of that content; its hash. */
export async function aSurface(db: Database, content: string): Promise<string> {
  const hash = createHash('sha256').update(content).digest('hex');
  writeFileAtomic(meshPath(hash), content);
  const report = {} as typeof geometries.$inferInsert.report;
  await db.insert(geometries).values({ hash, report, findings: [], createdAt: new Date() }).onConflictDoNothing();
  return hash;
}

/** A project with one variant of a part. */
export async function aProject(db: Database, name: string, mesh: string): Promise<{ id: string; variantId: string }> {
  const now = new Date();
  const id = randomUUID();
  const variantId = randomUUID();
  await db.insert(projects).values({ id, name, createdAt: now, changedAt: now });
  await db
    .insert(variants)
    .values({ id: variantId, projectId: id, name: 'First', inputs: emptyInputs(mesh), createdAt: now });
  return { id, variantId };
}

/** A run with the files of a result. */
export async function aRun(db: Database, variantId: string, mesh: string, status: RunStatus): Promise<string> {
  const id = randomUUID();
  const inputs = emptyInputs(mesh);
  await db.insert(runs).values({ id, variantId, inputs, inputKey: 'k', status, createdAt: new Date() });
  mkdirSync(runDir(id), { recursive: true });
  const files = {
    'manifest.json': JSON.stringify({ fields: [{ id: 'pressure' }] }),
    'grid.bin': 'grid',
    'surface.bin': 'surface',
    'pressure.f32': 'x'.repeat(4000),
  };
  for (const [name, content] of Object.entries(files)) writeFileSync(path.join(runDir(id), name), content);
  return id;
}
