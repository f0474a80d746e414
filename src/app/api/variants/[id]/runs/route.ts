import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { resultsOfVariant } from '@/server/studies';
import { handle } from '../../../respond';

export const GET = handle(ROUTES.variantRuns, async (_nothing, { id }: { id: string }) => {
  const { db } = await app();
  return resultsOfVariant(db, id);
});
