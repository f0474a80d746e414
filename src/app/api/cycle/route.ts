import { z } from 'zod';
import { inputsSchema } from '@/core/model/study';
import { suggestCycle } from '@/server/trials';
import { streamed } from '../respond';

const requestSchema = z.strictObject({ inputs: inputsSchema });

/** Trials for a cycle that suits the part; the answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  streamed(request, async (report, signal) =>
    suggestCycle(requestSchema.parse(await request.json()).inputs, report, signal),
  );
