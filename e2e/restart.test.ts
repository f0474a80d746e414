import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Browser } from 'puppeteer-core';
import type { ProjectView, RunView } from '../src/runtime/wire';
import { App, openBrowser, openPage, press, seeText, sleep } from './app';

const server = new App();
let browser: Browser;

const json = async <T>(url: string, init?: RequestInit): Promise<T> =>
  (await fetch(server.url + url, { ...init, headers: { 'content-type': 'application/json' } })).json() as Promise<T>;
const post = <T>(url: string, body: unknown) => json<T>(url, { method: 'POST', body: JSON.stringify(body) });

beforeAll(async () => {
  await server.start();
  browser = await openBrowser();
});
afterAll(async () => {
  await browser?.close();
  await server.stop();
});

describe('a server killed in mid-run', () => {
  it('comes back with the run marked interrupted, the queue kept, and can run it again', async () => {
    const [{ id }] = await json<{ id: string }[]>('/api/projects');
    const before = await json<ProjectView>(`/api/projects/${id}`);
    const [variant] = before.variants;
    const inputs = { ...variant.inputs, detail: 'quick' as const, upTo: 'pack' as const };
    await json(`/api/variants/${variant.id}`, {
      method: 'PATCH',
      body: JSON.stringify({ version: variant.version, inputs, name: 'Survivor' }),
    });
    const first = await post<RunView>('/api/runs', { variantId: variant.id });
    const status = async (runId: string) => (await json<RunView>(`/api/runs/${runId}`)).status;
    while ((await status(first.id)) !== 'running') await sleep(30);
    const second = await post<RunView>('/api/runs', { variantId: variant.id });
    expect(await status(second.id)).toBe('queued');
    await sleep(600);
    await server.kill();

    await server.start();
    expect(await status(first.id)).toBe('interrupted');
    const after = await json<ProjectView>(`/api/projects/${id}`);
    expect(after.variants.map((v) => [v.name, v.inputs])).toEqual([['Survivor', inputs]]);
    expect(after.geometries).toEqual(before.geometries);
    // What waited is taken up again by itself.
    for (let i = 0; i < 3000 && ['queued', 'running'].includes(await status(second.id)); i++) await sleep(100);
    expect(await status(second.id)).toBe('filled');

    const { page } = await openPage(browser, `${server.url}/project/${id}`);
    await seeText(page, 'Pressure needed at the gate');
    await press(page, 'Run');
    // It may be over before anybody sees it run: its phases are there.
    const again = async () =>
      (await json<ProjectView>(`/api/projects/${id}`)).runs.filter((r) => ![first.id, second.id].includes(r.id));
    for (let i = 0; i < 200 && !(await again()).length; i++) await sleep(100);
    expect(await again()).toHaveLength(1);
  });
});
