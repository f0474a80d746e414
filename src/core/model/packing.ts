import { z } from 'zod';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';

const time = numberSchema(WAY_NUMBERS.packingTime);

/** Of the machine's clamp force, what packing and filling may take: the rest is kept for uneven pressure. */
export const CLAMP_SHARE = 0.8;

/**
 * Pressure after switchover: one pressure held for a time, or any number of points against the time from
 * switchover, straight in between, let go after the last one. Shares are of the pressure at switchover.
 * null: the default, which follows from the resin, and holds until the gates have frozen.
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

/** How values of a profile are meant: pressures at the nozzle, shares of the one at switchover, pressures wanted in the cavity. */
export interface PackingScale {
  as: 'pressure' | 'share' | 'cavity';
  /** Of the last: the most at the nozzle that the clamp holds, Pa; absent where that is not known yet. */
  most?: number;
}

/**
 * Share of the pressure at switchover that the way to the cavity takes while it is packed: the flow is about a fiftieth
 * of that of filling, on which the loss of a shear-thinning melt depends with a power of 0.3, and skins have grown.
 */
const WAY_SHARE = 0.4;
/** With less of the pressure at switchover the last places would not fill. */
const LEAST_SHARE = 0.5;

/** Pressure at the nozzle [Pa] that a value of a profile asks for, with `atSwitchover` [Pa] at the nozzle then. */
export function pressureAsked({ as, most = Infinity }: PackingScale, value: number, atSwitchover: number): number {
  if (as === 'pressure') return value;
  if (as === 'share') return value * atSwitchover;
  return Math.max(LEAST_SHARE * atSwitchover, Math.min(most, value + WAY_SHARE * atSwitchover));
}

/** First point that lies before the one in front of it; null when time only goes on. */
export function firstBackwards(points: readonly { at: number }[]): number | null {
  const k = points.findIndex((p, i) => i > 0 && p.at < points[i - 1].at);
  return k < 0 ? null : k;
}
