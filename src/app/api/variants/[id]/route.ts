import { z } from 'zod';
import { inputsSchema } from '@/core/model/study';
import { app } from '@/server/app';
import { changeVariant } from '@/server/studies';
import { respond } from '../../respond';

const body = z.strictObject({
  name: z.string().trim().min(1).max(60).optional(),
  inputs: inputsSchema.optional(),
  deleted: z.boolean().optional(),
});

export const PATCH = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => changeVariant((await app()).db, (await params).id, body.parse(await request.json())));
