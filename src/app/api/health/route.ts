import { app } from '@/server/app';
import { canKeep, dataLimit, roomLeft } from '@/store/usage';
import { respond } from '../respond';

/** For who watches over the server: 200 while it can keep data, 503 when it can not. Nothing of the data is in it. */
export const GET = (request: Request) =>
  respond(request, async () => {
    try {
      const { db, queue } = await app();
      await db.$client.execute('SELECT 1');
      if (!canKeep()) throw new Error('nothing can be kept');
      return {
        status: 'ok',
        uptime_s: Math.round(process.uptime()),
        runs: queue.load,
        roomLeft_bytes: roomLeft(),
        limit_bytes: dataLimit(),
      };
    } catch {
      return Response.json({ status: 'the data folder can not be used' }, { status: 503 });
    }
  });
