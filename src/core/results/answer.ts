import { z } from 'zod';
import { vec3Schema } from '../geometry/schemas';
import { inputsSchema } from '../model/study';
import { verdictSchema } from './rules';
import type { Gate, Inputs } from '../model/study';

/** A change worth trying: what it is, why, and the inputs with it. */
export const suggestionSchema = z.object({
  id: z.string(),
  label: z.string(),
  why: z.string(),
  inputs: inputsSchema,
});
export type Suggestion = z.infer<typeof suggestionSchema>;

export const answerSchema = z.object({
  id: z.enum([
    'will-it-fill',
    'where-fronts-meet',
    'what-machine',
    'does-it-pack-out',
    'how-long-to-cool',
    'what-shape',
    'do-they-hold',
    'does-core-come-right',
    'does-tool-close',
    'how-strong',
  ]),
  question: z.string(),
  verdict: verdictSchema,
  headline: z.string(),
  key: z.object({
    label: z.string(),
    value: z.string(),
    note: z.string(),
  }),
  where: z
    .object({
      label: z.string(),
      position: vec3Schema,
      field: z.string().optional(),
    })
    .nullable(),
  why: z.array(z.string()),
  try: z.array(suggestionSchema),
});
export type Answer = z.infer<typeof answerSchema>;

/** Inputs with some settings of the cycle changed. */
export const withCycle = (inputs: Inputs, patch: Partial<Inputs['cycle']>): Inputs => ({
  ...inputs,
  cycle: { ...inputs.cycle, ...patch },
});

/** A free name of a vent (V) or tab (T). */
export function freshOutletId(letter: 'V' | 'T', taken: readonly { id: string }[]): string {
  for (let n = taken.length + 1; ; n++) if (!taken.some((t) => t.id === `${letter}${n}`)) return `${letter}${n}`;
}

export function freshGateId(gates: readonly Gate[]): string {
  for (let n = gates.length + 1; ; n++) if (!gates.some((g) => g.id === `G${n}`)) return `G${n}`;
}
