import { app } from '@/server/app';
import type { Database } from '@/store/db/client';
import { respond } from './respond';

/** Route that hands out what is named by its id as a zip to keep. */
export const archive =
  (make: (db: Database, id: string) => Promise<{ fileName: string; bytes: Uint8Array<ArrayBuffer> }>) =>
  (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
    respond(request, async () => {
      const { fileName, bytes } = await make((await app()).db, (await params).id);
      return new Response(bytes, {
        headers: { 'Content-Type': 'application/zip', 'Content-Disposition': `attachment; filename="${fileName}"` },
      });
    });
