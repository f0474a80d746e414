/** Names that reach a server on this machine only. */
const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];

export interface CallRefusal {
  message: string;
  remedy: string;
}

const hostName = (host: string): string => host.toLowerCase().replace(/:\d+$/, '');

/**
 * Why a call is refused, null where it is not. A host that was not set up is another site's name for this server (a
 * rebound address); a change asked for by another origin is another site's form or script in the same browser.
 * `allowed`: names of hosts beside those of this machine, separated by commas.
 */
export function callRefusal(method: string, headers: Headers, allowed: string | undefined): CallRefusal | null {
  const host = headers.get('host') ?? '';
  const set = (allowed ?? '').split(',').map((name) => name.trim().toLowerCase());
  // A list that ends in a comma allows no nameless host.
  const names = [...LOOPBACK, ...set.filter(Boolean)];
  if (!names.includes(hostName(host)))
    return {
      message: 'Bellows does not answer under this name.',
      remedy: 'Open it by the address it printed at its start, or add the name to BELLOWS_ALLOWED_HOSTS.',
    };
  if (method === 'GET' || method === 'HEAD') return null;
  const origin = headers.get('origin');
  const site = headers.get('sec-fetch-site');
  const foreign = origin !== null && originHost(origin) !== host.toLowerCase();
  if (foreign || (site !== null && site !== 'same-origin' && site !== 'none'))
    return { message: 'Another site asked for a change.', remedy: 'Use the page of Bellows itself.' };
  return null;
}

/** Whether a request comes over TLS, as far as the proxy before the server says. */
export const isOverTls = (headers: Headers): boolean =>
  headers.get('x-forwarded-proto')?.split(',')[0].trim() === 'https';

/** The address a page is reached by, of a host that is allowed: behind a proxy the server knows no other. */
export const originOf = (headers: Headers): string =>
  `${isOverTls(headers) ? 'https' : 'http'}://${headers.get('host')}`;

function originHost(origin: string): string {
  try {
    return new URL(origin).host.toLowerCase();
  } catch {
    return '';
  }
}

/** In which the layout finds the nonce of the answer, for the script of its own. */
export const NONCE_HEADER = 'x-nonce';

/** Number of a request: in the answer, in the log, and on the page when something has failed. */
export const REQUEST_ID = 'x-request-id';

/** Headers of every answer, beside the content policy. */
export const HEADERS: readonly (readonly [string, string])[] = [
  ['x-content-type-options', 'nosniff'],
  ['x-frame-options', 'DENY'],
  ['referrer-policy', 'same-origin'],
  ['cross-origin-opener-policy', 'same-origin'],
  ['cross-origin-resource-policy', 'same-origin'],
  ['permissions-policy', 'camera=(), microphone=(), geolocation=()'],
];

/**
 * What a page may load: its own files, scripts that carry the nonce of the answer, WebAssembly, and workers and pictures
 * that it makes itself. `developing`: the tools of the framework evaluate scripts.
 */
export const contentPolicy = (nonce: string, developing: boolean): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${developing ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self' data:",
    `connect-src 'self' blob: data:${developing ? ' ws:' : ''}`,
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
