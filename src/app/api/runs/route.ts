import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { createRun } from '@/server/studies';
import { handle } from '../respond';

export const POST = handle(ROUTES.startRun, async ({ variantId }) => {
  const { db, queue } = await app();
  const run = await createRun(db, variantId);
  queue.enqueue(run.id);
  return run;
});
