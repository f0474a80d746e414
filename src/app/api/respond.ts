import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import { describeIssues } from '@/core/model/studyFile';
import type { Route, TaskLine } from '@/runtime/wire';
import { storageProblem } from '@/runtime/files';
import { dataDir } from '@/server/paths';
import { RequestError } from '@/server/requestError';
import type { Report } from '@/server/workers';

interface Refusal {
  message: string;
  remedy: string;
  status: number;
  now?: unknown;
}

function refusalOf(error: unknown): Refusal {
  if (error instanceof RequestError) {
    const { message, remedy, status, now } = error;
    return { message, remedy, status, now };
  }
  if (error instanceof z.ZodError) return { message: describeIssues(error), remedy: 'Correct the value.', status: 400 };
  if (error instanceof SyntaxError)
    return { message: 'The request holds no valid JSON.', remedy: 'Reload the page.', status: 400 };
  const fault = randomUUID().slice(0, 8);
  console.error(`fault ${fault}`, error);
  const storage = storageProblem(error, dataDir());
  if (storage) return { ...storage, status: 507 };
  // What the error says is for the log: it may hold statements and paths.
  return {
    message: `Something failed on the server (fault ${fault}).`,
    remedy: 'Try again; if it stays, the log of the server says more under that number.',
    status: 500,
  };
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
export function streamed<T>(request: Request, work: (report: Report, signal: AbortSignal) => Promise<T>): Response {
  const abort = new AbortController();
  request.signal.addEventListener('abort', () => abort.abort());
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (line: TaskLine) => {
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

type Named<Params> = { params: Promise<Params> };

/** A study with hundreds of lines and bodies has a tenth of this, bytes. */
const MOST_SENT = 8 * 2 ** 20;

/** What a request sends on a route. @throws RequestError, ZodError or SyntaxError when it is not that. */
async function sentOn<Sent>({ method, sent }: Route<Sent, unknown>, request: Request): Promise<Sent> {
  if (method === 'GET' || method === 'DELETE') return sent.parse(undefined);
  // A form of another site can send anything but this type.
  if (!/^application\/json\b/i.test(request.headers.get('content-type') ?? ''))
    throw new RequestError('The request is not sent as JSON.', 'Reload the page.', 415);
  return sent.parse(JSON.parse(await textOf(request)));
}

/** The text of a request, read no further than it may be long. */
async function textOf(request: Request): Promise<string> {
  const tooLong = () =>
    new RequestError(`The request is larger than ${MOST_SENT >> 20} MB.`, 'Send less at once.', 413);
  if (Number(request.headers.get('content-length') ?? 0) > MOST_SENT) throw tooLong();
  const chunks: Uint8Array[] = [];
  let length = 0;
  // Leaving the loop lets go of the rest.
  for await (const chunk of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    length += chunk.length;
    if (length > MOST_SENT) throw tooLong();
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

/** Handler of a route: gets what was sent, parsed, and what the path names. */
export const handle =
  <Sent, Params = object>(route: Route<Sent, unknown>, work: (sent: Sent, params: Params) => Promise<unknown>) =>
  (request: Request, { params }: Named<Params>): Promise<Response> =>
    respond(async () => work(await sentOn(route, request), await params));

/** Handler of a route whose answer is a stream of lines. */
export const handleStreamed =
  <Sent, Params = object>(
    route: Route<Sent, unknown>,
    work: (sent: Sent, report: Report, signal: AbortSignal, params: Params) => Promise<unknown>,
  ) =>
  (request: Request, { params }: Named<Params>): Response =>
    streamed(request, async (report, signal) => work(await sentOn(route, request), report, signal, await params));

export const notFound = (what: string) => new RequestError(`${what} is no longer there.`, 'Reload the page.', 404);

/** Binary content that never changes under its address. */
export const immutable = (bytes: Uint8Array<ArrayBuffer>, type = 'application/octet-stream') =>
  new Response(bytes, {
    headers: { 'Content-Type': type, 'Cache-Control': 'private, max-age=31536000, immutable' },
  });
