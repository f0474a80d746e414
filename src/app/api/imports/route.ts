import type { ReadableStream } from 'node:stream/web';
import { callRefusal } from '@/server/callers';
import { receiveImport } from '@/server/imports';
import { RequestError } from '@/server/requestError';
import { isLockedOut, LOCKED, sessionOf } from '@/server/session';
import { respond, streamed } from '../respond';

/** Body: the file as it is. Query: its name. The answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  respond(request, async () => {
    const refusal = callRefusal(request.method, request.headers, process.env.BELLOWS_ALLOWED_HOSTS);
    if (refusal) throw new RequestError(refusal.message, refusal.remedy, 403);
    if (isLockedOut(sessionOf(request.headers))) throw new RequestError(LOCKED.message, LOCKED.remedy, 401);
    // A form of another site can not send this type.
    if (request.headers.get('content-type') !== 'application/octet-stream')
      throw new RequestError('The file is not sent as one.', 'Drop it on the page.', 415);
    const name = new URL(request.url).searchParams.get('name') ?? 'Part.stl';
    const body = request.body as ReadableStream<Uint8Array> | null;
    return streamed(request, (report, signal) => receiveImport(name.slice(-120), body, report, signal));
  });
