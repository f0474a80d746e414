import { emptyInputs } from '@/core/model/study';
import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { copyProject, createProject, listProjects } from '@/server/studies';
import { handle, notFound } from '../respond';

export const GET = handle(ROUTES.projects, async () => listProjects((await app()).db));

export const POST = handle(ROUTES.createProject, async ({ name, copyOf }) => {
  const { db } = await app();
  if (copyOf === undefined) return createProject(db, name, emptyInputs());
  const copy = await copyProject(db, copyOf, name);
  if (!copy) throw notFound('The project to copy');
  return copy;
});
