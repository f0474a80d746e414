import { eq } from 'drizzle-orm';
import type { Database } from '../store/db/client';
import { projects, runs, type ProjectRow, type RunRow } from '../store/db/schema';
import { runsUnderWay } from '../store/usage';
import type { RunQueue } from './queue';
import { RequestError } from './requestError';

/** Renames a project, deletes it, or brings it back. Runs under way of one that is deleted are stopped. */
export async function changeProject(
  db: Database,
  queue: RunQueue,
  id: string,
  { name, deleted }: { name?: string; deleted?: boolean },
): Promise<ProjectRow> {
  const patch: Partial<ProjectRow> = { changedAt: new Date() };
  if (name !== undefined) patch.name = name;
  if (deleted !== undefined) patch.deletedAt = deleted ? new Date() : null;
  const [project] = await db.update(projects).set(patch).where(eq(projects.id, id)).returning();
  if (!project) throw new RequestError('This project is no longer there.', 'Reload the page.', 404);
  if (deleted) await stopRuns(db, queue, { projectId: id });
  return project;
}

/** Deletes a run or brings it back; one under way is stopped. */
export async function changeRun(db: Database, queue: RunQueue, id: string, deleted: boolean): Promise<RunRow> {
  const [run] = await db
    .update(runs)
    .set({ deletedAt: deleted ? new Date() : null })
    .where(eq(runs.id, id))
    .returning();
  if (!run) throw new RequestError('This run is no longer there.', 'Reload the page.', 404);
  if (deleted) await queue.cancel(id);
  return run;
}

export async function stopRuns(
  db: Database,
  queue: RunQueue,
  of: { projectId?: string; variantId?: string },
): Promise<void> {
  for (const id of await runsUnderWay(db, of)) await queue.cancel(id);
}
