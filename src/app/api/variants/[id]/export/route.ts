import { app } from '@/server/app';
import { exportStudy } from '@/server/exportStudy';
import { respond } from '../../../respond';

export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(request, async () => {
    const { fileName, bytes } = await exportStudy((await app()).db, (await params).id);
    return new Response(bytes, {
      headers: { 'Content-Type': 'application/zip', 'Content-Disposition': `attachment; filename="${fileName}"` },
    });
  });
