import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { runDir } from '@/store/paths';
import { immutable, notFound, respond } from '../../../../respond';

/** grid.bin, surface.bin, manifest.json and <field>.f32 of a run, and what was made of its shape. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string; name: string }> }) =>
  respond(request, async () => {
    const { id, name } = await params;
    if (!/^[0-9a-f-]{36}$/.test(id) || !/^[a-zA-Z0-9-]+\.(bin|f32|json|inp|vtu)$/.test(name))
      throw notFound('This result');
    const file = path.join(runDir(id), name);
    if (!existsSync(file)) throw notFound('This result');
    return immutable(new Uint8Array(readFileSync(file)), name.endsWith('.json') ? 'application/json' : undefined);
  });
