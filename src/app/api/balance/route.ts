import { ROUTES } from '@/runtime/wire';
import { balanceRunners } from '@/server/trials';
import { handleStreamed } from '../respond';

/** Trials with other runners; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.balance, ({ inputs, ask }, report, signal) =>
  balanceRunners(inputs, ask, report, signal),
);
