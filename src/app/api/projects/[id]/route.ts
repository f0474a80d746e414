import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { changeProject } from '@/server/deleting';
import { viewProject } from '@/server/studies';
import { handle, notFound } from '../../respond';

export const GET = handle(ROUTES.project, async (_sent, { id }: { id: string }) => {
  const view = await viewProject((await app()).db, id);
  if (!view) throw notFound('This project');
  return view;
});

export const PATCH = handle(ROUTES.changeProject, async (change, { id }: { id: string }) => {
  const { db, queue } = await app();
  return changeProject(db, queue, id, change);
});
