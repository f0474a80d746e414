import { z } from 'zod';
import { real } from '../numerics/real';
import type { TriangleMesh } from '../geometry/mesh';
import { fillingAlone, inputsSchema, type Inputs } from '../model/study';
import { partSize, resolveSettings } from '../setup/settings';
import { runPipeline } from './pipeline';
import { trialPart } from './trialPart';
import type { PackSummary } from '../results/packFacts';
import { DEFAULT_PACKING, type Packing } from '../model/packing';
import { packingAt, type PackingProfile } from '../solvers/pack/control';
import type { StageContext } from '../stage/context';

/** One filling of the sweep. SI. */
export const sweepRowSchema = z.object({
  injectionTime: real,
  /** null where the part did not fill. */
  pressure: real.nullable(),
  frontCooling: real.nullable(),
});
export type SweepRow = z.infer<typeof sweepRowSchema>;

/** What a cycle is made of, as trials at Detail quick found it. SI. */
export const cycleReportSchema = z.object({
  sweep: z.array(sweepRowSchema),
  injectionTime: real,
  /** null: no melt is pushed on, a fluid in the core presses instead, as the study has it. */
  packing: z.object({ pressure: real, time: real }).nullable(),
  coolingTime: real,
  cycleTime: real,
  /** null: a gate was still open when the part could be ejected, so the packing time is that of cooling. */
  gateFrozenAt: real.nullable(),
  /** The study with all of it. */
  inputs: inputsSchema,
});
export type CycleReport = z.infer<typeof cycleReportSchema>;

export type CycleOutcome =
  { status: 'found'; report: CycleReport } | { status: 'refused'; message: string; remedy: string };

/** Injection times that are tried, over the default one. */
const FACTORS = [0.4, 0.65, 1, 1.6, 2.5];
/** Of the times that need hardly more pressure than the least, the shortest is taken: up to this much more. */
const PLATEAU = 1.08;
const SWEEP_SHARE = 0.55;

/**
 * Injection time from a sweep of fillings (fast ones are sheared hard, slow ones freeze: in between the
 * pressure has a plateau), packing time from the freezing of the gate and cooling time from when the part
 * can be ejected, both from one whole cycle with that injection time. All at Detail quick. Where a fluid in the core packs,
 * its pressure over time stays as it is.
 */
export async function cycleStudy(
  mesh: TriangleMesh,
  key: string,
  study: Inputs,
  ctx: StageContext,
): Promise<CycleOutcome> {
  if (study.compression)
    return {
      status: 'refused',
      message: 'A tool that closes on the melt packs by itself: there is no pressure of the nozzle to find.',
      remedy: 'Let the tool close before the melt comes, or try speed, force and melt of the press.',
    };
  const quick: Inputs = { ...study, detail: 'quick' };
  const automatic = resolveSettings(
    { ...quick, cycle: { ...quick.cycle, injection: { by: 'time', time: null } } },
    partSize(mesh),
  );
  const times = FACTORS.map((f) => Number((f * automatic.injectionTime).toPrecision(2)));
  const sweep: SweepRow[] = [];
  for (const [k, time] of times.entries()) {
    const said = `Filling in ${time} s (${k + 1} of ${times.length})`;
    const inputs: Inputs = fillingAlone(withTime(quick, time));
    const outcome = await runPipeline(
      mesh,
      key,
      inputs,
      trialPart(ctx, (k / times.length) * SWEEP_SHARE, SWEEP_SHARE / times.length, said),
      { gridError: false },
    );
    if (outcome.status === 'refused')
      return { status: 'refused', message: outcome.problems[0].message, remedy: outcome.problems[0].remedy };
    if (outcome.status === 'failed') return { status: 'refused', message: outcome.message, remedy: outcome.likely };
    const filled = outcome.status === 'filled';
    sweep.push({
      injectionTime: time,
      pressure: filled ? outcome.summary.pressureNeeded_Pa : null,
      frontCooling: filled ? outcome.summary.frontCooling_K : null,
    });
  }
  const injectionTime = plateau(sweep);
  if (injectionTime === null)
    return {
      status: 'refused',
      message: 'The part does not fill at any of the injection times.',
      remedy: 'Add a gate, raise the melt temperature or the pressure limit first.',
    };
  return packed(mesh, key, study, injectionTime, sweep, ctx);
}

const withTime = (inputs: Inputs, time: number): Inputs => ({
  ...inputs,
  cycle: { ...inputs.cycle, injection: { by: 'time', time } },
});

/** Shortest time on the plateau of least pressure; null when nothing fills. */
export function plateau(sweep: readonly SweepRow[]): number | null {
  const filled = sweep.filter((r): r is SweepRow & { pressure: number } => r.pressure !== null);
  if (!filled.length) return null;
  const least = Math.min(...filled.map((r) => r.pressure));
  return filled.find((r) => r.pressure <= PLATEAU * least)?.injectionTime ?? null;
}

async function packed(
  mesh: TriangleMesh,
  key: string,
  study: Inputs,
  injectionTime: number,
  sweep: SweepRow[],
  ctx: StageContext,
): Promise<CycleOutcome> {
  const { upTo: _, ...whole } = withTime(study, injectionTime);
  const trial: Inputs = {
    ...whole,
    detail: 'quick',
    cycle: {
      ...whole.cycle,
      packing: DEFAULT_PACKING,
      coolingTime: null,
    },
  };
  const outcome = await runPipeline(mesh, key, trial, trialPart(ctx, SWEEP_SHARE, 1 - SWEEP_SHARE, 'One whole cycle'), {
    gridError: false,
    shape: false,
  });
  if (outcome.status === 'refused' || outcome.status === 'failed' || !outcome.summary.pack)
    return {
      status: 'refused',
      message: 'The whole cycle could not be calculated with that injection time.',
      remedy: 'Run it as it is to see why.',
    };
  const { pack } = outcome.summary;
  if (pack.ejectableTime_s === null)
    return {
      status: 'refused',
      message: 'The part does not get cold enough to be ejected.',
      remedy: 'Lower the mould temperature.',
    };
  // A fluid in the core packs in the nozzle's place: what it does is the study's, only the cooling after it is found.
  const packing = outcome.settings.core ? null : packingOf(pack);
  const heldUntil = packing ? pack.switchoverTime_s + packing.time : pack.packingEnd_s;
  const coolingTime = tenths(Math.max(0, pack.openTime_s - heldUntil));
  const held = { ...outcome.settings.packing, most: pack.packingPressure_Pa };
  const found = packing && {
    packing: packingFound(held, packing.time, outcome.summary.switchoverPressure_Pa ?? 0),
  };
  return {
    status: 'found',
    report: {
      sweep,
      injectionTime,
      packing,
      coolingTime,
      cycleTime: heldUntil + coolingTime + outcome.settings.openTime,
      gateFrozenAt: pack.lastGateFrozenAt_s,
      inputs: { ...whole, cycle: { ...whole.cycle, ...found, coolingTime } },
    },
  };
}

const packingOf = (pack: PackSummary) => ({
  pressure: roundPressure(pack.packingPressure_Pa),
  time: tenths(pack.packingEnd_s - pack.switchoverTime_s),
});

const roundPressure = (p: number) => Math.round(p / 1e5) * 1e5;

/** The default as it was held, as settings: one pressure, or points where it has fallen by the end. */
function packingFound(profile: PackingProfile, time: number, atSwitchover: number): Packing {
  const value = (at: number) => roundPressure(packingAt(profile, at, atSwitchover));
  const inside = profile.points.map((p) => p.at).filter((at) => at < time);
  const points = [...inside, time].map((at) => ({ at, value: value(at) }));
  const [first] = points;
  if (points.every((p) => p.value === first.value)) return { by: 'constant', pressure: first.value, time };
  return { by: 'profile', as: 'pressure', points };
}

const tenths = (t: number) => Math.ceil(10 * t - 1e-6) / 10;
