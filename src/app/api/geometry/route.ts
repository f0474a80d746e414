import { geometryTaskSchema } from '@/core/model/geometryTask';
import { app } from '@/server/app';
import { runGeometryTask } from '@/server/geometry';
import { streamed } from '../respond';

/** Work on surfaces; the answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  streamed(request, async (report, signal) => {
    const task = geometryTaskSchema.parse(await request.json());
    return runGeometryTask((await app()).db, task, report, signal);
  });
