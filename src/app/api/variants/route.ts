import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { branchVariant } from '@/server/studies';
import { handle } from '../respond';

export const POST = handle(ROUTES.branch, async ({ parentId, name, inputs }) =>
  branchVariant((await app()).db, parentId, name, inputs),
);
