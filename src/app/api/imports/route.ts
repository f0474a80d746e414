import type { ReadableStream } from 'node:stream/web';
import { receiveImport } from '@/server/imports';
import { streamed } from '../respond';

/** Body: the file as it is. Query: its name. The answer is a stream of lines, see TaskLine. */
export const POST = (request: Request) =>
  streamed(request, (report, signal) => {
    const name = new URL(request.url).searchParams.get('name') ?? 'Part.stl';
    return receiveImport(name.slice(-120), request.body as ReadableStream<Uint8Array> | null, report, signal);
  });
