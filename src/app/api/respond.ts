import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import { describeIssues } from '@/core/model/studyFile';
import type { Route, TaskLine } from '@/runtime/wire';
import { storageProblem } from '@/runtime/files';
import { REQUEST_ID } from '@/server/callers';
import { log } from '@/server/log';
import { dataDir } from '@/store/paths';
import { RequestError } from '@/server/requestError';
import type { Report } from '@/server/workers';

interface Refusal {
  message: string;
  remedy: string;
  status: number;
  now?: unknown;
  headers?: Record<string, string>;
}

/** Number of a request, under which the log has it; a fault is told with it. */
const idOf = (request: Request) => request.headers.get(REQUEST_ID) ?? randomUUID().slice(0, 8);

function refusalOf(error: unknown, id: string): Refusal {
  if (error instanceof RequestError) {
    const { message, remedy, status, now, headers } = error;
    return { message, remedy, status, now, headers };
  }
  if (error instanceof z.ZodError) return { message: describeIssues(error), remedy: 'Correct the value.', status: 400 };
  if (error instanceof SyntaxError)
    return { message: 'The request holds no valid JSON.', remedy: 'Reload the page.', status: 400 };
  log.error({ id, error }, 'fault');
  const storage = storageProblem(error, dataDir());
  if (storage) return { ...storage, status: 507 };
  // What the error says is for the log: it may hold statements and paths.
  return {
    message: `Something failed on the server (fault ${id}).`,
    remedy: 'Try again; if it stays, the log of the server says more under that number.',
    status: 500,
  };
}

/** Runs a handler; refusals become JSON with message and remedy, which the page shows as they are. */
export async function respond(request: Request, work: () => Promise<unknown>): Promise<Response> {
  const begun = performance.now();
  const id = idOf(request);
  let response: Response;
  try {
    const result = await work();
    response = result instanceof Response ? result : Response.json(result);
  } catch (error) {
    const { status, headers, ...refusal } = refusalOf(error, id);
    response = Response.json(refusal, { status, headers });
  }
  tell(request, id, response.status, begun);
  return response;
}

/** Changes are told of in the log; what only looks is not, unless the level asks for it. */
function tell(request: Request, id: string, status: number, begun: number): void {
  const { method } = request;
  const facts = { id, method, path: new URL(request.url).pathname, status, ms: Math.round(performance.now() - begun) };
  if (method === 'GET') log.debug(facts);
  else log.info(facts);
}

/**
 * Long work as a stream of JSON lines: progress, then its result or a refusal. Leaving the page or
 * cancelling the request aborts the work.
 */
export function streamed<T>(request: Request, work: (report: Report, signal: AbortSignal) => Promise<T>): Response {
  const abort = new AbortController();
  const id = idOf(request);
  const begun = performance.now();
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
          const { message, remedy } = refusalOf(error, id);
          send({ type: 'failed', message, remedy });
        }
      }
      tell(request, id, abort.signal.aborted ? 499 : 200, begun);
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
  <Sent, Params = object>(
    route: Route<Sent, unknown>,
    work: (sent: Sent, params: Params, request: Request) => Promise<unknown>,
  ) =>
  (request: Request, { params }: Named<Params>): Promise<Response> =>
    respond(request, async () => work(await sentOn(route, request), await params, request));

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
