import { eq } from 'drizzle-orm';
import type { StoredMaterial } from '../runtime/wire';
import type { Database } from '../store/db/client';
import { materials } from '../store/db/schema';
import { RequestError } from './requestError';

/** Everything that does not ship with the application, last changed first. */
export async function listMaterials(db: Database): Promise<StoredMaterial[]> {
  const rows = await db.select().from(materials);
  return rows
    .sort((a, b) => b.changedAt.getTime() - a.changedAt.getTime())
    .map(({ kind, material }) => ({ kind, material }) as StoredMaterial);
}

/** Keeps a material under its id, new or changed. Studies hold a copy of what they use: they do not change with it. */
export async function saveMaterial(db: Database, { kind, material }: StoredMaterial): Promise<StoredMaterial> {
  if (material.origin === 'sample')
    throw new RequestError('A sample cannot be changed.', 'Copy it first, then change the copy.');
  const now = new Date();
  await db
    .insert(materials)
    .values({ id: material.id, kind, material, createdAt: now, changedAt: now })
    .onConflictDoUpdate({ target: materials.id, set: { material, kind, changedAt: now } });
  return { kind, material } as StoredMaterial;
}

export async function deleteMaterial(db: Database, id: string): Promise<void> {
  await db.delete(materials).where(eq(materials.id, id));
}
