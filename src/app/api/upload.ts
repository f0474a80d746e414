import type { ReadableStream } from 'node:stream/web';
import { callRefusal } from '@/server/callers';
import { RequestError } from '@/server/requestError';
import { isLockedOut, LOCKED, sessionOf } from '@/server/session';
import type { Report } from '@/server/workers';
import { respond, streamed } from './respond';

/**
 * Handler of a file that is sent as it is, which the proxy leaves alone: it would keep the whole of it in memory. The
 * answer is a stream of lines, see TaskLine.
 */
export const upload =
  <T>(
    work: (
      request: Request,
      body: ReadableStream<Uint8Array> | null,
      report: Report,
      signal: AbortSignal,
    ) => Promise<T>,
  ) =>
  (request: Request) =>
    respond(request, async () => {
      const refusal = callRefusal(request.method, request.headers, process.env.BELLOWS_ALLOWED_HOSTS);
      if (refusal) throw new RequestError(refusal.message, refusal.remedy, 403);
      if (isLockedOut(sessionOf(request.headers))) throw new RequestError(LOCKED.message, LOCKED.remedy, 401);
      // A form of another site can not send this type.
      if (request.headers.get('content-type') !== 'application/octet-stream')
        throw new RequestError('The file is not sent as one.', 'Drop it on the page.', 415);
      const body = request.body as ReadableStream<Uint8Array> | null;
      return streamed(request, (report, signal) => work(request, body, report, signal));
    });
