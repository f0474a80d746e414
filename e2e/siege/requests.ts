import type { Inputs } from '../../src/core/model/study';
import type { ProjectView, VariantView } from '../../src/runtime/wire';
import { random as seeded } from '../../verification/random';
import type { App } from '../app';
import { ask } from './clients';

export interface Requests {
  nSent: number;
  nTaken: number;
  nRefused: number;
  /** Answers that are a fault of the server, with what was sent. */
  faults: string[];
  /** Refusals that do not say what is wrong and what to do, or that say too much. */
  unclear: string[];
  longest_ms: number;
}

/** Values that no page sends. */
const NASTY: readonly unknown[] = [
  null,
  '',
  'x'.repeat(200_000),
  '../../etc/passwd',
  "'); DROP TABLE runs; --",
  '\u0000',
  1e300,
  -1e300,
  1e-300,
  -1,
  2 ** 53,
  {},
  [],
  true,
  [[[[[[]]]]]],
  { __proto__: null, constructor: { prototype: 1 } },
  Array(3000).fill(0),
  'a'.repeat(64),
  '0'.repeat(64),
];

type Place = readonly (string | number)[];

/** Every place in a value that holds something. */
function placesOf(value: unknown, at: Place = []): Place[] {
  const inner =
    value && typeof value === 'object'
      ? Object.entries(value).flatMap(([key, v]) => placesOf(v, [...at, Array.isArray(value) ? Number(key) : key]))
      : [];
  return at.length ? [at, ...inner] : inner;
}

function withAt(value: unknown, place: Place, put: unknown): unknown {
  if (!place.length) return put;
  const [key, ...rest] = place;
  if (Array.isArray(value)) return value.map((v, i) => (i === key ? withAt(v, rest, put) : (v as unknown)));
  const record = value as Record<string, unknown>;
  return { ...record, [key]: withAt(record[key], rest, put) };
}

/** What a message must not hold: statements, paths, traces. */
const TOO_MUCH =
  /\b(select|insert|update|where|from)\b.*\b(runs|variants|projects|geometries)\b|\/(tmp|home|work|usr|etc)\/|\bat .*\.(js|ts|mjs):\d|node_modules/i;

/**
 * Sends requests that are wrong in one place each, on every route that changes something; the same ones for the same
 * seed.
 */
export async function mutate(server: App, n: number, seed: number): Promise<Requests> {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const projects = await ask<{ id: string }[]>(server, '/api/projects');
  const views: ProjectView[] = [];
  for (const { id } of projects) views.push(await ask<ProjectView>(server, `/api/projects/${id}`));
  const fresh = async (): Promise<VariantView> =>
    ask(server, '/api/variants', 'POST', { parentId: pick(views).variants[0].id, name: 'Siege' });
  let variant = await fresh();
  const inputs: readonly Inputs[] = views.map((v) => v.variants[0].inputs);
  const matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
  const routes: (() => { method: string; path: string; body: unknown })[] = [
    () => ({
      method: 'PATCH',
      path: `/api/variants/${variant.id}`,
      body: { version: variant.version, name: 'x', inputs: pick(inputs) },
    }),
    () => ({
      method: 'POST',
      path: '/api/variants',
      body: { parentId: variant.id, name: 'Branch', inputs: pick(inputs) },
    }),
    () => ({ method: 'POST', path: '/api/projects', body: { name: 'Siege' } }),
    () => ({ method: 'PATCH', path: `/api/projects/${pick(views).project.id}`, body: { name: 'Siege' } }),
    () => ({ method: 'POST', path: '/api/runs', body: { variantId: variant.id } }),
    () => ({ method: 'POST', path: `/api/imports/${variant.id}`, body: { unit: 'mm', placement: matrix } }),
    () => ({ method: 'POST', path: '/api/session', body: { passphrase: 'nine bees on a tray' } }),
  ];
  const out: Requests = { nSent: 0, nTaken: 0, nRefused: 0, faults: [], unclear: [], longest_ms: 0 };
  for (let k = 0; k < n; k++) {
    // Half of them at the inputs, which have the most places.
    const { method, path, body } = k % 2 ? pick(routes)() : routes[0]();
    const place = pick(placesOf(body));
    const put = pick(NASTY);
    const sent = JSON.stringify(random() < 0.1 ? withAt(body, ['more'], put) : withAt(body, place, put));
    const begun = performance.now();
    const response = await fetch(server.url + path, {
      method,
      headers: { 'content-type': 'application/json' },
      body: sent,
    });
    const text = await response.text();
    out.nSent++;
    out.longest_ms = Math.max(out.longest_ms, performance.now() - begun);
    const what = `${method} ${path} ${place.join('.')} = ${JSON.stringify(put).slice(0, 60)}: ${response.status} ${text.slice(0, 200)}`;
    if (response.ok) {
      out.nTaken++;
      if (path === '/api/runs') {
        const { id } = JSON.parse(text) as { id: string };
        await ask(server, `/api/runs/${id}/cancel`, 'POST', {});
      }
      if (method === 'PATCH') variant = await fresh();
      continue;
    }
    out.nRefused++;
    if (response.status >= 500) out.faults.push(what);
    else if (!isClear(text)) out.unclear.push(what);
  }
  out.longest_ms = Math.round(out.longest_ms);
  return out;
}

function isClear(text: string): boolean {
  try {
    const { message, remedy } = JSON.parse(text) as { message?: string; remedy?: string };
    const said = `${message} ${remedy}`;
    return !!message && message.length < 3000 && !!remedy && !TOO_MUCH.test(said) && !/fault/.test(said);
  } catch {
    return false;
  }
}
