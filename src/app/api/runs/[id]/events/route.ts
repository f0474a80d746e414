import { eq } from 'drizzle-orm';
import { base64 } from '@/core/formats/vtu';
import { app } from '@/server/app';
import { runs } from '@/store/db/schema';
import type { RunEvent } from '@/server/queue';
import { notFound, respond } from '../../../respond';

const KEEP_ALIVE_MS = 15_000;

/** Server-sent events of a run; Last-Event-ID picks up where a lost connection left off. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  respond(request, async () => {
    const { db, queue } = await app();
    const { id } = await params;
    const [run] = await db.select().from(runs).where(eq(runs.id, id));
    if (!run) throw notFound('This run');
    const afterId = Number(request.headers.get('last-event-id') ?? 0) || 0;
    let stop: (() => void) | null = null;
    let timer: NodeJS.Timeout | undefined;
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        let open = true;
        const close = () => {
          if (!open) return;
          open = false;
          stop?.();
          clearInterval(timer);
          try {
            controller.close();
          } catch {
            // The reader has already gone.
          }
        };
        const send = (event: RunEvent) => {
          if (!open) return;
          controller.enqueue(lineOf(event));
          if (isFinal(event)) setTimeout(close, 0);
        };
        request.signal.addEventListener('abort', close);
        stop = queue.subscribe(id, afterId, send, close);
        // A run of an earlier life of the server: its last word is in the database.
        if (!stop) send({ id: afterId + 1, type: 'status', status: run.status, problems: run.problems ?? undefined });
        timer = setInterval(() => open && controller.enqueue(STILL_HERE), KEEP_ALIVE_MS);
      },
      cancel() {
        stop?.();
        clearInterval(timer);
      },
    });
    return new Response(stream, {
      headers: {
        'Content-Type': 'text/event-stream',
        'Cache-Control': 'no-cache, no-transform',
        Connection: 'keep-alive',
      },
    });
  });

const encoder = new TextEncoder();
const STILL_HERE = encoder.encode(': still here\n\n');

/** Lines of events, made once for all who listen: an event is never changed. */
const lines = new WeakMap<RunEvent, Uint8Array>();

function lineOf(event: RunEvent): Uint8Array {
  let line = lines.get(event);
  if (!line) {
    line = encoder.encode(`id: ${event.id}\ndata: ${JSON.stringify(plain(event))}\n\n`);
    lines.set(event, line);
  }
  // A copy: a stream may take the memory of what it is given.
  return line.slice();
}

const isFinal = (event: RunEvent) => event.type === 'status' && event.status !== 'queued' && event.status !== 'running';

const bytesOf = (a: Int32Array | Float32Array) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength);

/** Typed arrays travel as base64 of their little-endian bytes. */
function plain(event: RunEvent): object {
  if (event.type !== 'filled') return event;
  return { ...event, nodes: base64(bytesOf(event.nodes)), times: base64(bytesOf(event.times)) };
}
