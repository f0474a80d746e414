import { z } from 'zod';
import { app } from '@/server/app';
import { structureOfRun } from '@/server/trials';
import { notFound, streamed } from '../../../respond';

const requestSchema = z.strictObject({ ask: z.enum(['deck', 'vtu', 'counter']) });

/** A file or a counter-warped body from the shape of a run; the answer is a stream of lines, see TaskLine. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  streamed(request, async (report, signal) => {
    const { id } = await params;
    if (!/^[0-9a-f-]{36}$/.test(id)) throw notFound('This run');
    const { ask } = requestSchema.parse(await request.json());
    return structureOfRun((await app()).db, id, ask, report, signal);
  });
