import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { structureOfRun } from '@/server/trials';
import { handleStreamed, notFound } from '../../../respond';

/** A file or a counter-warped body from the shape of a run; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.structure, async ({ ask }, report, signal, { id }: { id: string }) => {
  if (!/^[0-9a-f-]{36}$/.test(id)) throw notFound('This run');
  return structureOfRun((await app()).db, id, ask, report, signal);
});
