import { mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { databasePath, homeDir } from '../paths';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

const migrationsDir = () => path.join(homeDir(), 'drizzle');

/**
 * A database, opened and migrated; the one of the data folder unless another is named. One writer: the server. Others
 * (backup, doctor) read, or change it in one transaction, and wait for each other.
 */
export async function openDatabase(file = databasePath()): Promise<Database> {
  mkdirSync(path.dirname(file), { recursive: true });
  const db = await openAsItIs(file);
  await migrate(db, { migrationsFolder: migrationsDir() });
  return db;
}

/** A database that is not migrated: to look at one that may be damaged or of another version. */
export async function openAsItIs(file = databasePath()): Promise<Database> {
  const client = createClient({ url: `file:${file}`, timeout: 5000 });
  await client.execute('PRAGMA journal_mode = WAL');
  return drizzle(client, { schema });
}

/** How many migrations this program knows. */
export function knownMigrations(): number {
  const journal = readFileSync(path.join(migrationsDir(), 'meta', '_journal.json'), 'utf8');
  return (JSON.parse(journal) as { entries: unknown[] }).entries.length;
}

/** How many migrations a database has seen: 0 for one that is none of ours. */
export async function seenMigrations(db: Database): Promise<number> {
  const table = await db.$client.execute("SELECT 1 FROM sqlite_master WHERE name = '__drizzle_migrations'");
  if (!table.rows.length) return 0;
  const { rows } = await db.$client.execute('SELECT count(*) AS n FROM __drizzle_migrations');
  return Number(rows[0].n);
}
