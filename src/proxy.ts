import { NextResponse, type NextRequest } from 'next/server';
import { callRefusal, contentPolicy, HEADERS, NONCE_HEADER } from './server/callers';

/** Every request passes here first: who calls is looked at before anything is read. */
export function proxy(request: NextRequest): Response {
  const refusal = callRefusal(request.method, request.headers, process.env.BELLOWS_ALLOWED_HOSTS);
  if (refusal) return Response.json(refusal, { status: 403 });
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const policy = contentPolicy(nonce, process.env.NODE_ENV !== 'production');
  const headers = new Headers(request.headers);
  // The framework reads the nonce for its own scripts from here.
  headers.set('content-security-policy', policy);
  headers.set(NONCE_HEADER, nonce);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  for (const [name, value] of HEADERS) response.headers.set(name, value);
  return response;
}

// What passes here is kept in memory: uploads do not, their route looks at the caller itself.
export const config = { matcher: '/((?!_next/static|api/imports$).*)' };
