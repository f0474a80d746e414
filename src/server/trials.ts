import { existsSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import type { BalanceAsk } from '../core/model/balanceAsk';
import { cavities, geometryKey as keyOf, otherBodies, type Inputs } from '../core/model/study';
import type { BalanceReport } from '../core/pipeline/balanceStudy';
import type { CoolingAim } from '../core/model/coolingAsk';
import type { CoolingReport } from '../core/pipeline/coolingStudy';
import type { CauseAsk, CauseReport } from '../core/pipeline/causeStudy';
import type { CycleReport } from '../core/pipeline/cycleStudy';
import type { TabReport } from '../core/pipeline/tabStudy';
import { byItself } from '../core/model/shots';
import type { StructureAsk } from '../core/model/structureAsk';
import type { StructureReport } from '../runtime/wire';
import type { ShrinkageAsk, ShrinkageReport } from '../core/pipeline/fitShrinkage';
import type { ShrinkageTask, StoredStudy, TrialsMessage, TrialsReport, TrialsTask } from '../runtime/protocol';
import type { Database } from '../store/db/client';
import { runs } from '../store/db/schema';
import { meshPath, runDir } from '../store/paths';
import { RequestError } from './requestError';
import { workInWorker, type Report } from './workers';

/** Trials for the balance of the runners. */
export const balanceRunners = (inputs: Inputs, ask: BalanceAsk, report: Report, signal: AbortSignal) =>
  trials<BalanceReport>(inputs, { do: 'balance', ask }, report, signal);

/** Trials for a cycle that suits the part. */
export const suggestCycle = (inputs: Inputs, report: Report, signal: AbortSignal) =>
  trials<CycleReport>(inputs, { do: 'cycle' }, report, signal);

/** Trials for the place of an overflow tab. */
export const searchTab = (inputs: Inputs, report: Report, signal: AbortSignal) =>
  trials<TabReport>(inputs, { do: 'tab' }, report, signal);

/** Trials with the changes that make another study of one, alone and together. */
export const searchCauses = ({ inputs, other, detail }: CauseAsk, report: Report, signal: AbortSignal) =>
  trials<CauseReport>(inputs, { do: 'cause', other: stored(other), detail }, report, signal);

/** Trials for a layout of the channels that cools more evenly, or faster. */
export const improveLayout = (inputs: Inputs, aim: CoolingAim, report: Report, signal: AbortSignal) =>
  trials<CoolingReport>(inputs, { do: 'cooling', aim }, report, signal);

/** Plates of a resin against measured shrinkage. */
export async function correctByShrinkage(
  ask: ShrinkageAsk,
  report: Report,
  signal: AbortSignal,
): Promise<ShrinkageReport> {
  const task: ShrinkageTask = { ask: { do: 'shrinkage', ...ask } };
  return (await workInWorker<TrialsMessage<ShrinkageReport>>('trials', task, report, signal)).report;
}

/** Deck, points with stress, or counter-warped body of a finished run: kept in the run's folder. */
export async function structureOfRun(
  db: Database,
  runId: string,
  ask: StructureAsk,
  report: Report,
  signal: AbortSignal,
): Promise<StructureReport> {
  const [run] = await db.select().from(runs).where(eq(runs.id, runId));
  if (!run) throw new RequestError('This run is no longer there.', 'Reload the page.', 404);
  return trials(run.inputs, { do: 'structure', ask, runDir: runDir(runId) }, report, signal);
}

/** In a worker of their own; nothing is stored but what is asked for. */
async function trials<R extends TrialsReport>(
  study: Inputs,
  ask: TrialsTask['ask'],
  report: Report,
  signal: AbortSignal,
): Promise<R> {
  const task: TrialsTask = { ...stored(study), ask };
  return (await workInWorker<TrialsMessage<R>>('trials', task, report, signal)).report;
}

/**
 * A study with the files of its bodies. Of inputs that are looked at as a later shot, that shot by itself, with steel all
 * round it. @throws RequestError when a body is missing.
 */
function stored(study: Inputs): StoredStudy {
  const inputs = byItself(study);
  const geometryKey = keyOf(inputs);
  if (!geometryKey) throw new RequestError('No body is a cavity.', 'Give the body to be moulded the role Cavity.', 400);
  const meshPaths = cavities(inputs).map((b) => meshPath(b.mesh));
  const bodyPaths = Object.fromEntries(otherBodies(inputs).map((b) => [b.id, meshPath(b.mesh)]));
  if (![...meshPaths, ...Object.values(bodyPaths)].every((file) => existsSync(file)))
    throw new RequestError('One of the bodies is no longer stored.', 'Bring the file in again.', 404);
  return { inputs, geometryKey, meshPaths, bodyPaths };
}
