import type { ReadableStream } from 'node:stream/web';
import { receiveImport } from '@/server/imports';
import { respond } from '../respond';

/** Body: the file as it is. Query: its name. */
export const POST = (request: Request) =>
  respond(async () => {
    const name = new URL(request.url).searchParams.get('name') ?? 'Part';
    return receiveImport(name.slice(0, 120), request.body as ReadableStream<Uint8Array> | null);
  });
