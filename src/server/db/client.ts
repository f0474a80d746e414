import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { databasePath, dataDir, homeDir } from '../paths';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema>;

/** Opens (and migrates) the database of the data folder. One writer: everything goes through one process. */
export async function openDatabase(): Promise<Database> {
  mkdirSync(dataDir(), { recursive: true });
  const client = createClient({ url: `file:${databasePath()}`, timeout: 5000 });
  await client.execute('PRAGMA journal_mode = WAL');
  const db = drizzle(client, { schema });
  await migrate(db, { migrationsFolder: path.join(homeDir(), 'drizzle') });
  return db;
}
