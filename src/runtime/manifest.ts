import { z } from 'zod';
import { fieldMetaSchema } from '../core/fields/field';
import { real } from '../core/numerics/real';
import { gridErrorSchema } from '../core/pipeline/gridError';
import { answerSchema } from '../core/results/answer';
import { findingsSchema } from '../core/results/findings';
import { breachSchema } from '../core/results/guardRules';
import { summarySchema } from '../core/results/summary';
import { shotHistorySchema } from '../core/solvers/shot/history';

/** A result in numbers, written as manifest.json beside the blobs of its fields. */
export const manifestSchema = z.object({
  solverVersion: z.string(),
  inputKey: z.string(),
  gridKey: z.string(),
  status: z.enum(['filled', 'stalled']),
  summary: summarySchema,
  answers: z.array(answerSchema),
  /** These three are missing in runs of version 0.2 and earlier. */
  findings: findingsSchema.optional(),
  gridError: gridErrorSchema.nullish(),
  /** Phases that were not run again since nothing that they read had changed; missing in runs before version 0.4. */
  reused: z.array(z.string()).optional(),
  /** Bounds that the result breaks. With one broken it is not shown as a result; it is stored so that the cause can be found. */
  breaches: z.array(breachSchema).optional(),
  transitionTemperature_K: real.optional(),
  /** Of the whole cycle. */
  history: shotHistorySchema,
  /** Mass and solid share over time; missing or null where only the filling was calculated. */
  course: z
    .object({ time: z.array(real), mass: z.array(real), solidShare: z.array(real), highestPressure: z.array(real) })
    .nullish(),
  gateIds: z.array(z.string()),
  /** Of shots after the first, whose own manifests lie beside this one: see `fileOfShot`. */
  later: z.array(z.object({ summary: summarySchema, answers: z.array(answerSchema) })).optional(),
  fields: z.array(fieldMetaSchema),
});
export type Manifest = z.infer<typeof manifestSchema>;

/** Name of a file of a result, of a shot from 1 on: those of later shots lie beside those of the first. */
export const fileOfShot = (name: string, shot: number): string => (shot > 1 ? `s${shot}-${name}` : name);
