import { z } from 'zod';
import { real } from '../numerics/real';
import { detailSchema } from '../grid/lattice';
import type { Detail } from '../grid/lattice';
import type { Answer } from '../results/answer';
import { VERDICT_RULES as RULES, type VerdictRule } from '../results/rules';
import { GRID_KEY_IDS, KEY_NUMBERS, type GridKeyId, type KeyId } from '../results/keyNumbers';
import type { Summary } from '../results/summary';
import { format } from '../units/reader';
import { type Unit } from '../units/units';
import type { FillSettings } from '../setup/settings';

/** How far key numbers would still move towards an endlessly fine grid and endlessly short steps, in their own units. */
export const gridErrorSchema = z.object({
  against: detailSchema,
  numbers: z.array(
    z.object({
      id: z.enum(GRID_KEY_IDS),
      value: real,
      error: real,
      timeError: real,
    }),
  ),
});
export type GridError = z.infer<typeof gridErrorSchema>;

/**
 * Order of convergence that is assumed in space and in time: first, the lowest that verification has seen (gate
 * pressure of a disc; packing of a slit); the estimate is then rather too large than too small.
 */
export const ASSUMED_ORDER = 1;
/** Two grids that differ by less say nothing about an even finer one: the ratio of their cells that is reckoned with. */
const LEAST_RATIO = 1.2;

/**
 * Richardson's estimate from two runs: |fine - coarse| / (r^p - 1), r the ratio of their cells (Richardson 1911;
 * Roache, J. Fluids Eng. 116 (1994) 405). For the steps the coarse run is held against one of twice as long steps:
 * that difference is the error of the coarse one's, and falls to that of the fine one with the length of the step.
 */
export function gridErrorOf(fine: Summary, coarse: Summary, longSteps: Summary | null, against: Detail): GridError {
  const ratio = Math.max(LEAST_RATIO, coarse.cellSize_m / fine.cellSize_m);
  const shorter = coarse.steps / Math.max(1, fine.steps);
  return {
    against,
    numbers: GRID_KEY_IDS.flatMap((id) => {
      const [value, other, slow] = [fine, coarse, longSteps].map((s) => s && KEY_NUMBERS[id].of(s));
      if (value === null || other === null) return [];
      const error = Math.abs(value - other) / (Math.pow(ratio, ASSUMED_ORDER) - 1);
      const timeError = slow === null ? 0 : Math.abs(other - slow) * Math.pow(shorter, ASSUMED_ORDER);
      return [{ id, value, error, timeError }];
    }),
  };
}

/** Errors of the key numbers, with those of the steps; none where they were not estimated. */
export const errorsOf = (gridError: GridError | null | undefined): Partial<Record<KeyId, number>> =>
  Object.fromEntries((gridError?.numbers ?? []).map(({ id, error, timeError = 0 }) => [id, error + timeError]));

/** A threshold that a number of the table is held against: which rule, and what the rule is a share of. */
interface Margin {
  rule: VerdictRule;
  answer: Answer['id'];
  number: GridKeyId;
  of: (settings: FillSettings, summary: Summary) => number;
  unit: Unit;
}

const MARGINS: Margin[] = [
  {
    rule: RULES.pressureReserve,
    answer: 'will-it-fill',
    number: 'pressureNeeded_Pa',
    of: (s) => s.pressureLimit,
    unit: 'MPa',
  },
  { rule: RULES.slowdown, answer: 'will-it-fill', number: 'fillTime_s', of: (s) => s.injectionTime, unit: 's' },
  { rule: RULES.frontCooling, answer: 'will-it-fill', number: 'frontCooling_K', of: () => 1, unit: 'K' },
  { rule: RULES.frozenShare, answer: 'will-it-fill', number: 'frozenShareEnd', of: () => 1, unit: '%' },
  { rule: RULES.clamp, answer: 'what-machine', number: 'clampForce_N', of: (s) => s.machine.clampForce, unit: 'kN' },
  { rule: RULES.shrinkageSpread, answer: 'does-it-pack-out', number: 'shrinkageSpread', of: () => 1, unit: '%' },
  {
    rule: RULES.deviation,
    answer: 'what-shape',
    number: 'deviation_m',
    of: (_, { shape }) => shape?.tolerance_m ?? NaN,
    unit: 'mm',
  },
];

/** Answers that say where a threshold is nearer than the error of the number it is held against. */
export function tellMargins(
  answers: readonly Answer[],
  error: GridError,
  settings: FillSettings,
  summary: Summary,
): Answer[] {
  return answers.map((answer) => {
    const close = MARGINS.filter((m) => m.answer === answer.id).flatMap(({ rule, number, of, unit }) => {
      const found = error.numbers.find((n) => n.id === number);
      if (!found) return [];
      const off = found.error + found.timeError;
      const limits = [rule.watch, rule.problem].flatMap((x) => (x === null ? [] : [x * of(settings, summary)]));
      const near = limits.find((limit) => Math.abs(found.value - limit) < off);
      if (near === undefined) return [];
      return [
        `${rule.quantity}: the threshold lies ${format(Math.abs(found.value - near), unit, 2)} away, ` +
          `the number is known to ${format(off, unit, 2)}. A finer Detail may judge otherwise.`,
      ];
    });
    return close.length ? { ...answer, why: [...answer.why, ...close] } : answer;
  });
}
