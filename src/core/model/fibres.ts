import { z } from 'zod';
import { CLOSURES } from '../material/fibres/closure';
import { MECHANICS } from '../material/fibres/stiffness';
import { numberSchema, WAY_NUMBERS } from './parameters';

const share = z.number().min(0).max(1);
const of = z.number().min(-1).max(1);

/** What fibres do to each other: see core/material/fibres/orientation. */
export const interactionSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('even'), CI: numberSchema(WAY_NUMBERS.fibreInteraction) }),
  z.strictObject({ by: z.literal('two'), CI: numberSchema(WAY_NUMBERS.fibreInteraction), CM: share }),
  z.strictObject({ by: z.literal('five'), b: z.tuple([of, of, of, of, of]) }),
]);

/** How fibres turn in the melt; of a resin, fitted or from its maker. */
export const turningSchema = z.strictObject({
  interaction: interactionSchema,
  slowing: numberSchema(WAY_NUMBERS.fibreSlowing),
});
export type Turning = z.infer<typeof turningSchema>;

/** How the fibres of a filled resin are followed. null: as follows from the resin. */
export const fibresSchema = z.strictObject({
  follow: z.boolean(),
  closure: z.enum(CLOSURES),
  mechanics: z.enum(MECHANICS),
  /** Length over diameter in the part (flakes: diameter over thickness). */
  aspect: numberSchema(WAY_NUMBERS.fibreAspect).nullable(),
  turning: turningSchema.nullable(),
});
export type FibreChoice = z.infer<typeof fibresSchema>;

export const DEFAULT_FIBRES: FibreChoice = {
  follow: true,
  closure: 'orthotropic-wide',
  mechanics: 'mori-tanaka',
  aspect: null,
  turning: null,
};
