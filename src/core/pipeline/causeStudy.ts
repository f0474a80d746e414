import { z } from 'zod';
import type { TriangleMesh } from '../geometry/mesh';
import { detailSchema, inputsSchema, type Inputs } from '../model/study';
import { inputDifferences, takeDifference, type InputDifference } from '../results/inputDifferences';
import { summarySchema, type Summary } from '../results/summary';
import type { StageContext } from '../stage/context';
import { runPipeline } from './pipeline';
import { trialPart } from './trialPart';

/** What is asked: which of the inputs that another study has otherwise did what. */
export const causeAskSchema = z.strictObject({
  inputs: inputsSchema,
  other: inputsSchema,
  /** Of all the trials. */
  detail: detailSchema,
});

export type CauseAsk = z.infer<typeof causeAskSchema>;

/** What a study comes to with all of the changes, and with each of them alone. */
export const causeReportSchema = z.object({
  detail: detailSchema,
  first: summarySchema,
  all: summarySchema,
  alone: z.array(
    z.object({
      label: z.string(),
      from: z.string(),
      to: z.string(),
      /** null: it could not be tried by itself; `why` says so. */
      summary: summarySchema.nullable(),
      why: z.string().nullable(),
    }),
  ),
});
export type CauseReport = z.infer<typeof causeReportSchema>;

export type CauseOutcome =
  { status: 'found'; report: CauseReport } | { status: 'refused'; message: string; remedy: string };

/** Changes that are tried one by one at most: each is a run. */
export const MOST_CAUSES = 10;

/** Inputs that say how a study is calculated, not what is made. */
const HOW: ReadonlySet<string> = new Set(['detail', 'upTo']);

/** What two studies have otherwise that can be tried bit by bit. */
export const causesBetween = (first: Inputs, other: Inputs): InputDifference[] =>
  inputDifferences(first, other).filter(({ path }) => !HOW.has(path[0]));

/**
 * A study with each of the changes that make another one of it, alone and all together, each as a run of its own. The
 * part is the same in all of them. `bodies`: surfaces of the other bodies by their id.
 */
export async function causeStudy(
  mesh: TriangleMesh,
  key: string,
  { inputs, other, detail }: CauseAsk,
  ctx: StageContext,
  bodies?: ReadonlyMap<string, TriangleMesh>,
): Promise<CauseOutcome> {
  const causes = causesBetween(inputs, other);
  const refused = whyNot(causes);
  if (refused) return { status: 'refused', ...refused };
  const way = { detail, upTo: inputs.upTo };
  const nRuns = causes.length + 2;
  const run = async (
    study: Inputs,
    k: number,
    said: string,
  ): Promise<{ message: string; remedy: string } | { summary: Summary }> => {
    const part = trialPart(ctx, k / nRuns, 1 / nRuns, said);
    const outcome = await runPipeline(mesh, key, { ...study, ...way }, part, { gridError: false, bodies });
    if (outcome.status === 'refused') return outcome.problems[0];
    if (outcome.status === 'failed') return { message: outcome.message, remedy: outcome.likely };
    return outcome.breaches[0] ?? { summary: outcome.summary };
  };
  const ends = [];
  for (const [k, [study, said]] of [[inputs, 'As the first'] as const, [other, 'All together'] as const].entries()) {
    const end = await run(study, k, said);
    if ('message' in end) return { status: 'refused', message: `${said}: ${end.message}`, remedy: end.remedy };
    ends.push(end.summary);
  }
  const alone: CauseReport['alone'] = [];
  for (const [k, { path, label, from, to }] of causes.entries()) {
    const study = takeDifference(inputs, other, path);
    const end = study
      ? await run(study, k + 2, `${label} alone, ${k + 1} of ${causes.length}`)
      : { message: 'By itself it makes no study.' };
    const summary = 'message' in end ? null : end.summary;
    alone.push({ label, from, to, summary, why: 'message' in end ? end.message : null });
  }
  return { status: 'found', report: { detail, first: ends[0], all: ends[1], alone } };
}

function whyNot(causes: readonly InputDifference[]): { message: string; remedy: string } | null {
  if (!causes.length)
    return {
      message: 'Both have the same inputs.',
      remedy: 'Change something in one of them: then it can be asked what it did.',
    };
  if (causes.some(({ path }) => path[0] === 'bodies'))
    return {
      message: 'The parts differ, and a shape can not be changed bit by bit.',
      remedy: 'Compare the views and the numbers, or two variants of the same part.',
    };
  if (causes.length > MOST_CAUSES)
    return {
      message: `${causes.length} inputs differ; up to ${MOST_CAUSES} are tried one by one.`,
      remedy: 'Make some of them alike under Inputs first.',
    };
  return null;
}
