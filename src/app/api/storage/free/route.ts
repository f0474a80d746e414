import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { freeDeleted } from '@/store/housekeeping';
import { handle } from '../../respond';

/** Frees everything that is deleted now, rather than when it can no longer be brought back. */
export const POST = handle(ROUTES.freeDeleted, async () => {
  const { bytes } = await freeDeleted((await app()).db, new Date());
  return { bytes };
});
