import { z } from 'zod';
import { coordinate, extent, hash, identifier, metres, placementMatrix, reference, title } from './bounded';
import type { Vec3 } from '../geometry/mesh';
import { UNMOVED } from '../geometry/placement';
import { normalised } from '../geometry/vec';
import { numberSchema } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';

/** Shots that a tool makes a part in, at most. */
export const MOST_SHOTS = 3;

/** What a body is in the tool. */
export const ROLES = ['cavity', 'insert', 'runner', 'hot-runner', 'channel', 'left-out'] as const;
export type Role = (typeof ROLES)[number];

export const ROLE_LABELS: Record<Role, string> = {
  cavity: 'Cavity',
  insert: 'Insert',
  runner: 'Runner body',
  'hot-runner': 'Hot-runner body',
  channel: 'Channel body',
  'left-out': 'Left out',
};

/** A simple solid in place of a body. `axes`: three orthonormal directions; sizes in m along them. */
export const standInSchema = z.discriminatedUnion('shape', [
  z.strictObject({
    shape: z.literal('box'),
    centre: metres,
    axes: z.tuple([metres, metres, metres]),
    size: z.tuple([extent, extent, extent]),
  }),
  z.strictObject({
    shape: z.literal('cylinder'),
    centre: metres,
    axis: metres,
    diameter: extent,
    length: extent,
  }),
  z.strictObject({ shape: z.literal('sphere'), centre: metres, diameter: extent }),
]);
export type StandIn = z.infer<typeof standInSchema>;

export const bodySchema = z.strictObject({
  id: identifier,
  name: title(120),
  /** #rrggbb from the file; null has none */
  colour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i)
    .nullable(),
  role: z.enum(ROLES),
  /** Shot that fills a cavity; absent: the first. */
  shot: z.number().int().min(2).max(MOST_SHOTS).optional(),
  /** Content hash of the surface, m. */
  mesh: hash,
  /** The surface a stand-in replaces; null when the body is itself. */
  original: hash.nullable(),
  standIn: standInSchema.nullable(),
});
export type Body = z.infer<typeof bodySchema>;

/** Number of the shot that fills a body, from 1; 0 for one that is no cavity. */
export const shotOf = ({ role, shot }: Pick<Body, 'role' | 'shot'>): number => (role === 'cavity' ? (shot ?? 1) : 0);

/** Centre line of a solid channel or runner: points with diameters, joined by segments. m */
export const axisTraceSchema = z.strictObject({
  id: identifier,
  name: title(120),
  /** Body it was made from; the trace outlives it. */
  body: reference,
  nodes: z.array(z.strictObject({ position: metres, diameter: extent })).max(2000),
  /** Pairs of node numbers. */
  segments: z.array(z.tuple([z.number().int().min(0), z.number().int().min(0)])).max(2000),
});
export type AxisTrace = z.infer<typeof axisTraceSchema>;

/** How the part lies in the tool. The opening direction is +z. */
export const toolSchema = z.strictObject({
  /** Rows of the 3 x 4 matrix that takes file coordinates to where the bodies lie now. */
  placement: placementMatrix,
  /** Height of the parting plane along the opening direction, m; null: where the halves meet. */
  partingHeight: numberSchema(WAY_NUMBERS.partingHeight).nullable(),
  /** Way the upper half moves when the tool opens, of any length but 0; absent: +z. */
  opening: z
    .tuple([coordinate, coordinate, coordinate])
    .refine((d) => Number.isFinite(Math.hypot(...d)) && Math.hypot(...d) > 1e-6, {
      message: 'An opening direction is not 0, 0, 0.',
    })
    .optional(),
});
export type Tool = z.infer<typeof toolSchema>;

/** Unit vector along which the upper half of the tool moves. */
export function openingOf({ opening }: Pick<Tool, 'opening'>): Vec3 {
  return opening ? normalised(opening) : [0, 0, 1];
}

export const UNTURNED: Tool['placement'] = [...UNMOVED];

/** A free body name of the form B1, B2, … */
export function freshBodyId(taken: readonly { id: string }[]): string {
  for (let n = taken.length + 1; ; n++) if (!taken.some((b) => b.id === `B${n}`)) return `B${n}`;
}
