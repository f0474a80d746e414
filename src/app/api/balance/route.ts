import { z } from 'zod';
import { balanceAskSchema } from '@/core/model/balanceAsk';
import { inputsSchema } from '@/core/model/study';
import { balanceRunners } from '@/server/trials';
import { streamed } from '../respond';

const requestSchema = z.strictObject({ inputs: inputsSchema, ask: balanceAskSchema });

/** Trials with other runners; the answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  streamed(request, async (report, signal) => {
    const { inputs, ask } = requestSchema.parse(await request.json());
    return balanceRunners(inputs, ask, report, signal);
  });
