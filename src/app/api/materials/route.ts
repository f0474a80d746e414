import { z } from 'zod';
import { app } from '@/server/app';
import { listMaterials, saveMaterial } from '@/server/materials';
import { respond } from '../respond';

export const GET = () => respond(async () => listMaterials((await app()).db));

const body = z.strictObject({ kind: z.enum(['resin', 'metal', 'gas', 'coolant']), material: z.unknown() });

export const PUT = (request: Request) =>
  respond(async () => {
    const { kind, material } = body.parse(await request.json());
    return saveMaterial((await app()).db, kind, material);
  });
