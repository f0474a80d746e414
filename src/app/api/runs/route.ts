import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { askForRun, createRun, runsAside } from '@/server/studies';
import { handle } from '../respond';

export const POST = handle(ROUTES.startRun, async ({ variantId }) => {
  const { db, queue } = await app();
  const { same, others } = await runsAside(db, variantId);
  for (const { id } of others) await queue.cancel(id);
  if (same) {
    queue.ask(same.id);
    return askForRun(db, same);
  }
  const run = await createRun(db, variantId);
  queue.enqueue(run.id);
  return run;
});
