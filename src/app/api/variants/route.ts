import { z } from 'zod';
import { inputsSchema } from '@/core/model/study';
import { app } from '@/server/app';
import { branchVariant } from '@/server/studies';
import { respond } from '../respond';

const body = z.strictObject({
  parentId: z.string(),
  name: z.string().trim().min(1).max(60),
  inputs: inputsSchema.optional(),
});

export const POST = (request: Request) =>
  respond(async () => {
    const { parentId, name, inputs } = body.parse(await request.json());
    return branchVariant((await app()).db, parentId, name, inputs);
  });
