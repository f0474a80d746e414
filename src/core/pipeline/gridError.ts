import { CELLS_PER_WALL, type Detail } from '../grid/lattice';
import type { Summary } from '../results/summary';

/** How far key numbers would still move towards an endlessly fine grid, in their own units. */
export interface GridError {
  against: Detail;
  numbers: { id: KeyNumber; value: number; error: number }[];
}

export type KeyNumber = 'pressureNeeded_Pa' | 'fillTime_s' | 'clampForce_N' | 'frontCooling_K' | 'frozenShareEnd';
const KEY_NUMBERS: KeyNumber[] = [
  'pressureNeeded_Pa',
  'fillTime_s',
  'clampForce_N',
  'frontCooling_K',
  'frozenShareEnd',
];

/**
 * Order of convergence that is assumed: first, the lowest that verification has seen (gate pressure of
 * a disc); the estimate is then rather too large than too small.
 */
export const ASSUMED_ORDER = 1;

const FINER: Record<Detail, Detail> = { quick: 'normal', normal: 'fine', fine: 'fine' };

/**
 * Richardson's estimate from two details: |fine - coarse| / (r^p - 1), r the ratio of their cell sizes
 * (Richardson 1911; Roache, J. Fluids Eng. 116 (1994) 405).
 */
export function gridErrorOf(fine: Summary, coarse: Summary, against: Detail): GridError {
  const ratio = CELLS_PER_WALL[FINER[against]] / CELLS_PER_WALL[against];
  return {
    against,
    numbers: KEY_NUMBERS.map((id) => ({
      id,
      value: fine[id],
      error: Math.abs(fine[id] - coarse[id]) / (Math.pow(ratio, ASSUMED_ORDER) - 1),
    })),
  };
}
