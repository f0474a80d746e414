import { ROUTES } from '@/runtime/wire';
import { signIn, signOut } from '@/server/session';
import { handle } from '../respond';

export const POST = handle(ROUTES.signIn, async ({ passphrase }, _params, request) =>
  Response.json({}, { headers: { 'set-cookie': signIn(request.headers, passphrase) } }),
);

export const DELETE = handle(ROUTES.signOut, async (_sent, _params, request) =>
  Response.json({}, { headers: { 'set-cookie': signOut(request.headers) } }),
);
