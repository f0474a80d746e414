import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { handle } from '../../../respond';

export const POST = handle(ROUTES.cancelRun, async (_sent, { id }: { id: string }) => {
  await (await app()).queue.cancel(id);
  return {};
});
