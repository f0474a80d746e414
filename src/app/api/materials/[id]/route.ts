import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { deleteMaterial } from '@/server/materials';
import { handle } from '../../respond';

export const DELETE = handle(ROUTES.deleteMaterial, async (_sent, { id }: { id: string }) => {
  await deleteMaterial((await app()).db, id);
  return {};
});
