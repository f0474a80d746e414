import { z } from 'zod';
import { app } from '@/server/app';
import { createRun } from '@/server/studies';
import { respond } from '../respond';

const body = z.strictObject({ variantId: z.string() });

export const POST = (request: Request) =>
  respond(async () => {
    const { db, queue } = await app();
    const run = await createRun(db, body.parse(await request.json()).variantId);
    queue.enqueue(run.id);
    return run;
  });
