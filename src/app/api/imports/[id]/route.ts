import { z } from 'zod';
import { app } from '@/server/app';
import { acceptImport } from '@/server/imports';
import { respond } from '../../respond';

const body = z.strictObject({
  unit: z.enum(['mm', 'cm', 'm', 'in']).nullable(),
  placement: z.array(z.number()).length(12),
});

export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(async () => {
    const { unit, placement } = body.parse(await request.json());
    return acceptImport((await app()).db, (await params).id, unit, placement);
  });
