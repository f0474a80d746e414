import { eq } from 'drizzle-orm';
import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { changeRun } from '@/server/deleting';
import { runs } from '@/store/db/schema';
import { handle, notFound } from '../../respond';

export const GET = handle(ROUTES.run, async (_sent, { id }: { id: string }) => {
  const { db } = await app();
  const [run] = await db.select().from(runs).where(eq(runs.id, id));
  if (!run) throw notFound('This run');
  return run;
});

export const PATCH = handle(ROUTES.changeRun, async ({ deleted }, { id }: { id: string }) => {
  const { db, queue } = await app();
  return changeRun(db, queue, id, deleted);
});
