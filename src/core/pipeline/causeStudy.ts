import { z } from 'zod';
import type { TriangleMesh } from '../geometry/mesh';
import { detailSchema, inputsSchema, type Inputs } from '../model/study';
import { madeOtherwise, takeDifference, type InputDifference } from '../results/inputDifferences';
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

/** What a study comes to with all of the changes, and with each of them alone: shot by shot, as far as both ends have. */
export const causeReportSchema = z.object({
  detail: detailSchema,
  shots: z.array(
    z.object({
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
    }),
  ),
});
export type CauseReport = z.infer<typeof causeReportSchema>;

export type CauseOutcome =
  { status: 'found'; report: CauseReport } | { status: 'refused'; message: string; remedy: string };

/** Changes that are tried one by one at most: each is a run. */
export const MOST_CAUSES = 10;

/** What is moulded: surface of the cavities, m, the key that names it, and the other bodies by their ids. */
export interface Moulded {
  mesh: TriangleMesh;
  key: string;
  bodies?: ReadonlyMap<string, TriangleMesh>;
}

/** What two studies have otherwise that can be tried bit by bit. Their bodies are one change: the part as a whole. */
export function causesBetween(first: Inputs, other: Inputs): InputDifference[] {
  const all = madeOtherwise(first, other);
  const ofPart = all.filter(({ path }) => path[0] === 'bodies');
  if (ofPart.length < 2) return all.map((d) => (d === ofPart[0] ? { ...d, path: ['bodies'] } : d));
  const one = { path: ['bodies'], label: 'Part', from: 'as in the first', to: 'as in the other' };
  return [one, ...all.filter((d) => !ofPart.includes(d))];
}

/**
 * A study with each of the changes that make another one of it, alone and all together, each as a run of its own. Of
 * parts that differ the second comes in as one change, with whatever gates the first has.
 */
export async function causeStudy(
  part: Moulded,
  otherPart: Moulded,
  { inputs, other, detail }: CauseAsk,
  ctx: StageContext,
): Promise<CauseOutcome> {
  const causes = causesBetween(inputs, other);
  const refused = whyNot(causes);
  if (refused) return { status: 'refused', ...refused };
  const way = { detail, upTo: inputs.upTo };
  const nRuns = causes.length + 2;
  const run = async (
    study: Inputs,
    { mesh, key, bodies }: Moulded,
    k: number,
    said: string,
  ): Promise<{ message: string; remedy: string } | { shots: Summary[] }> => {
    const share = trialPart(ctx, k / nRuns, 1 / nRuns, said);
    const outcome = await runPipeline(mesh, key, { ...study, ...way }, share, { gridError: false, bodies });
    if (outcome.status === 'refused') return outcome.problems[0];
    if (outcome.status === 'failed') return { message: outcome.message, remedy: outcome.likely };
    const shots = [outcome, ...outcome.later];
    return shots.flatMap((o) => o.breaches)[0] ?? { shots: shots.map((o) => o.summary) };
  };
  const ends: Summary[][] = [];
  for (const [k, [study, moulded, said]] of (
    [
      [inputs, part, 'As the first'],
      [other, otherPart, 'All together'],
    ] as const
  ).entries()) {
    const end = await run(study, moulded, k, said);
    if ('message' in end) return { status: 'refused', message: `${said}: ${end.message}`, remedy: end.remedy };
    ends.push(end.shots);
  }
  const [first, all] = ends;
  const shots: CauseReport['shots'] = first
    .slice(0, all.length)
    .map((of, k) => ({ first: of, all: all[k], alone: [] }));
  for (const [k, { path, label, from, to }] of causes.entries()) {
    const study = takeDifference(inputs, other, path);
    const end = study
      ? await run(study, path[0] === 'bodies' ? otherPart : part, k + 2, `${label} alone, ${k + 1} of ${causes.length}`)
      : { message: 'By itself it makes no study.' };
    shots.forEach((shot, n) => {
      const summary = 'message' in end ? null : (end.shots[n] ?? null);
      const why = 'message' in end ? end.message : summary ? null : `It does not come to shot ${n + 1}.`;
      shot.alone.push({ label, from, to, summary, why });
    });
  }
  return { status: 'found', report: { detail, shots } };
}

function whyNot(causes: readonly InputDifference[]): { message: string; remedy: string } | null {
  if (!causes.length)
    return {
      message: 'Both have the same inputs.',
      remedy: 'Change something in one of them: then it can be asked what it did.',
    };
  if (causes.length > MOST_CAUSES)
    return {
      message: `${causes.length} inputs differ; up to ${MOST_CAUSES} are tried one by one.`,
      remedy: 'Make some of them alike under Inputs first.',
    };
  return null;
}
