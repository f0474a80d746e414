import { z } from 'zod';
import { reference } from './bounded';

const size = z.number().min(2e-4).max(0.06);
const sizes = z.array(size).min(1).max(200).nullable();
const bounds = z
  .strictObject({ min: size, max: size })
  .refine((b) => b.min <= b.max, 'The least diameter is larger than the largest.');

/** What is wanted of the runners. SI. */
export const balanceAskSchema = z.strictObject({
  /** Equal fill times and pressures, or also the least volume at a pressure. */
  goal: z.enum(['balance', 'least-volume']),
  /** Nozzle pressure that may be needed, Pa, for the least volume. */
  pressure: z.number().positive().max(5e8).nullable(),
  /** Range of diameters; single branches by key, a fixed one has min = max. */
  bounds,
  own: z.record(reference, bounds),
  /** Cutter sizes to choose from, m; null takes any. */
  sizes,
  /** The same for single branches, by key. */
  ownSizes: z.record(reference, sizes).optional(),
});
export type BalanceAsk = z.infer<typeof balanceAskSchema>;
