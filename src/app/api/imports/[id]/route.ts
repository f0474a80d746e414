import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { acceptImport } from '@/server/imports';
import { handle } from '../../respond';

export const POST = handle(ROUTES.acceptImport, async ({ unit, placement }, { id }: { id: string }) =>
  acceptImport((await app()).db, id, unit, placement),
);
