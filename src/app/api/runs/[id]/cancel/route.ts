import { app } from '@/server/app';
import { respond } from '../../../respond';

export const POST = (_request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => {
    await (await app()).queue.cancel((await params).id);
    return { ok: true };
  });
