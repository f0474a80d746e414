import 'server-only';
import type { Inputs } from '../core/model/study';
import { openDatabase, type Database } from '../store/db/client';
import { seedDemo } from './demo';
import { RunQueue } from './queue';
import { dataDir } from '../store/paths';
import { RequestError } from './requestError';
import { createRun } from './studies';
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
  // `bare`: the projects alone, for tests.
  const bare = process.env.BELLOWS_DEMO === 'bare';
  const fresh = await seedDemo(db, bare);
  // The demo opens with results: they are worked out while nobody asks for others, the filling of the first before all.
  if (!bare && fresh.length) {
    await createIfReady(db, fresh[0], 'fill');
    for (const variantId of fresh) await createIfReady(db, variantId);
  }
  const queue = new RunQueue(db);
  await queue.recover();
  queue.warmUp();
  setInterval(() => {
    sweep(db, false).catch((error: unknown) => log.warn({ error }, 'could not sweep'));
  }, SWEEP_MS).unref();
  log.info({ data: dataDir(), swept: swept.nFiles }, 'started');
  return { db, queue };
}

/** Records a run that nobody has asked for; none where something is still missing. */
async function createIfReady(db: Database, variantId: string, upTo?: Inputs['upTo']): Promise<void> {
  try {
    await createRun(db, variantId, { aside: true, upTo });
  } catch (error) {
    if (!(error instanceof RequestError)) throw error;
  }
}

/** Ends what is under way so that the next start takes it up again. The process ends afterwards. */
export async function stopApp(): Promise<void> {
  const running = await holder.bellowsApp?.catch(() => null);
  if (!running) return;
  await running.queue.stop();
  running.db.$client.close();
  log.info('stopped');
}
