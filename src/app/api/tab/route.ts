import { ROUTES } from '@/runtime/wire';
import { searchTab } from '@/server/trials';
import { handleStreamed } from '../respond';

/** Trials for the place of an overflow tab; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.tab, ({ inputs }, report, signal) => searchTab(inputs, report, signal));
