import { z } from 'zod';
import { emptyInputs } from '@/core/model/study';
import { app } from '@/server/app';
import { createProject, listProjects } from '@/server/studies';
import { respond } from '../respond';

export const GET = () => respond(async () => listProjects((await app()).db));

const body = z.strictObject({ name: z.string().trim().min(1).max(80) });

export const POST = (request: Request) =>
  respond(async () => createProject((await app()).db, body.parse(await request.json()).name, emptyInputs()));
