import type { Unit } from '../units/units';
import type { Answer } from './answer';
import type { Summary } from './summary';

/** A number of a run that runs are compared by. */
export interface KeyEntry {
  label: string;
  unit: Unit;
  /** Question that it belongs to. */
  question: Answer['id'];
  /** What is better of two; null: neither. */
  better: 'less' | 'more' | null;
  /** SI; null where it was not calculated. */
  of: (s: Summary) => number | null;
}

const entry = (
  label: string,
  unit: Unit,
  question: Answer['id'],
  better: KeyEntry['better'],
  of: KeyEntry['of'],
): KeyEntry => ({ label, unit, question, better, of });

/** Key numbers of a run in the order of its questions; ids carry the SI unit. */
export const KEY_NUMBERS = {
  pressureNeeded_Pa: entry('Pressure needed', 'MPa', 'will-it-fill', 'less', (s) => s.pressureNeeded_Pa),
  gateLoss_Pa: entry('Lost in the gate', 'MPa', 'will-it-fill', 'less', (s) => s.gateLoss_Pa),
  fillTime_s: entry('Time to fill', 's', 'will-it-fill', null, (s) => s.fillTime_s),
  shareFilled: entry('Filled', '%', 'will-it-fill', 'more', (s) => s.shareFilled),
  flowLength_m: entry('Flow length', 'mm', 'will-it-fill', 'less', (s) => s.flowLength_m),
  frontCooling_K: entry('Front cools by', 'K', 'will-it-fill', 'less', (s) => s.frontCooling_K),
  frozenShareEnd: entry('Frozen when full', '%', 'will-it-fill', 'less', (s) => s.frozenShareEnd),
  maxShearRate_1_s: entry('Peak shear rate', '1/s', 'will-it-fill', 'less', (s) => s.maxShearRate_1_s),
  maxShearStress_Pa: entry('Peak shear stress', 'MPa', 'will-it-fill', 'less', (s) => s.maxShearStress_Pa),
  nWeldLines: entry('Weld lines', '', 'where-fronts-meet', 'less', (s) => s.nWeldLines),
  weakestWeldLine: entry('Weakest weld line', '%', 'where-fronts-meet', 'more', (s) => s.weakestWeldLine),
  nAirTraps: entry('Air traps', '', 'where-fronts-meet', 'less', (s) => s.nAirTraps),
  clampForce_N: entry('Clamp force', 'kN', 'what-machine', 'less', (s) => s.clampForce_N),
  shotMass_kg: entry('Shot', 'g', 'what-machine', 'less', (s) => s.shotMass_kg),
  weight_kg: entry('Weight of the part', 'g', 'does-it-pack-out', null, (s) => s.pack?.mass_kg ?? null),
  shrinkage: entry('Shrinkage, mean', '%', 'does-it-pack-out', null, (s) => s.pack?.linearShrinkage.mean ?? null),
  shrinkageSpread: entry('Shrinkage, spread', '%', 'does-it-pack-out', 'less', (s) =>
    s.pack ? s.pack.linearShrinkage.high - s.pack.linearShrinkage.low : null,
  ),
  gateFrozenAt_s: entry('Gate frozen after', 's', 'does-it-pack-out', null, (s) => s.pack?.lastGateFrozenAt_s ?? null),
  openTime_s: entry('Mould opens after', 's', 'how-long-to-cool', 'less', (s) => s.pack?.openTime_s ?? null),
  cycleTime_s: entry('Cycle', 's', 'how-long-to-cool', 'less', (s) => s.pack?.cycleTime_s ?? null),
  deviation_m: entry('Largest deviation', 'mm', 'what-shape', 'less', (s) => s.shape?.largest_m ?? null),
  skinStress_Pa: entry('Stress at the surface', 'MPa', 'what-shape', 'less', (s) => s.shape?.skinStress_Pa ?? null),
  modulusAlong_Pa: entry('Modulus along load', 'GPa', 'how-strong', 'more', (s) => s.strength?.modulus_Pa ?? null),
  weldWithFibres: entry('Weld line with fibres', '%', 'how-strong', 'more', (s) => s.strength?.weld?.share ?? null),
  shortestFibres_m: entry(
    'Shortest fibres',
    'mm',
    'how-strong',
    'more',
    (s) => s.strength?.shortest?.byWeight_m ?? null,
  ),
} as const satisfies Record<string, KeyEntry>;
export type KeyId = keyof typeof KEY_NUMBERS;
export const KEY_IDS = Object.keys(KEY_NUMBERS) as KeyId[];

/** Those whose error with the grid is estimated with every run above Detail quick: verdicts rest on them. */
export const GRID_KEY_IDS = [
  'pressureNeeded_Pa',
  'fillTime_s',
  'clampForce_N',
  'frontCooling_K',
  'frozenShareEnd',
  'weight_kg',
  'shrinkage',
  'shrinkageSpread',
  'cycleTime_s',
  'deviation_m',
] as const satisfies readonly KeyId[];
export type GridKeyId = (typeof GRID_KEY_IDS)[number];
