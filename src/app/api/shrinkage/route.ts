import { ROUTES } from '@/runtime/wire';
import { correctByShrinkage } from '@/server/trials';
import { handleStreamed } from '../respond';

/** A resin corrected by measured shrinkage; the answer is a stream of lines, see TaskLine. */
export const POST = handleStreamed(ROUTES.shrinkage, correctByShrinkage);
