import { randomUUID } from 'node:crypto';
import { and, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { inputKey } from '../core/model/inputKey';
import type { Body } from '../core/model/body';
import type { Inputs } from '../core/model/study';
import type { Answer } from '../core/results/answer';
import type { Database } from '../store/db/client';
import {
  geometries,
  projects,
  runs,
  variants,
  type ProjectRow,
  type RunRow,
  type VariantRow,
} from '../store/db/schema';
import { mayStandUnder } from '../core/model/variantTree';
import { wholeOf } from '../core/model/shots';
import { checkAllShots } from '../core/pipeline/partFacts';
import type { NewVariant } from '../runtime/protocol';
import { hasResults, isUnderWay, type GeometryView } from '../runtime/wire';
import { geometriesOf } from './geometry';
import { RequestError } from './requestError';

/** A project with everything the page needs. */
export interface ProjectView {
  project: ProjectRow;
  variants: VariantRow[];
  runs: RunRow[];
  geometries: GeometryView[];
}

export const createProject = (db: Database, name: string, inputs: Inputs): Promise<ProjectRow> =>
  insertProject(db, name, [{ name: 'First', parent: null, note: '', starred: false, colour: null, inputs }]);

/** A project that begins with these variants, in their tree. */
export async function insertProject(db: Database, name: string, begun: readonly NewVariant[]): Promise<ProjectRow> {
  const now = Date.now();
  const project: ProjectRow = {
    id: randomUUID(),
    name,
    createdAt: new Date(now),
    changedAt: new Date(now),
    deletedAt: null,
  };
  const ids = begun.map(() => randomUUID());
  const rows = begun.map(({ parent, ...said }, k): VariantRow => ({
    ...said,
    id: ids[k],
    projectId: project.id,
    parentId: parent === null ? null : ids[parent],
    version: 1,
    // They are listed by it.
    createdAt: new Date(now + k),
    deletedAt: null,
  }));
  // All of it or nothing.
  await db.batch([db.insert(projects).values(project), db.insert(variants).values(rows)]);
  return project;
}

/** A project with the variants of another one, in their tree; results stay with those they are of. null: there is none. */
export async function copyProject(db: Database, id: string, name: string): Promise<ProjectRow | null> {
  const view = await viewProject(db, id);
  if (!view) return null;
  const now = new Date();
  const project: ProjectRow = { id: randomUUID(), name, createdAt: now, changedAt: now, deletedAt: null };
  const idOf = new Map(view.variants.map((v) => [v.id, randomUUID()]));
  const copies = view.variants.map((v) => ({
    ...v,
    id: idOf.get(v.id) as string,
    projectId: project.id,
    // Under a variant that is deleted it stands alone.
    parentId: (v.parentId && idOf.get(v.parentId)) ?? null,
    version: 1,
  }));
  // Both or none.
  await db.batch([db.insert(projects).values(project), db.insert(variants).values(copies)]);
  return project;
}

async function insertVariant(db: Database, projectId: string, parentId: string | null, name: string, inputs: Inputs) {
  const row: VariantRow = {
    id: randomUUID(),
    projectId,
    parentId,
    name,
    note: '',
    starred: false,
    colour: null,
    inputs,
    version: 1,
    createdAt: new Date(),
    deletedAt: null,
  };
  await db.insert(variants).values(row);
  return row;
}

/** All projects, the last changed first, each with its variants and the verdicts of their newest results. */
export async function listProjects(db: Database) {
  const rows = await db.select().from(projects).where(isNull(projects.deletedAt)).orderBy(desc(projects.changedAt));
  const { id, projectId, parentId, name, note, starred } = variants;
  const all = await db
    .select({ id, projectId, parentId, name, note, starred })
    .from(variants)
    .where(isNull(variants.deletedAt))
    .orderBy(variants.createdAt);
  const told = await newestVerdicts(db);
  // The last of a project stays in the map.
  const newest = new Map(all.map((v) => [v.projectId, v.id]));
  const parts = await mouldedIn(db, [...newest.values()]);
  return rows.map((project) => ({
    ...project,
    part: parts.get(project.id) ?? [],
    variants: all
      .filter((v) => v.projectId === project.id)
      .map(({ projectId: _, ...variant }) => ({ ...variant, answers: told.get(variant.id) ?? null })),
  }));
}

/** Triangles of a part that is drawn small in passing, at most. */
const MOST_PICTURED = 200_000;

/** What variants mould, by their projects; nothing of a part that is too large to be drawn in passing. */
async function mouldedIn(db: Database, variantIds: readonly string[]): Promise<Map<string, Body[]>> {
  const all = await db
    .select({ projectId: variants.projectId, bodies: sql<string>`${variants.inputs} -> '$.bodies'` })
    .from(variants)
    .where(inArray(variants.id, [...variantIds]));
  const shown = all.map(({ projectId, bodies: text }) => {
    const bodies = JSON.parse(text) as Body[];
    const moulded = bodies.filter((b) => b.role !== 'left-out');
    return { projectId, bodies: moulded.length ? moulded : bodies };
  });
  const hashes = shown.flatMap(({ bodies }) => bodies.map((b) => b.mesh));
  const sizes = await db
    .select({ hash: geometries.hash, nTriangles: sql<number>`${geometries.report} ->> '$.nTriangles'` })
    .from(geometries)
    .where(inArray(geometries.hash, hashes));
  const sizeOf = new Map(sizes.map((g) => [g.hash, g.nTriangles]));
  const size = (bodies: readonly Body[]) => bodies.reduce((sum, b) => sum + (sizeOf.get(b.mesh) ?? Infinity), 0);
  return new Map(
    shown.filter(({ bodies }) => size(bodies) <= MOST_PICTURED).map(({ projectId, bodies }) => [projectId, bodies]),
  );
}

/** Verdicts of the newest result of every variant that has one, taken out by the database: answers carry whole studies. */
async function newestVerdicts(db: Database) {
  const finished = await db
    .select({ id: runs.id, variantId: runs.variantId, status: runs.status })
    .from(runs)
    .where(isNull(runs.deletedAt))
    .orderBy(runs.createdAt);
  const newest = new Map(finished.filter((r) => hasResults(r.status)).map((r) => [r.variantId, r.id]));
  const verdicts = sql<string>`(select json_group_array(json_object(
    'id', value ->> 'id', 'question', value ->> 'question', 'verdict', value ->> 'verdict'
  )) from json_each(${runs.answers}))`;
  const told = await db
    .select({ variantId: runs.variantId, verdicts })
    .from(runs)
    .where(inArray(runs.id, [...newest.values()]));
  return new Map(
    told.map((r) => [r.variantId, JSON.parse(r.verdicts) as Pick<Answer, 'id' | 'question' | 'verdict'>[]]),
  );
}

export async function viewProject(db: Database, id: string): Promise<ProjectView | null> {
  const [project] = await db
    .select()
    .from(projects)
    .where(and(eq(projects.id, id), isNull(projects.deletedAt)));
  if (!project) return null;
  const own = await db
    .select()
    .from(variants)
    .where(and(eq(variants.projectId, id), isNull(variants.deletedAt)));
  own.sort((a, b) => a.createdAt.getTime() - b.createdAt.getTime());
  const ownRuns = await shownRuns(
    db,
    own.map((v) => v.id),
  );
  const bodies = [...own, ...ownRuns].flatMap((v) => v.inputs.bodies);
  return { project, variants: own, runs: ownRuns, geometries: await geometriesOf(db, bodies) };
}

/**
 * Runs that a page shows of variants, newest first: those under way, the last one, and the last one with a result. A run
 * carries its inputs and answers, so all that there were would make a project slow that has been worked on for long.
 */
async function shownRuns(db: Database, variantIds: readonly string[]): Promise<RunRow[]> {
  const all = await db
    .select({ id: runs.id, variantId: runs.variantId, status: runs.status })
    .from(runs)
    .where(and(inArray(runs.variantId, [...variantIds]), isNull(runs.deletedAt)))
    .orderBy(desc(runs.createdAt));
  const ids = variantIds.flatMap((variantId) => {
    const ofIt = all.filter((r) => r.variantId === variantId);
    const shown = [ofIt[0], ofIt.find((r) => hasResults(r.status)), ...ofIt.filter((r) => isUnderWay(r.status))];
    return shown.flatMap((r) => (r ? [r.id] : []));
  });
  return db
    .select()
    .from(runs)
    .where(inArray(runs.id, [...new Set(ids)]))
    .orderBy(desc(runs.createdAt));
}

/** All runs of a variant that came to a result, newest first, with the inputs that they were made with. */
export async function resultsOfVariant(db: Database, variantId: string): Promise<RunRow[]> {
  await requireVariant(db, variantId);
  const all = await db
    .select()
    .from(runs)
    .where(and(eq(runs.variantId, variantId), isNull(runs.deletedAt)))
    .orderBy(desc(runs.createdAt));
  return all.filter((r) => hasResults(r.status));
}

/** A variant that has not been deleted, nor its project; or with `deleted` one that has. */
async function requireVariant(db: Database, id: string, deleted = false): Promise<VariantRow> {
  const [found] = await db
    .select()
    .from(variants)
    .innerJoin(projects, eq(projects.id, variants.projectId))
    .where(eq(variants.id, id));
  const variant = found?.variants;
  if (!variant || found.projects.deletedAt || (variant.deletedAt && !deleted))
    throw new RequestError('This variant is no longer there.', 'Reload the page.', 404);
  return variant;
}

const surfacesOf = ({ bodies }: Pick<Inputs, 'bodies'>) =>
  bodies.flatMap((b) => (b.original ? [b.mesh, b.original] : [b.mesh]));

/** @throws RequestError when inputs name a surface that is not stored, unless what was there before named it too. */
async function requireSurfaces(db: Database, inputs: Inputs, before: Inputs): Promise<void> {
  const known = new Set(surfacesOf(before));
  const fresh = inputs.bodies.filter((b) => surfacesOf({ bodies: [b] }).some((hash) => !known.has(hash)));
  const stored = new Set((await geometriesOf(db, fresh)).map((g) => g.hash));
  const lacking = fresh.find((b) => surfacesOf({ bodies: [b] }).some((hash) => !stored.has(hash) && !known.has(hash)));
  if (!lacking) return;
  const at = inputs.bodies.indexOf(lacking);
  throw new RequestError(
    `bodies.${at}.mesh: the surface of “${lacking.name}” is not stored here.`,
    'Bring the file in again.',
  );
}

export async function branchVariant(
  db: Database,
  parentId: string,
  name: string,
  inputs?: Inputs,
): Promise<VariantRow> {
  const parent = await requireVariant(db, parentId);
  if (inputs) await requireSurfaces(db, inputs, parent.inputs);
  await touch(db, parent.projectId);
  return insertVariant(db, parent.projectId, parent.id, name, wholeOf(inputs ?? parent.inputs));
}

/** @throws RequestError when a variant can not be shown under that one. */
async function requireParent(db: Database, variant: VariantRow, parentId: string): Promise<void> {
  const own = await db.select().from(variants).where(eq(variants.projectId, variant.projectId));
  if (!own.some((v) => v.id === parentId) || !mayStandUnder(own, variant.id, parentId))
    throw new RequestError(
      'A variant stands under another one of its project, not under itself or one of its own.',
      'Choose another place for it.',
    );
}

/** Changes a variant from the version that is named. @throws RequestError with the variant as it is, when it has changed since. */
export async function changeVariant(
  db: Database,
  id: string,
  {
    version,
    ...change
  }: Partial<Pick<VariantRow, 'name' | 'note' | 'starred' | 'colour' | 'parentId' | 'inputs'>> & {
    version: number;
    deleted?: boolean;
  },
): Promise<VariantRow> {
  const variant = await requireVariant(db, id, change.deleted === false);
  if (change.deleted) {
    const left = await db
      .select({ id: variants.id })
      .from(variants)
      .where(and(eq(variants.projectId, variant.projectId), isNull(variants.deletedAt)));
    if (left.length <= 1)
      throw new RequestError('A project keeps at least one variant.', 'Branch another one first.', 409);
  }
  const { inputs, deleted, ...labels } = change;
  const patch: Partial<VariantRow> = { ...labels, version: version + 1 };
  if (inputs !== undefined) {
    await requireSurfaces(db, inputs, variant.inputs);
    patch.inputs = wholeOf(inputs);
  }
  if (labels.parentId) await requireParent(db, variant, labels.parentId);
  if (deleted !== undefined) patch.deletedAt = deleted ? new Date() : null;
  // In one statement, so that of two saves of the same version one is stale.
  const changed = await db
    .update(variants)
    .set(patch)
    .where(and(eq(variants.id, id), eq(variants.version, version)))
    .returning();
  if (!changed.length)
    throw new RequestError(
      'This variant has been changed elsewhere since.',
      'Look at what it is now, then do it again.',
      409,
      await requireVariant(db, id, true),
    );
  await touch(db, variant.projectId);
  return changed[0];
}

const touch = (db: Database, projectId: string) =>
  db.update(projects).set({ changedAt: new Date() }).where(eq(projects.id, projectId));

/**
 * Runs that nobody has asked for and that have not come to their end, of a variant. Once somebody runs it they are the
 * run that is meant (`same`), or of no more use.
 */
export async function runsAside(db: Database, variantId: string): Promise<{ same: RunRow | null; others: RunRow[] }> {
  const { inputs } = await requireVariant(db, variantId);
  const all = await db
    .select()
    .from(runs)
    .where(and(eq(runs.variantId, variantId), eq(runs.aside, true), inArray(runs.status, ['queued', 'running'])));
  const same = all.find((r) => r.inputKey === inputKey(inputs)) ?? null;
  return { same, others: all.filter((r) => r !== same) };
}

/** The run as one that somebody has asked for. */
export async function askForRun(db: Database, run: RunRow): Promise<RunRow> {
  await db.update(runs).set({ aside: false }).where(eq(runs.id, run.id));
  return { ...run, aside: false };
}

/**
 * Records a run of the variant as it is now; `aside`: nobody has asked for it, `upTo`: it ends there, whatever is asked
 * of the variant. Throws RequestError with the first problem.
 */
export async function createRun(
  db: Database,
  variantId: string,
  { aside = false, upTo }: { aside?: boolean; upTo?: Inputs['upTo'] } = {},
): Promise<RunRow> {
  const variant = await requireVariant(db, variantId);
  const inputs = upTo ? { ...variant.inputs, upTo } : variant.inputs;
  const problems = checkAllShots(inputs, await geometriesOf(db, inputs.bodies));
  if (problems.length) throw new RequestError(problems[0].message, problems[0].remedy);
  const row: RunRow = {
    id: randomUUID(),
    variantId,
    inputs,
    inputKey: inputKey(inputs),
    status: 'queued',
    aside,
    problems: null,
    summary: null,
    answers: null,
    later: null,
    createdAt: new Date(),
    startedAt: null,
    finishedAt: null,
    deletedAt: null,
  };
  await db.insert(runs).values(row);
  return row;
}
