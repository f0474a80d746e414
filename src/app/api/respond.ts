import { z } from 'zod';
import { describeIssues } from '@/core/model/study';
import { RequestError } from '@/server/imports';

/** Runs a handler; refusals become JSON with message and remedy, which the page shows as they are. */
export async function respond(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result);
  } catch (error) {
    if (error instanceof RequestError)
      return Response.json({ message: error.message, remedy: error.remedy }, { status: error.status });
    if (error instanceof z.ZodError)
      return Response.json({ message: describeIssues(error), remedy: 'Correct the value.' }, { status: 400 });
    if (error instanceof SyntaxError)
      return Response.json(
        { message: 'The request holds no valid JSON.', remedy: 'Reload the page.' },
        { status: 400 },
      );
    console.error(error);
    return Response.json(
      { message: `Something failed on the server: ${(error as Error).message}`, remedy: 'Try again.' },
      { status: 500 },
    );
  }
}

export const notFound = (what: string) => new RequestError(`${what} is no longer there.`, 'Reload the page.', 404);

/** Binary content that never changes under its address. */
export const immutable = (bytes: Uint8Array<ArrayBuffer>, type = 'application/octet-stream') =>
  new Response(bytes, {
    headers: { 'Content-Type': type, 'Cache-Control': 'private, max-age=31536000, immutable' },
  });
