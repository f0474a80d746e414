import { z } from 'zod';
import { distinct, identifier, metres } from './bounded';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';
import { within } from './quantity';

/** A piece of melt that lies in the open tool: its middle, on the surface of the part, m. */
export const chargeSchema = z.strictObject({ id: identifier, position: metres });
export type Charge = z.infer<typeof chargeSchema>;

const size = numberSchema(WAY_NUMBERS.chargeSize);

/** A tool whose halves stand apart while melt comes in, and close on it. SI. */
export const compressionSchema = z.strictObject({
  melt: z.discriminatedUnion('by', [
    /** Injected through the gates into a gap between the halves. */
    z.strictObject({ by: z.literal('gates'), gap: numberSchema(WAY_NUMBERS.pressGap) }),
    /** Laid in as pieces of one outline and height, before the tool closes. */
    z.strictObject({
      by: z.literal('charge'),
      outline: z.discriminatedUnion('as', [
        z.strictObject({ as: z.literal('round'), diameter: size }),
        /** `turned` about the opening direction, rad. */
        z.strictObject({
          as: z.literal('rectangle'),
          width: size,
          length: size,
          turned: numberSchema(WAY_NUMBERS.chargeTurned),
        }),
      ]),
      pieces: distinct(z.array(chargeSchema).max(12), 'pieces of the charge'),
      /** K; null: that of the melt. */
      temperature: within('meltLetIn').nullable(),
    }),
  ]),
  /** Volume of the melt over that of the closed cavity. */
  dose: numberSchema(WAY_NUMBERS.pressDose),
  /** From the end of the melt until the half moves, s. */
  delay: numberSchema(WAY_NUMBERS.pressDelay),
  /** m/s */
  speed: numberSchema(WAY_NUMBERS.pressSpeed),
  /** N; null: what the machine has. */
  force: numberSchema(WAY_NUMBERS.pressForce).nullable(),
  /** How long the force is kept up once the cavity is full, s; null: until the nominal wall has frozen. */
  hold: numberSchema(WAY_NUMBERS.pressHold).nullable(),
});
export type Compression = z.infer<typeof compressionSchema>;

/** A half more than the wall of most parts, and melt enough to shrink. */
export const defaultCompression = (): Compression => ({
  melt: { by: 'gates', gap: 1.5e-3 },
  dose: 1.08,
  delay: 0.1,
  speed: 0.01,
  force: null,
  hold: null,
});

/** With no piece yet: it goes where it is clicked. */
export const defaultCharge = (): Extract<Compression['melt'], { by: 'charge' }> => ({
  by: 'charge',
  outline: { as: 'round', diameter: 0.03 },
  pieces: [],
  temperature: null,
});

/** What lies in the open tool; null where the melt comes through gates. */
export const chargeOf = (compression: Compression | undefined) =>
  compression?.melt.by === 'charge' ? compression.melt : null;
