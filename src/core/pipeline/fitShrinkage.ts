import { z } from 'zod';
import { solidLawOf } from '../material/solid';
import { measuredShrinkageSchema, resinSchema, type MeasuredShrinkage, type Resin } from '../model/resin';
import { real } from '../numerics/real';
import type { StageContext } from '../stage/context';
import { shrinkagePlate } from './shrinkagePlate';

export const shrinkageAskSchema = z.strictObject({
  resin: resinSchema,
  points: z.array(measuredShrinkageSchema).min(1).max(40),
});
export type ShrinkageAsk = z.infer<typeof shrinkageAskSchema>;

/** What fits measured shrinkage, and by how much the model is changed. Shares of the length. */
export const shrinkageReportSchema = z.object({
  crystalShare: real,
  shrinkageFactor: real,
  /** Those that the resin had. */
  before: z.object({ crystalShare: real, shrinkageFactor: real }),
  points: z.array(
    z.object({
      thickness: real,
      pressure: real,
      /** Mean of along and across, and their half difference, which a plastic alike in all directions can not have. */
      measured: real,
      halfDifference: real,
      before: real,
      after: real,
    }),
  ),
  /** Root mean square of what is off, before and after. */
  rms: z.object({ before: real, after: real }),
  notes: z.array(z.string()),
  resin: resinSchema,
});
export type ShrinkageReport = z.infer<typeof shrinkageReportSchema>;

export type ShrinkageOutcome =
  { status: 'found'; report: ShrinkageReport } | { status: 'refused'; message: string; remedy: string };

/** Bounds of the factor: beyond them the pvT data are to be doubted, not corrected. */
const FACTOR: [number, number] = [0.5, 2];
const MOST_CRYSTALS = 1.5;
/** Step of the share by which its effect is found. */
const STEP = 0.3;
/** Along and across further apart than this of their mean: the plastic is not alike in all directions. */
const APART = 0.25;

/**
 * Correction of a resin by shrinkage measured on plates: each is moulded by the stage (`shrinkagePlate`), as it is and
 * with another share of the crystals, between which strain goes nearly straight. Crystalline plastics are fitted by that
 * share; amorphous ones, and what a share can not do, by a factor on the free strain, with which all strains go.
 */
export async function fitShrinkage({ resin, points }: ShrinkageAsk, ctx: StageContext): Promise<ShrinkageOutcome> {
  const law = solidLawOf(resin);
  const crystalline = resin.structure !== 'amorphous';
  const places = points.map(({ along, across }) => (along + across) / 2);
  if (places.every((m) => m <= 0))
    return {
      status: 'refused',
      message: 'None of the plates has shrunk.',
      remedy: 'Shrinkage is the share of the length lost: 1.5 % is written 1.5, above 0.',
    };
  const rounds = crystalline ? 3 : 1;
  let done = 0;
  const along = async (share: number): Promise<number[]> => {
    const values: number[] = [];
    for (const { thickness, pressure } of points) {
      ctx.report({
        stage: 'pack',
        fraction: done / (rounds * points.length),
        message: `Plate of ${(1e3 * thickness).toPrecision(2)} mm at ${Math.round(pressure / 1e6)} MPa`,
      });
      await ctx.checkpoint();
      const trial: Resin = { ...resin, crystalShare: share, shrinkageFactor: 1 };
      const quiet = { ...ctx, report: () => {} };
      values.push((await shrinkagePlate(trial, { thickness, pressure, melt: null, mould: null }, quiet)).along);
      done++;
    }
    return values;
  };
  const start = crystalline ? law.crystalShare : 0;
  const first = await along(start);
  const before = first.map((v) => v * law.shrinkageFactor);
  let share = start;
  let fitted = first;
  if (crystalline) {
    const other = start + STEP > MOST_CRYSTALS ? start - STEP : start + STEP;
    const second = await along(other);
    const slope = second.map((v, k) => (v - first[k]) / (other - start));
    share = clamp(start + dot(sub(places, first), slope) / dot(slope, slope), 0, MOST_CRYSTALS);
    fitted = await along(share);
  }
  const bounded = !crystalline || share === 0 || share === MOST_CRYSTALS;
  const factor = bounded ? clamp(dot(places, fitted) / dot(fitted, fitted), ...FACTOR) : 1;
  const after = fitted.map((v) => v * factor);
  const tidy = (x: number) => Number(x.toPrecision(3));
  const changed = { crystalShare: tidy(share), shrinkageFactor: tidy(factor) };
  const rms = (values: number[]) => Math.sqrt(dot(sub(values, places), sub(values, places)) / places.length);
  return {
    status: 'found',
    report: {
      ...changed,
      before: { crystalShare: law.crystalShare, shrinkageFactor: law.shrinkageFactor },
      points: points.map((p, k) => ({
        thickness: p.thickness,
        pressure: p.pressure,
        measured: places[k],
        halfDifference: (p.across - p.along) / 2,
        before: before[k],
        after: after[k],
      })),
      rms: { before: rms(before), after: rms(after) },
      notes: notesOf(points, factor, resin),
      resin: {
        ...resin,
        ...(crystalline ? { crystalShare: changed.crystalShare } : {}),
        shrinkageFactor: changed.shrinkageFactor,
        measuredShrinkage: [...points],
      },
    },
  };
}

function notesOf(points: readonly MeasuredShrinkage[], factor: number, { filler }: Resin): string[] {
  const apart = points.some(({ along, across }) => Math.abs(along - across) > APART * Math.abs(along + across));
  return [
    ...(FACTOR.includes(factor)
      ? ['The factor is at its bound: look at the pvT data, and at how the plates were moulded.']
      : []),
    ...(apart
      ? [
          `Along and across differ${filler ? `, as ${filler.kind} makes them` : ''}: the mean is fitted, for walls shrink alike in both directions as long as nothing holds them.`,
        ]
      : []),
    ...(points.length < 3 ? ['Few plates: more pressures and thicknesses make the fit surer.'] : []),
  ];
}

const clamp = (x: number, low: number, high: number) => Math.min(high, Math.max(low, x));
const dot = (a: readonly number[], b: readonly number[]) => a.reduce((s, v, k) => s + v * b[k], 0);
const sub = (a: readonly number[], b: readonly number[]) => a.map((v, k) => v - b[k]);
