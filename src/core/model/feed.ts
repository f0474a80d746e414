import { z } from 'zod';
import { distinct, identifier, metres, planar, reference } from './bounded';
import { within } from './quantity';

const size = within('runnerWidth');

export const sectionSchema = z.discriminatedUnion('shape', [
  z.strictObject({ shape: z.literal('round'), diameter: size }),
  z.strictObject({ shape: z.literal('half-round'), diameter: size }),
  z
    .strictObject({ shape: z.literal('trapezoid'), width: size, height: size, draft: z.number().min(0).max(0.8) })
    .refine((s) => s.width > 2 * s.height * Math.tan(s.draft), 'The flanks of the trapezoid meet before its bottom.'),
  z.strictObject({ shape: z.literal('rectangle'), width: size, height: size }),
]);

/**
 * How the runners go from the sprue to the gates: straight to each, a trunk with branches, halved again and
 * again, or as they are drawn.
 */
export const feedLayoutSchema = z.enum(['star', 'trunk', 'tree', 'drawn']);

/** A straight runner that was drawn, traced or imported. Lines join where their ends meet. */
export const runnerLineSchema = z.strictObject({
  id: identifier,
  from: metres,
  to: metres,
  section: sectionSchema,
  /** At `to`, of the same shape; null for a straight one. */
  endSection: sectionSchema.nullable(),
  /** null: hot or cold as the feed. */
  hot: z.boolean().nullable(),
});
export type RunnerLine = z.infer<typeof runnerLineSchema>;

/** Sprue, runners, drops and lands, laid out from the places of the gates. SI. */
export const feedSchema = z.strictObject({
  layout: feedLayoutSchema,
  /** Place of the sprue; null: in the middle of the gates. */
  at: planar.nullable(),
  /** Height (z) of the runners, and whether the nozzle is above it. */
  height: within('runnerHeight'),
  nozzleAbove: z.boolean(),
  sprue: z.strictObject({
    length: within('sprueLength'),
    nozzle: within('sprueNozzle'),
    runner: within('sprueRunner'),
  }),
  runner: sectionSchema,
  /** From the runners down to the gates, where they are at another height. */
  drop: z.strictObject({ runner: size, gate: size }),
  /** The gate itself; its section is null for a round one as wide as the gate. */
  land: z.strictObject({ length: within('landLength'), section: sectionSchema.nullable() }),
  /** Hot sprue, runners and drops, full of melt at this temperature [K], null: the melt's. Lands stay cold. */
  hot: z.strictObject({ temperature: within('hotTemperature').nullable() }).nullable(),
  /** The runners, where they are drawn. */
  lines: distinct(z.array(runnerLineSchema).max(400), 'runners').optional(),
  /** Runners go on past bends and junctions by this much, to catch the cold tip of the melt, m; 0 for none. */
  slug: within('slug').optional(),
  /**
   * Diameters of single branches: round sections instead of the runner's and the drop's. By the gates that
   * hang on them, joined by '+' in the order of the gates.
   */
  branches: z.record(reference, z.strictObject({ diameter: size })),
});

export type Feed = z.infer<typeof feedSchema>;
export type FeedLayout = z.infer<typeof feedLayoutSchema>;

/** Sizes in use for parts of this size of wall [m]; runners lie 12 mm clear of the gates' side of the part. */
export function defaultFeed(wall: number, height: number, nozzleAbove: boolean): Feed {
  const runner = Number(Math.min(0.01, Math.max(0.003, 2.4 * wall)).toPrecision(1));
  return {
    layout: 'star',
    at: null,
    height,
    nozzleAbove,
    sprue: { length: 0.05, nozzle: 0.004, runner: Number((1.3 * runner).toPrecision(2)) },
    runner: { shape: 'round', diameter: runner },
    drop: { runner, gate: Number(Math.max(0.0015, 0.6 * runner).toPrecision(2)) },
    land: { length: 1e-3, section: null },
    hot: null,
    branches: {},
  };
}
