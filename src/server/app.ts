import 'server-only';
import { openDatabase, type Database } from './db/client';
import { seedDemo } from './demo';
import { RunQueue } from './queue';
import { sweep } from './sweep';

export interface App {
  db: Database;
  queue: RunQueue;
}

const holder = globalThis as { bellowsApp?: Promise<App> };

/** The one instance of this process; on globalThis because route bundles do not share modules. */
export function app(): Promise<App> {
  holder.bellowsApp ??= start().catch((error: unknown) => {
    // What stopped it may be gone by the next request.
    holder.bellowsApp = undefined;
    throw error;
  });
  return holder.bellowsApp;
}

async function start(): Promise<App> {
  const db = await openDatabase();
  await sweep(db);
  await seedDemo(db);
  const queue = new RunQueue(db);
  await queue.recover();
  queue.warmUp();
  return { db, queue };
}
