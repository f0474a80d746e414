import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { mapsDir } from '@/store/paths';
import { immutable, notFound, respond } from '../../respond';

export const GET = (request: Request, { params }: { params: Promise<{ key: string }> }) =>
  respond(request, async () => {
    const { key } = await params;
    const file = path.join(mapsDir(), `${key}.bin`);
    if (!/^[0-9a-f]{64}$/.test(key) || !existsSync(file)) throw notFound('This map');
    return immutable(new Uint8Array(readFileSync(file)));
  });
