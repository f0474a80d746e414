import { z } from 'zod';
import { app } from '@/server/app';
import { exportBodies } from '@/server/geometry';
import { respond } from '../../../respond';

const query = z.object({ format: z.enum(['stl', '3mf']), ids: z.string().optional() });

/** Bodies as a file: ?format=stl|3mf, &ids=B1,B2 for some of them. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(request, async () => {
    const { format, ids } = query.parse(Object.fromEntries(new URL(request.url).searchParams));
    const { fileName, bytes } = await exportBodies(
      (await app()).db,
      (await params).id,
      format,
      ids?.split(',') ?? null,
    );
    return new Response(new Uint8Array(bytes), {
      headers: {
        'Content-Type': 'application/octet-stream',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      },
    });
  });
