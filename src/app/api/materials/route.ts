import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { listMaterials, saveMaterial } from '@/server/materials';
import { handle } from '../respond';

export const GET = handle(ROUTES.materials, async () => listMaterials((await app()).db));

export const PUT = handle(ROUTES.saveMaterial, async (stored) => saveMaterial((await app()).db, stored));
