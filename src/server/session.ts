import { isSession, lockOf, newSession, opens, SESSION_COOKIE, SESSION_MS } from '../store/passphrase';
import { Attempts } from './attempts';
import { isOverTls } from './callers';
import { log } from './log';
import { RequestError } from './requestError';

const holder = globalThis as { bellowsAttempts?: Attempts };

/** Cookie of a session; `secure` where the page came over TLS. */
const cookie = (value: string, maxAge_s: number, secure: boolean) =>
  `${SESSION_COOKIE}=${value}; Path=/; HttpOnly; SameSite=Lax; Max-Age=${maxAge_s}${secure ? '; Secure' : ''}`;

/** Cookie of the session that a passphrase opens. @throws RequestError */
export function signIn(headers: Headers, passphrase: string): string {
  const lock = lockOf();
  if (!lock) throw new RequestError('No passphrase is set.', 'Open the page: it asks for none.', 409);
  const attempts = (holder.bellowsAttempts ??= new Attempts());
  const wait = attempts.begin();
  if (wait)
    throw new RequestError('Too many tries.', `Try again in ${Math.ceil(wait / 1000)} s.`, 429, undefined, {
      'retry-after': String(Math.ceil(wait / 1000)),
    });
  let right = false;
  try {
    right = opens(lock, passphrase);
  } finally {
    attempts.end(right);
  }
  if (!right) {
    log.warn('wrong passphrase');
    throw new RequestError('This is not the passphrase.', 'Look for capital letters, then try again.', 401);
  }
  return cookie(newSession(lock), SESSION_MS / 1000, isOverTls(headers));
}

export const signOut = (headers: Headers): string => cookie('', 0, isOverTls(headers));

/** Answer to who has not given the passphrase. */
export const LOCKED = { message: 'The passphrase is asked for.', remedy: 'Reload the page and give it.' };

/** Whether who calls has to give the passphrase first. */
export function isLockedOut(session: string | undefined): boolean {
  const lock = lockOf();
  return lock !== null && !isSession(lock, session);
}

/** The session that a request names in its cookies. */
export const sessionOf = (headers: Headers): string | undefined =>
  (headers.get('cookie') ?? '')
    .split(/;\s*/)
    .find((pair) => pair.startsWith(`${SESSION_COOKIE}=`))
    ?.slice(SESSION_COOKIE.length + 1);

/** Whether the data folder has a passphrase. */
export const hasPassphrase = (): boolean => lockOf() !== null;
