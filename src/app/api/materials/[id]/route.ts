import { app } from '@/server/app';
import { deleteMaterial } from '@/server/materials';
import { respond } from '../../respond';

export const DELETE = (_request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => {
    await deleteMaterial((await app()).db, (await params).id);
    return {};
  });
