import { ROUTES } from '@/runtime/wire';
import { suggestCycle } from '@/server/trials';
import { handleStreamed } from '../respond';

/** Trials for a cycle that suits the part; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.cycle, ({ inputs }, report, signal) => suggestCycle(inputs, report, signal));
