import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { changeVariant } from '@/server/studies';
import { handle } from '../../respond';

export const PATCH = handle(ROUTES.changeVariant, async (change, { id }: { id: string }) =>
  changeVariant((await app()).db, id, change),
);
