import { z } from 'zod';
import { describeIssues } from '@/core/model/studyFile';
import type { TaskLine } from '@/runtime/wire';
import { RequestError } from '@/server/requestError';

interface Refusal {
  message: string;
  remedy: string;
  status: number;
}

function refusalOf(error: unknown): Refusal {
  if (error instanceof RequestError) return { message: error.message, remedy: error.remedy, status: error.status };
  if (error instanceof z.ZodError) return { message: describeIssues(error), remedy: 'Correct the value.', status: 400 };
  if (error instanceof SyntaxError)
    return { message: 'The request holds no valid JSON.', remedy: 'Reload the page.', status: 400 };
  console.error(error);
  return { message: `Something failed on the server: ${(error as Error).message}`, remedy: 'Try again.', status: 500 };
}

/** Runs a handler; refusals become JSON with message and remedy, which the page shows as they are. */
export async function respond(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result);
  } catch (error) {
    const { status, ...refusal } = refusalOf(error);
    return Response.json(refusal, { status });
  }
}

/**
 * Long work as a stream of JSON lines: progress, then its result or a refusal. Leaving the page or
 * cancelling the request aborts the work.
 */
export function streamed<T>(
  request: Request,
  work: (report: (fraction: number, message: string) => void, signal: AbortSignal) => Promise<T>,
): Response {
  const abort = new AbortController();
  request.signal.addEventListener('abort', () => abort.abort());
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (line: TaskLine<T>) => {
        if (!abort.signal.aborted) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      try {
        send({ type: 'progress', fraction: 0, message: 'Starting' });
        const result = await work((fraction, message) => send({ type: 'progress', fraction, message }), abort.signal);
        send({ type: 'done', result });
      } catch (error) {
        if (!abort.signal.aborted) {
          const { message, remedy } = refusalOf(error);
          send({ type: 'failed', message, remedy });
        }
      }
      if (!abort.signal.aborted) controller.close();
    },
    cancel: () => abort.abort(),
  });
  return new Response(stream, {
    headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-cache, no-transform' },
  });
}

export const notFound = (what: string) => new RequestError(`${what} is no longer there.`, 'Reload the page.', 404);

/** Binary content that never changes under its address. */
export const immutable = (bytes: Uint8Array<ArrayBuffer>, type = 'application/octet-stream') =>
  new Response(bytes, {
    headers: { 'Content-Type': type, 'Cache-Control': 'private, max-age=31536000, immutable' },
  });
