import { z } from 'zod';
import { distinct, identifier, metres } from './bounded';
import { A_DAY, WAY_NUMBERS } from './wayNumbers';
import { numberSchema } from './parameter';
import { within } from './quantity';

/**
 * What holds walls in the closed mould: pressure, and steel that the part closes around; pressure alone; everything until
 * it opens.
 */
export const HOLDS = ['tool', 'pressure', 'ejection'] as const;
export type HoldChoice = (typeof HOLDS)[number];

/** Whether deflections count that are large beside the wall: where they matter, always, never. */
export const LARGE = ['where-it-matters', 'always', 'never'] as const;
export type LargeChoice = (typeof LARGE)[number];

/** A place that is held while the part cools: in any of the directions x, y and z. */
export const supportSchema = z.strictObject({
  id: identifier,
  position: metres,
  holds: z.strictObject({ x: z.boolean(), y: z.boolean(), z: z.boolean() }),
});

/** A dimension that is read off the shape before and after: between places on the surface, or on the faces there. */
export const measureSchema = z.strictObject({
  id: identifier,
  /** Angle between two faces; face: largest deviation of a face from the drawing. */
  kind: z.enum(['distance', 'angle', 'flatness', 'roundness', 'face']),
  places: z.array(metres).min(1).max(2),
  /** m, for angles rad; null: told, not judged. */
  tolerance: within('angleTolerance').nullable(),
});

/** What the shape is judged by. */
export const warpageSchema = z.strictObject({
  /** Largest deviation from the drawing after alignment [m]; null: by the size of the part, unless measures have theirs. */
  tolerance: within('tolerance').nullable(),
  /** The tool is cut larger by the mean shrinkage before the shape is compared. */
  toolScaled: z.boolean(),
  supports: distinct(z.array(supportSchema).max(40), 'places that hold'),
  /** Cell size against that of the run's Detail: the structure may have its own. */
  detail: z.enum(['quick', 'normal', 'fine']).nullable(),
  measures: distinct(z.array(measureSchema).max(40), 'measures').default([]),
  /** The part cools with its cold runners on it. */
  withFeed: z.boolean().default(false),
  /** What keeps walls at their length in the closed mould. */
  hold: z.enum(HOLDS).default('tool'),
  /** Large deflections. */
  large: z.enum(LARGE).default('never'),
  /** When the part is measured, s after the mould has opened. */
  after: numberSchema(WAY_NUMBERS.measuredAfter).default(A_DAY),
});

export type Warpage = z.infer<typeof warpageSchema>;
export type Support = z.infer<typeof supportSchema>;
export type Measure = z.infer<typeof measureSchema>;

export const DEFAULT_WARPAGE: Warpage = {
  tolerance: null,
  toolScaled: true,
  supports: [],
  detail: null,
  measures: [],
  withFeed: false,
  hold: 'tool',
  large: 'never',
  after: A_DAY,
};

/** With what is missing in studies of earlier versions. */
export const warpageOf = ({ warpage }: { warpage?: Warpage }): Warpage => ({ ...DEFAULT_WARPAGE, ...warpage });
