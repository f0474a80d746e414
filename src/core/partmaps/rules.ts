import { z } from 'zod';
import type { Unit } from '../units/units';

/** One rule of good part design: what it limits, its usual value, and why. SI. */
export interface DesignRule {
  label: string;
  /** What it is a share or multiple of. */
  of: string;
  /** Unit it is typed in. */
  unit: Unit;
  usual: number;
  min: number;
  max: number;
  why: string;
}

const rad = (deg: number) => (deg * Math.PI) / 180;

/** Values in the usual range of texts on plastic part design; each may be changed for a part. */
export const DESIGN_RULES = {
  thinWall: {
    label: 'Wall not below',
    of: 'of the typical wall',
    unit: '%',
    usual: 0.5,
    min: 0.1,
    max: 1,
    why: 'Resistance grows with the third power of 1/thickness: a thin place makes the front hesitate and freezes first.',
  },
  thickWall: {
    label: 'Wall not above',
    of: 'of the typical wall',
    unit: '%',
    usual: 1.5,
    min: 1,
    max: 10,
    why: 'Cooling time grows with thickness squared; a thick place freezes last, shrinks most and shows a sink or void.',
  },
  thicknessStep: {
    label: 'Step not above',
    of: 'within one wall of distance',
    unit: '×',
    usual: 1.6,
    min: 1.1,
    max: 10,
    why: 'An abrupt change makes the front race, shrink unevenly and warp; spread it over three walls.',
  },
  ribToWall: {
    label: 'Rib not above',
    of: 'of the wall it stands on',
    unit: '%',
    usual: 0.6,
    min: 0.2,
    max: 2,
    why: 'A thick rib foot gathers melt under the opposite face and pulls it in: a sink mark.',
  },
  draft: {
    label: 'Draft not below',
    of: 'against the opening direction',
    unit: '°',
    usual: rad(0.5),
    min: 0,
    max: rad(30),
    why: 'A wall along the opening direction scrapes out of the mould; a little draft frees it at once.',
  },
  flowRatio: {
    label: 'Flow not above',
    of: 'the wall, from the nearest gate',
    unit: '×',
    usual: 180,
    min: 10,
    max: 1000,
    why: 'A long way through a thin wall needs more pressure than the machine has, or freezes on the way.',
  },
} satisfies Record<string, DesignRule>;

export type RuleId = keyof typeof DESIGN_RULES;
export const RULE_IDS = Object.keys(DESIGN_RULES) as RuleId[];
export type Rules = Record<RuleId, number>;

/** Rules changed for a part; the rest keep their usual values. */
export const ruleChangesSchema = z.strictObject(
  Object.fromEntries(
    RULE_IDS.map((id) => [id, z.number().min(DESIGN_RULES[id].min).max(DESIGN_RULES[id].max).optional()]),
  ) as Record<RuleId, z.ZodOptional<z.ZodNumber>>,
);
export type RuleChanges = z.infer<typeof ruleChangesSchema>;

export const rulesWith = (changes: RuleChanges): Rules =>
  Object.fromEntries(RULE_IDS.map((id) => [id, changes[id] ?? DESIGN_RULES[id].usual])) as Rules;
