import { existsSync, readFileSync } from 'node:fs';
import { meshPath } from '@/store/paths';
import { immutable, notFound, respond } from '../../respond';

export const GET = (request: Request, { params }: { params: Promise<{ hash: string }> }) =>
  respond(request, async () => {
    const { hash } = await params;
    if (!/^[0-9a-f]{64}$/.test(hash) || !existsSync(meshPath(hash))) throw notFound('This part');
    return immutable(new Uint8Array(readFileSync(meshPath(hash))));
  });
