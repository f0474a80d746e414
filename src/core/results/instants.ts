import type { Instant } from '../fields/table';
import type { Summary } from './summary';

export const INSTANT_LABELS: Record<Instant, string> = {
  switchover: 'switchover',
  full: 'full',
  'packing-ends': 'packing ends',
  'gate-frozen': 'gate frozen',
  opening: 'opens',
};

type Timed = Pick<Summary, 'switchoverTime_s' | 'fillTime_s' | 'pack'>;

/** Time of a moment of the shot, s; null where the shot has not come to it. */
export function instantOf({ switchoverTime_s, fillTime_s, pack }: Timed, instant: Instant): number | null {
  switch (instant) {
    case 'switchover':
      return switchoverTime_s;
    case 'full':
      return fillTime_s;
    case 'packing-ends':
      return pack?.packingEnd_s ?? null;
    case 'gate-frozen':
      return pack?.lastGateFrozenAt_s ?? null;
    case 'opening':
      return pack?.openTime_s ?? null;
  }
}
