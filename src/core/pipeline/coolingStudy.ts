import { z } from 'zod';
import { resolve } from '../setup/resolve';
import { real } from '../numerics/real';
import { coolingAimSchema } from '../model/coolingAsk';
import { inputsSchema } from '../model/study';
import { blockOf } from '../cooling/block';
import { checkClearances } from '../cooling/check';
import { layOutChannels, withLayout } from '../cooling/layout';
import { boundsOf, type TriangleMesh } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import type { CoolingAim } from '../model/coolingAsk';
import type { Cooling, LayoutPlan } from '../model/cooling';
import type { Inputs } from '../model/study';
import { surfaceRange } from '../solvers/cool/stage';
import { checkInputs } from './checkRun';
import { feedPlaces, settleMould } from '../setup/mould';
import { makeGrid } from '../setup/grids';
import { partSize } from '../setup/settings';
import type { StageContext } from '../stage/context';

/** One layout that was tried. SI. */
export const layoutTrialSchema = z.object({
  pitch: real,
  distance: real,
  /** From the coldest to the hottest hundredth of the mould's surface, and its mean, K. */
  spread: real,
  mean: real,
  /** When the mould can open, s. */
  openAt: real,
});
export type LayoutTrial = z.infer<typeof layoutTrialSchema>;

export const coolingReportSchema = z.object({
  aim: coolingAimSchema,
  trials: z.array(layoutTrialSchema),
  before: layoutTrialSchema,
  best: layoutTrialSchema,
  /** The study with the best layout. */
  inputs: inputsSchema,
});
export type CoolingReport = z.infer<typeof coolingReportSchema>;

export type CoolingStudyOutcome =
  { status: 'found'; report: CoolingReport } | { status: 'refused'; message: string; remedy: string };

const STEPS = [0.25, 0.12];
/** Channels nearer together, or to the part, than this many bores leave too little steel. */
const LEAST_PITCH = 2;
const LEAST_DISTANCE = 1.5;

/**
 * Moves pitch and distance of the generated layout by turns, first in wide, then in narrow steps, as long as it gets
 * better: about a dozen settled moulds at Detail quick, without filling. Drawn lines and wells stay.
 */
export async function coolingStudy(
  mesh: TriangleMesh,
  key: string,
  study: Inputs,
  aim: CoolingAim,
  ctx: StageContext,
): Promise<CoolingStudyOutcome> {
  const plan = study.cooling?.plan;
  if (!study.cooling || !plan)
    return { status: 'refused', message: 'There is no layout to move.', remedy: 'Lay channels out first.' };
  const inputs: Inputs = { ...study, detail: 'quick' };
  const [problem] = checkInputs(inputs, partSize(mesh));
  if (problem) return { status: 'refused', message: problem.message, remedy: problem.remedy };
  const run = resolve(mesh, inputs);
  const { mesh: whole } = run;
  const grid = await makeGrid(whole, key, inputs, ctx);
  if ('message' in grid) return { status: 'refused', message: grid.message, remedy: grid.likely };
  const part = boundsOf(whole.positions);
  const tree = new SurfaceTree(whole);
  const laid = (next: LayoutPlan): Cooling => {
    const cooling = study.cooling as Cooling;
    const block = blockOf(cooling, part, feedPlaces(study));
    return withLayout(cooling, next, layOutChannels(next, whole, part, block, cooling.supplies[0].id));
  };
  const trials: LayoutTrial[] = [];
  const expected = 4 * STEPS.length + 2;
  const attempt = async (next: LayoutPlan): Promise<LayoutTrial | null> => {
    const known = trials.find(
      (t) => Math.abs(t.pitch - next.pitch) < 1e-6 && Math.abs(t.distance - next.distance) < 1e-6,
    );
    if (known) return known;
    const cooling = laid(next);
    const block = blockOf(cooling, part, feedPlaces(study));
    if (checkClearances(cooling, tree, part, block).some((f) => f.severity === 'problem')) return null;
    const quiet: StageContext = {
      signal: ctx.signal,
      checkpoint: () => ctx.checkpoint(),
      report: ({ fraction }) =>
        ctx.report({
          stage: 'cool',
          fraction: Math.min(0.98, (trials.length + fraction) / expected),
          message: `Layout ${trials.length + 1}: ${(1000 * next.pitch).toFixed(1)} mm apart, ${(1000 * next.distance).toFixed(1)} mm from the part`,
        }),
    };
    const outcome = await settleMould({ ...run, inputs: { ...run.inputs, cooling } }, grid, new Map(), quiet);
    if (outcome.status === 'failed') return null;
    const { source, result } = outcome.mould;
    const [mean, low, high] = surfaceRange(result.field);
    const trial = { pitch: next.pitch, distance: next.distance, spread: high - low, mean, openAt: source.openAt };
    trials.push(trial);
    return trial;
  };
  const before = await attempt(plan);
  if (!before)
    return {
      status: 'refused',
      message: 'The layout as it is cannot be calculated.',
      remedy: 'Look at what the check of the station says first.',
    };
  const worth = (t: LayoutTrial) => (aim === 'even' ? t.spread : t.openAt + 1e-3 * t.mean);
  let best = before;
  for (const step of STEPS)
    for (const key of ['distance', 'pitch'] as const)
      for (const sign of [-1, 1]) {
        const least = (key === 'pitch' ? LEAST_PITCH : LEAST_DISTANCE) * plan.diameter;
        const value = Math.round(Math.max(least, best[key] * (1 + sign * step)) * 2000) / 2000;
        const trial = await attempt({ ...plan, pitch: best.pitch, distance: best.distance, [key]: value });
        if (trial && worth(trial) < worth(best) * 0.999) best = trial;
      }
  return {
    status: 'found',
    report: {
      aim,
      trials,
      before,
      best,
      inputs: { ...study, cooling: laid({ ...plan, pitch: best.pitch, distance: best.distance }) },
    },
  };
}
