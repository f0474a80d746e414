import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { viewProject } from '@/server/studies';
import { handle, notFound } from '../../respond';

export const GET = handle(ROUTES.project, async (_sent, { id }: { id: string }) => {
  const view = await viewProject((await app()).db, id);
  if (!view) throw notFound('This project');
  return view;
});
