import { z } from 'zod';
import type { Vec3 } from '../geometry/mesh';
import { normalised } from '../geometry/vec';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';

/** How the fourth moment of the directions follows from the second: see core/material/fibres/closure. */
export const CLOSURES = ['quadratic', 'hybrid', 'orthotropic', 'orthotropic-wide', 'invariant'] as const;
export type Closure = (typeof CLOSURES)[number];

/** How aligned fibres stiffen a plastic: see core/material/fibres/stiffness. */
export const MECHANICS = ['halpin-tsai', 'mori-tanaka', 'mixture'] as const;
export type Mechanics = (typeof MECHANICS)[number];

/** Of a direction. */
const component = () => z.number().min(-1e3).max(1e3);

export const LOAD_AXES = ['x', 'y', 'z'] as const;

const directionSchema = z
  .tuple([component(), component(), component()])
  .refine((v) => Math.hypot(...v) > 1e-6, 'A direction is longer than 0.');

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
  /** Whether they break on their way. */
  breaks: z.boolean().nullable().default(null),
  /** In the granules, m; what shears them before the nozzle, as strain. */
  granule: numberSchema(WAY_NUMBERS.fibreGranule).nullable().default(null),
  screwStrain: numberSchema(WAY_NUMBERS.fibreScrewStrain).nullable().default(null),
  /** Whether they leave layers that are sheared much for such that are sheared little. */
  migrates: z.boolean().nullable().default(null),
  /** Whether the flow feels how they lie. */
  coupled: z.boolean().default(false),
  /** Axis of the part that a load runs along, or a direction of any length. */
  load: z.union([z.enum(LOAD_AXES), directionSchema]),
});
export type FibreChoice = z.infer<typeof fibresSchema>;

export const DEFAULT_FIBRES: FibreChoice = {
  follow: true,
  closure: 'orthotropic-wide',
  mechanics: 'mori-tanaka',
  aspect: null,
  turning: null,
  breaks: null,
  granule: null,
  screwStrain: null,
  migrates: null,
  coupled: false,
  load: 'x',
};

/** Unit direction of the load. */
export function loadOf(choice: Pick<FibreChoice, 'load'> | undefined): Vec3 {
  const { load } = choice ?? DEFAULT_FIBRES;
  if (typeof load !== 'string') return normalised(load);
  const axis = LOAD_AXES.indexOf(load);
  return [Number(axis === 0), Number(axis === 1), Number(axis === 2)];
}

/** A load in words: its axis, or its direction. */
export function loadName({ load }: Pick<FibreChoice, 'load'>): string {
  if (typeof load === 'string') return load;
  return `(${normalised(load)
    .map((v) => Number(v.toFixed(2)) || 0)
    .join(', ')})`;
}
