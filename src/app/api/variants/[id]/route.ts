import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { stopRuns } from '@/server/deleting';
import { changeVariant } from '@/server/studies';
import { handle } from '../../respond';

export const PATCH = handle(ROUTES.changeVariant, async (change, { id }: { id: string }) => {
  const { db, queue } = await app();
  const variant = await changeVariant(db, id, change);
  if (change.deleted) await stopRuns(db, queue, { variantId: id });
  return variant;
});
