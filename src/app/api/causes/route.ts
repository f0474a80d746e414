import { ROUTES } from '@/runtime/wire';
import { searchCauses } from '@/server/trials';
import { handleStreamed } from '../respond';

/** Trials with changes alone and together; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.causes, (ask, report, signal) => searchCauses(ask, report, signal));
