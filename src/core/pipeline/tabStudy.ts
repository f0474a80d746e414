import { z } from 'zod';
import { vec3Schema } from '../geometry/schemas';
import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { distance } from '../geometry/vec';
import { nominalWall } from '../grid/lattice';
import { openingOf } from '../model/body';
import { defaultTab } from '../model/outlet';
import { inSetMould, inputsSchema, type Inputs } from '../model/study';
import { real } from '../numerics/real';
import { freshOutletId } from '../results/answer';
import { linesWithFibres, type LineWithFibres } from '../results/howStrong';
import { tabPlaces, type TabPlace } from '../results/tabPlaces';
import type { StageContext } from '../stage/context';
import { runPipeline } from './pipeline';
import { trialPart } from './trialPart';

/** What a weld line is like in one filling. SI. */
const lineSchema = z.object({
  /** Of what the wall bears along its fibres, of what fibres across it give, and of the plastic. */
  share: real,
  ofFibres: real,
  healed: real,
  flowedThrough: real,
});

export const tabReportSchema = z.object({
  /** The weakest line of the study, as it is and with a tab at each of the places, the best first. */
  line: z.string(),
  before: lineSchema,
  trials: z.array(
    z.object({ position: vec3Schema, direction: vec3Schema, after: lineSchema.nullable(), inputs: inputsSchema }),
  ),
});
export type TabReport = z.infer<typeof tabReportSchema>;

export type TabStudyOutcome =
  { status: 'found'; report: TabReport } | { status: 'refused'; message: string; remedy: string };

/** Places that are tried; of the part's diagonal, how far from the ends of the line they are looked for. */
const PLACES = 8;
const WITHIN = 0.4;
/** Lines of another filling so near, in shares of the diagonal, are the same one moved. */
const SAME_LINE = 0.15;

/**
 * Fillings with an overflow tab at places beside the weakest weld line of a part with fibres, at Detail quick: what lies across the
 * line when the part is full tells which strengthens it most. Packing draws a little more through each.
 */
export async function tabStudy(
  mesh: TriangleMesh,
  key: string,
  study: Inputs,
  ctx: StageContext,
  most = PLACES,
): Promise<TabStudyOutcome> {
  const filling: Inputs = { ...inSetMould(study), detail: 'quick', upTo: 'fill' };
  const { min, max } = boundsOf(mesh.positions);
  const diagonal = distance(min, max);
  const linesOf = async (inputs: Inputs, k: number, said: string) => {
    const part = trialPart(ctx, k / (most + 1), 1 / (most + 1), said);
    const outcome = await runPipeline(mesh, key, inputs, part, { gridError: false });
    if (outcome.status === 'refused') return outcome.problems[0];
    if (outcome.status === 'failed') return { message: outcome.message, remedy: outcome.likely };
    if (outcome.status === 'stalled')
      return { message: 'The part does not fill.', remedy: 'Let it fill first: Answers says what keeps it from that.' };
    const [breach] = outcome.breaches;
    if (breach) return breach;
    if (!outcome.fibres)
      return {
        message: 'The study follows no fibres.',
        remedy: 'Choose a grade with fibres, and let them be followed.',
      };
    return linesWithFibres(outcome.gridResult.grid, outcome.fibres.own, outcome.findings.weldLines);
  };
  const found = await linesOf(filling, 0, 'The study as it is');
  if ('message' in found) return { status: 'refused', message: found.message, remedy: found.remedy };
  const [weakest] = found;
  if (!weakest)
    return {
      status: 'refused',
      message: 'No weld line crosses the part.',
      remedy: 'There is nothing that a tab could strengthen.',
    };
  const places = placesBeside(mesh, weakest.line.points, study, WITHIN * diagonal, most);
  if (!places.length)
    return {
      status: 'refused',
      message: 'No side of the part near the line has room for a tab.',
      remedy: 'Place one by hand at the Feed station, or move a gate.',
    };
  const taken = study.tabs ?? [];
  const id = freshOutletId('T', taken);
  const trials: TabReport['trials'] = [];
  for (const [k, { position, direction, wall }] of places.entries()) {
    const tab = defaultTab(id, position, direction, wall);
    const said = `A tab at place ${k + 1} of ${places.length}`;
    const lines = await linesOf({ ...filling, tabs: [...taken, tab] }, k + 1, said);
    // A place at which the run is refused, stops short or fails its checks is no place for a tab.
    if ('message' in lines) continue;
    const same = lines.filter(({ line }) => apart(line.points, weakest.line.points) < SAME_LINE * diagonal);
    trials.push({
      position,
      direction,
      after: same.length ? rowOf(same[0]) : null,
      inputs: { ...study, tabs: [...taken, tab] },
    });
  }
  if (!trials.length)
    return {
      status: 'refused',
      message: 'With none of the tabs that were tried the part can be filled.',
      remedy: 'Place one by hand at the Feed station, or move a gate.',
    };
  trials.sort((a, b) => (b.after?.share ?? 1) - (a.after?.share ?? 1));
  return { status: 'found', report: { line: weakest.line.id, before: rowOf(weakest), trials } };
}

const rowOf = ({ line, ofFibres, share }: LineWithFibres) => ({
  share,
  ofFibres,
  healed: line.strength,
  flowedThrough: line.flowedThrough ?? 0,
});

/** Mean distance of the points of one line from another. */
function apart(line: readonly Vec3[], from: readonly Vec3[]): number {
  const nearest = (p: Vec3) => Math.min(...from.map((q) => distance(p, q)));
  return line.reduce((s, p) => s + nearest(p), 0) / line.length;
}

/** Places near the ends of a line that lie as far from each other as may be, the nearest to each end first. */
function placesBeside(
  mesh: TriangleMesh,
  line: readonly Vec3[],
  study: Inputs,
  within: number,
  most: number,
): TabPlace[] {
  const ends = [line[0], line[line.length - 1]];
  const toEnd = ({ position }: TabPlace) => Math.min(...ends.map((e) => distance(e, position)));
  const near = tabPlaces(mesh, openingOf(study.tool), nominalWall(mesh)).filter((p) => toEnd(p) < within);
  const chosen: TabPlace[] = [];
  for (const end of ends) {
    const by = (p: TabPlace) => distance(p.position, end);
    const first = near.reduce<TabPlace | null>((best, p) => (!best || by(p) < by(best) ? p : best), null);
    if (first && !chosen.includes(first)) chosen.push(first);
  }
  while (chosen.length && chosen.length < Math.min(most, near.length)) {
    const room = (p: TabPlace) => Math.min(...chosen.map((c) => distance(c.position, p.position)));
    chosen.push(near.reduce((best, p) => (room(p) > room(best) ? p : best)));
  }
  return chosen;
}
