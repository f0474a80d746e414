import { z } from 'zod';
import { coolingAimSchema } from '@/core/model/coolingAsk';
import { inputsSchema } from '@/core/model/study';
import { improveLayout } from '@/server/trials';
import { streamed } from '../respond';

const requestSchema = z.strictObject({ inputs: inputsSchema, aim: coolingAimSchema });

/** Trials for a better layout of the channels; the answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  streamed(request, async (report, signal) => {
    const { inputs, aim } = requestSchema.parse(await request.json());
    return improveLayout(inputs, aim, report, signal);
  });
