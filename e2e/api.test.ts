import http from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeStl } from '../src/core/formats/stl';
import type { AcceptedImport, ImportPreview, ProjectView, TaskLine } from '../src/runtime/wire';
import { box } from '../verification/shapes';
import { App } from './app';

const server = new App();
beforeAll(() => server.start());
afterAll(() => server.stop());

const request = (method: string, url: string, body?: BodyInit, headers: Record<string, string> = {}) => {
  const type = typeof body === 'string' ? 'application/json' : 'application/octet-stream';
  return fetch(server.url + url, { method, body, headers: body ? { 'content-type': type, ...headers } : headers });
};
const UNTURNED = '[1,0,0,0,0,1,0,0,0,0,1,0]';

/** Lines of a streamed answer. */
type Line<T> = Exclude<TaskLine, { type: 'done' }> | { type: 'done'; result: T };
async function lines<T>(response: Response): Promise<Line<T>[]> {
  return (await response.text())
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Line<T>);
}
const NOBODY = '00000000-0000-0000-0000-000000000000';

async function demo(): Promise<ProjectView> {
  const [{ id }] = (await (await request('GET', '/api/projects')).json()) as { id: string }[];
  return (await (await request('GET', `/api/projects/${id}`)).json()) as ProjectView;
}

describe('requests that cannot be served', () => {
  it.each([
    ['GET', `/api/projects/${NOBODY}`, undefined, 404],
    ['GET', `/api/runs/${NOBODY}`, undefined, 404],
    ['GET', `/api/runs/${NOBODY}/events`, undefined, 404],
    ['GET', `/api/runs/${NOBODY}/blobs/grid.bin`, undefined, 404],
    ['GET', `/api/runs/${NOBODY}/blobs/..%2F..%2Fbellows.db`, undefined, 404],
    ['GET', '/api/geometries/..%2Fbellows', undefined, 404],
    ['GET', '/api/maps/..%2Fbellows', undefined, 404],
    ['GET', `/api/variants/${NOBODY}/bodies?format=stl`, undefined, 404],
    ['GET', `/api/variants/${NOBODY}/bodies?format=dwg`, undefined, 400],
    ['GET', `/api/variants/${NOBODY}/export`, undefined, 404],
    ['POST', '/api/projects', '{ "name": ', 400],
    ['POST', '/api/projects', '{ "name": "" }', 400],
    ['POST', '/api/variants', `{ "parentId": "${NOBODY}", "name": "x" }`, 404],
    ['POST', '/api/runs', '{ "variantId": 3 }', 400],
    ['POST', `/api/imports/${NOBODY}`, `{ "unit": "mm", "placement": ${UNTURNED} }`, 404],
    ['POST', `/api/imports/${NOBODY}`, `{ "unit": "furlong", "placement": ${UNTURNED} }`, 400],
  ])('%s %s %s', async (method, url, body, status) => {
    const response = await request(method, url, body);
    expect(response.status).toBe(status);
    const { message, remedy } = (await response.json()) as { message: string; remedy: string };
    expect(message.length).toBeGreaterThan(5);
    expect(remedy.length).toBeGreaterThan(5);
  });

  it('inputs outside their limits are refused, and what was there stays', async () => {
    const [variant] = (await demo()).variants;
    for (const patch of [
      { detail: 'extreme' },
      { gates: [{ id: 'G', position: [0, 0], diameter: 1 }] },
      { extra: 1 },
    ]) {
      const body = JSON.stringify({ version: variant.version, inputs: { ...variant.inputs, ...patch } });
      expect((await request('PATCH', `/api/variants/${variant.id}`, body)).status).toBe(400);
    }
    expect((await demo()).variants[0].inputs).toEqual(variant.inputs);
  });
});

/** Status of a call with any headers, such as no browser sends. */
const statusWith = (method: string, path: string, headers: Record<string, string>, body = '') =>
  new Promise<number>((resolve, reject) => {
    const call = http.request(server.url + path, { method, headers }, (answer) => {
      answer.resume();
      resolve(answer.statusCode ?? 0);
    });
    call.on('error', reject);
    call.end(body);
  });

describe('who may call', () => {
  const sent = '{ "name": "Theirs" }';
  const json = { 'content-type': 'application/json' };

  it.each([
    ['another name of the server', 'GET', '/api/projects', { host: 'elsewhere.example' }],
    ['another name, on a page', 'GET', '/', { host: 'elsewhere.example' }],
    ['a change by another origin', 'POST', '/api/projects', { ...json, origin: 'http://elsewhere.example' }],
    ['one by a page without an origin', 'POST', '/api/projects', { ...json, origin: 'null' }],
    [
      'one that the browser tells to be of another site',
      'POST',
      '/api/projects',
      { ...json, 'sec-fetch-site': 'cross-site' },
    ],
    ['an upload by another origin', 'POST', '/api/imports?name=a.stl', { origin: 'http://elsewhere.example' }],
  ])('not: %s', async (_what, method, path, headers) => {
    expect(await statusWith(method, path, headers as Record<string, string>, method === 'GET' ? '' : sent)).toBe(403);
  });

  it('a form can not change anything: what is sent must say what it is, and be no longer than it may', async () => {
    const form = { 'content-type': 'text/plain' };
    expect((await request('POST', '/api/projects', sent, form)).status).toBe(415);
    expect((await request('POST', '/api/imports?name=a.stl', 'solid', form)).status).toBe(415);
    expect((await request('POST', '/api/projects', `{ "name": "${'x'.repeat(9e6)}" }`)).status).toBe(413);
    const names = (await (await request('GET', '/api/projects')).json()) as { name: string }[];
    expect(names.map((p) => p.name)).not.toContain('Theirs');
  });

  it('every answer says what may be made of it', async () => {
    for (const path of ['/', '/api/projects']) {
      const { headers } = await request('GET', path);
      expect(headers.get('x-content-type-options')).toBe('nosniff');
      expect(headers.get('content-security-policy')).toMatch(/script-src 'self' 'nonce-.*frame-ancestors 'none'/);
    }
  });
});

describe('a part by upload', () => {
  it('comes in, is measured in its unit and can be loaded', async () => {
    const upload = await request(
      'POST',
      '/api/imports?name=Strip.stl',
      new Blob([new Uint8Array(writeStl(box(0.03, 0.01, 0.002)))]),
    );
    const [first, ...rest] = await lines<ImportPreview>(upload);
    expect(first.type).toBe('progress');
    const last = rest.at(-1);
    if (last?.type !== 'done') throw new Error('the upload was refused');
    const preview = last.result;
    expect(preview).toMatchObject({ fileName: 'Strip.stl', guessedUnit: 'mm', metresPerUnit: null });
    const accepted = await request('POST', `/api/imports/${preview.id}`, `{ "unit": "mm", "placement": ${UNTURNED} }`);
    const part = (await accepted.json()) as AcceptedImport;
    expect(part.geometries[0].report.volume).toBeCloseTo(0.03 * 0.01 * 0.002, 12);
    const mesh = await request('GET', `/api/geometries/${part.bodies[0].mesh}`);
    expect(mesh.headers.get('cache-control')).toContain('immutable');
    expect((await mesh.arrayBuffer()).byteLength).toBe(16 + 8 * 24 + 4 * 36);
  });

  it.each([
    ['/api/imports?name=x.stl', 'no geometry in here', /not an STL/],
    ['/api/studies', 'no archive in here', /no whole zip archive/],
    ['/api/geometry', '{ "do": "melt" }', /do/],
    ['/api/geometry', `{ "do": "trace", "body": { "id": "B1", "mesh": "${'0'.repeat(64)}" } }`, /no longer stored/],
  ])('refusals come as the last line: %s', async (url, body, message) => {
    const content = /imports|studies/.test(url) ? new Blob([body]) : body;
    const last = (await lines(await request('POST', url, content))).at(-1);
    expect(last).toMatchObject({ type: 'failed', message: expect.stringMatching(message) });
  });
});
