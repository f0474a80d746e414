import { z } from 'zod';
import { distinct, identifier, metres, reference } from './bounded';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';
import { resinSchema } from './resin';
import { within } from './quantity';

/** A needle that brings a fluid into the core of the melt: a place on the surface, like a gate's. */
export const needleSchema = z.strictObject({
  id: identifier,
  /** m */
  position: metres,
});
export type Needle = z.infer<typeof needleSchema>;

const pressure = numberSchema(WAY_NUMBERS.corePressure);

/** A fluid that is let into the core of the melt, and how. SI; times of the fluid since it was let in. */
export const coreSchema = z.strictObject({
  /** `melt`: a second one, which follows the first through the nozzle. */
  fluid: z.enum(['nitrogen', 'air', 'water', 'melt']),
  /** K; null: as the library has it. */
  temperature: within('coreTemperature').nullable(),
  /** What the second melt is; absent: the resin of the first at its temperature. Read for `melt` alone. */
  second: z
    .strictObject({
      resin: z.union([reference, resinSchema]),
      /** K; null: the resin's recommended one. */
      meltTemperature: within('meltLetIn').nullable(),
      /** The gate that it alone comes in through; absent: the way of the first. */
      gate: identifier.optional(),
    })
    .optional(),
  /** Through needles in the part, or the way that the melt came. */
  through: z.enum(['needles', 'nozzle']),
  needles: distinct(z.array(needleSchema).max(12), 'needles'),
  /** When the melt ends: at a share of the cavity, at a time, or when it comes to a place. */
  melt: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('share'), share: numberSchema(WAY_NUMBERS.coreShare) }),
    z.strictObject({ by: z.literal('time'), time: numberSchema(WAY_NUMBERS.switchoverTime) }),
    z.strictObject({ by: z.literal('front'), position: metres }),
  ]),
  /** From then until the fluid is let in, s. */
  delay: numberSchema(WAY_NUMBERS.coreDelay),
  drive: z.discriminatedUnion('by', [
    /** Rises to a pressure, holds it, and is let out. `hold` null: as long as the nominal wall takes to freeze. */
    z.strictObject({
      by: z.literal('pressure'),
      pressure,
      rise: numberSchema(WAY_NUMBERS.coreRise),
      hold: numberSchema(WAY_NUMBERS.coreHold).nullable(),
      release: numberSchema(WAY_NUMBERS.coreRelease),
    }),
    /** Pressures at times, straight in between; the last is the release. */
    z.strictObject({
      by: z.literal('profile'),
      points: z
        .array(z.strictObject({ at: z.number().min(0).max(600), pressure: z.number().min(0).max(5e8) }))
        .min(2)
        .max(20)
        .refine((p) => p.every((x, i) => i === 0 || x.at > p[i - 1].at), 'The times of a profile must ascend.')
        .refine((p) => p[0]?.at === 0, 'A profile begins at 0.'),
    }),
    /** A volume [m3] pushed in over a time, held, and let out; of a gas at 0 °C and the pressure of the atmosphere. */
    z.strictObject({
      by: z.literal('volume'),
      volume: numberSchema(WAY_NUMBERS.coreVolume),
      over: numberSchema(WAY_NUMBERS.coreRise),
      hold: numberSchema(WAY_NUMBERS.coreHold).nullable(),
      /** What the source can press. */
      most: pressure,
    }),
  ]),
});
export type CoreChoice = z.infer<typeof coreSchema>;

/** With no needle yet: it goes where it is clicked. */
export const defaultCore = (): CoreChoice => ({
  fluid: 'nitrogen',
  temperature: null,
  through: 'needles',
  needles: [],
  melt: { by: 'share', share: 0.8 },
  delay: 0.5,
  drive: { by: 'pressure', pressure: 15e6, rise: 0.3, hold: null, release: 0.5 },
});
