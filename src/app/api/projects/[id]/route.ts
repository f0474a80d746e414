import { app } from '@/server/app';
import { viewProject } from '@/server/studies';
import { notFound, respond } from '../../respond';

export const GET = (_request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => {
    const view = await viewProject((await app()).db, (await params).id);
    if (!view) throw notFound('This project');
    return view;
  });
