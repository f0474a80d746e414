import { z } from 'zod';
import type { Vec3 } from '../geometry/mesh';
import { numberSchema, WAY_NUMBERS } from './parameters';

/** How the fourth moment of the directions follows from the second: see core/material/fibres/closure. */
export const CLOSURES = ['quadratic', 'hybrid', 'orthotropic', 'orthotropic-wide', 'invariant'] as const;
export type Closure = (typeof CLOSURES)[number];

/** How aligned fibres stiffen a plastic: see core/material/fibres/stiffness. */
export const MECHANICS = ['halpin-tsai', 'mori-tanaka', 'mixture'] as const;
export type Mechanics = (typeof MECHANICS)[number];

export const LOAD_AXES = ['x', 'y', 'z'] as const;

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
  /** Axis of the part that a load runs along. */
  load: z.enum(LOAD_AXES),
});
export type FibreChoice = z.infer<typeof fibresSchema>;

export const DEFAULT_FIBRES: FibreChoice = {
  follow: true,
  closure: 'orthotropic-wide',
  mechanics: 'mori-tanaka',
  aspect: null,
  turning: null,
  load: 'x',
};

/** Unit direction of the load. */
export function loadOf(choice: Pick<FibreChoice, 'load'> | undefined): Vec3 {
  const axis = LOAD_AXES.indexOf((choice ?? DEFAULT_FIBRES).load);
  return [Number(axis === 0), Number(axis === 1), Number(axis === 2)];
}
