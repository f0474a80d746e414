import type { Known } from '@/core/model/parameter';
import type { Inputs } from '@/core/model/study';

/** What every block of the station gets: the cycle, and how to change and mark a part of it. */
export interface CycleProps {
  cycle: Inputs['cycle'];
  /** What the defaults follow from. */
  known: Known;
  update: (label: string, patch: Partial<Inputs['cycle']>) => void;
  marked: (...keys: (keyof Inputs['cycle'])[]) => boolean;
}
