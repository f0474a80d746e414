import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { runGeometryTask } from '@/server/geometry';
import { handleStreamed } from '../respond';

/** Work on surfaces; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.geometry, async (task, report, signal) =>
  runGeometryTask((await app()).db, task, report, signal),
);
