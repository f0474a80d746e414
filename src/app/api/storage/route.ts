import { ROUTES } from '@/runtime/wire';
import { app } from '@/server/app';
import { usageOf } from '@/store/usage';
import { handle } from '../respond';

export const GET = handle(ROUTES.usage, async () => usageOf((await app()).db));
