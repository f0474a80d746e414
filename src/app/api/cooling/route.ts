import { ROUTES } from '@/runtime/wire';
import { improveLayout } from '@/server/trials';
import { handleStreamed } from '../respond';

/** Trials for a better layout of the channels; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.cooling, ({ inputs, aim }, report, signal) =>
  improveLayout(inputs, aim, report, signal),
);
