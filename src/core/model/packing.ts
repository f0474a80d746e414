import { z } from 'zod';
import { numberSchema, WAY_NUMBERS } from './parameters';

const time = numberSchema(WAY_NUMBERS.packingTime);

/**
 * Pressure after switchover: one pressure held for a time, or any number of points against the time from
 * switchover, straight in between, let go after the last one. Shares are of the pressure at switchover.
 * null: the default, which follows from the filling and the wall.
 */
export const packingSchema = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('constant'),
    pressure: numberSchema(WAY_NUMBERS.packingPressure).nullable(),
    time: time.nullable(),
  }),
  z.strictObject({
    by: z.literal('profile'),
    as: z.enum(['pressure', 'share']),
    points: z
      .array(z.strictObject({ at: time, value: z.number().min(0).max(5e8) }))
      .min(2)
      .max(20),
  }),
]);

export type Packing = z.infer<typeof packingSchema>;

export const DEFAULT_PACKING: Packing = { by: 'constant', pressure: null, time: null };

/** First point that lies before the one in front of it; null when time only goes on. */
export function firstBackwards(points: readonly { at: number }[]): number | null {
  const k = points.findIndex((p, i) => i > 0 && p.at < points[i - 1].at);
  return k < 0 ? null : k;
}
