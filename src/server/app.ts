import 'server-only';
import { openDatabase, type Database } from '../store/db/client';
import { seedDemo } from './demo';
import { RunQueue } from './queue';
import { dataDir } from '../store/paths';
import { sweep } from '../store/housekeeping';
import { log } from './log';

/** Between two sweeps of what has been deleted long ago, ms. */
const SWEEP_MS = 3_600_000;

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
  const swept = await sweep(db, true);
  await seedDemo(db);
  const queue = new RunQueue(db);
  await queue.recover();
  queue.warmUp();
  setInterval(() => {
    sweep(db, false).catch((error: unknown) => log.warn({ error }, 'could not sweep'));
  }, SWEEP_MS).unref();
  log.info({ data: dataDir(), swept: swept.nFiles }, 'started');
  return { db, queue };
}

/** Ends what is under way so that the next start takes it up again. The process ends afterwards. */
export async function stopApp(): Promise<void> {
  const running = await holder.bellowsApp?.catch(() => null);
  if (!running) return;
  await running.queue.stop();
  running.db.$client.close();
  log.info('stopped');
}
