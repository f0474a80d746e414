import { emptyInputs } from '@/core/model/study';
import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { createProject, listProjects } from '@/server/studies';
import { handle } from '../respond';

export const GET = handle(ROUTES.projects, async () => listProjects((await app()).db));

export const POST = handle(ROUTES.createProject, async ({ name }) =>
  createProject((await app()).db, name, emptyInputs()),
);
