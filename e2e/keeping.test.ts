import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Browser, Page } from 'puppeteer-core';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import type { RunView, Usage } from '../src/runtime/wire';
import { App, openBrowser, openPage, pictureOnFailure, press, seeText, sleep, textOf } from './app';
import { ask, trayOf } from './siege/clients';

const root = fileURLToPath(new URL('..', import.meta.url));
const server = new App();
let browser: Browser;
let page: Page;
let errors: string[];
beforeAll(async () => {
  await server.start();
  browser = await openBrowser();
  ({ page, errors } = await openPage(browser, server.url));
});
afterAll(async () => {
  await browser?.close();
  await server.stop();
});
afterEach(({ task }) => pictureOnFailure(page, task.result?.state));

const names = async () => (await ask<{ name: string }[]>(server, '/api/projects')).map((p) => p.name).sort();
const ended = async (id: string): Promise<RunView> => {
  for (;;) {
    const run = await ask<RunView>(server, `/api/runs/${id}`);
    if (run.status !== 'queued' && run.status !== 'running') return run;
    await sleep(100);
  }
};
/** The command line; connections of this process are looked after meanwhile. */
function bellows(args: string[], input = ''): Promise<{ status: number | null; stdout: string; stderr: string }> {
  const child = spawn(process.execPath, [path.join(root, 'bin', 'bellows.mjs'), ...args], {
    env: { ...process.env, BELLOWS_DATA: server.data },
  });
  const said = { stdout: '', stderr: '' };
  child.stdout.on('data', (text) => (said.stdout += text));
  child.stderr.on('data', (text) => (said.stderr += text));
  child.stdin.end(input);
  return new Promise((resolve) => child.on('close', (status) => resolve({ status, ...said })));
}
/** A quick filling of the tray. */
async function run(): Promise<RunView> {
  const { id, version, inputs } = await trayOf(server);
  await ask(server, `/api/variants/${id}`, 'PATCH', { version, inputs: { ...inputs, detail: 'quick', upTo: 'fill' } });
  return ask(server, '/api/runs', 'POST', { variantId: id });
}

describe('projects on the start page', () => {
  it('are renamed, deleted and brought back', async () => {
    await press(page, 'Actions of Hive monitor');
    await press(page, 'Rename');
    await page.waitForSelector('[aria-label="Name of the project"]');
    await page.keyboard.type('Monitor');
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => document.body.innerText.includes('Monitor'));
    await press(page, 'Actions of Monitor');
    await press(page, 'Delete');
    await seeText(page, '“Monitor” is deleted.');
    await page.waitForFunction(() => !document.querySelector('[aria-label="Actions of Monitor"]'));
    expect(await names()).not.toContain('Monitor');
    await press(page, 'Undo');
    await page.waitForSelector('[aria-label="Actions of Monitor"]');
    expect(await names()).toContain('Monitor');
  });
});

describe('the page of the data', () => {
  it('tells what takes up room; a run is deleted, brought back and freed', async () => {
    const { id } = await ended((await run()).id);
    await page.goto(`${server.url}/data`, { waitUntil: 'networkidle2' });
    await press(page, 'Runs of Feeder tray');
    await press(page, 'Delete the run of First, filled');
    await seeText(page, 'Bring back');
    const deletedAt = async () =>
      (await ask<Usage>(server, '/api/storage')).projects.flatMap((p) => p.runs).find((r) => r.id === id)?.deletedAt;
    expect(await deletedAt()).toBeTruthy();
    await press(page, 'Bring back');
    await page.waitForFunction(() => !document.body.innerText.includes('Bring back'));
    expect(await deletedAt()).toBeNull();
    const folder = path.join(server.data, 'runs', id);
    expect(existsSync(path.join(folder, 'manifest.json'))).toBe(true);
    await press(page, 'Delete the run of First, filled');
    await seeText(page, 'Bring back');
    await press(page, 'Free the room now');
    await seeText(page, 'are free again');
    expect(await deletedAt()).toBeUndefined();
    expect(existsSync(folder)).toBe(false);
    expect(errors).toEqual([]);
  });

  it('a project that is deleted stops its runs, and can not be run or changed', async () => {
    const first = await run();
    const { projectId: id } = await trayOf(server);
    await ask(server, `/api/projects/${id}`, 'PATCH', { deleted: true });
    expect((await ended(first.id)).status).toMatch(/cancelled|filled/);
    await expect(ask(server, '/api/runs', 'POST', { variantId: first.variantId })).rejects.toThrow(/404/);
    await expect(ask(server, `/api/projects/${id}`)).rejects.toThrow(/404/);
    await ask(server, `/api/projects/${id}`, 'PATCH', { deleted: false });
  });
});

describe('the command line beside a running server', () => {
  it('backs up, brings back and finds nothing amiss', async () => {
    const file = path.join(server.data, 'kept.tar.gz');
    const before = await names();
    expect((await bellows(['backup', file])).stdout).toContain(`${before.length} projects`);
    await ask(server, '/api/projects', 'POST', { name: 'Later' });
    expect(await bellows(['restore', file])).toMatchObject({
      status: 2,
      stderr: expect.stringContaining(`holds ${before.length + 1} projects`),
    });
    expect(await bellows(['restore', file, '--replace'])).toMatchObject({ status: 0 });
    expect(await names()).toEqual(before);
    const doctor = await bellows(['doctor']);
    expect([doctor.status, doctor.stdout]).toEqual([0, expect.stringMatching(/The database is whole/)]);
  });
});

describe('a server that is asked to end', () => {
  it('takes its run up again when it starts', async () => {
    const { id } = await run();
    while ((await ask<RunView>(server, `/api/runs/${id}`)).status !== 'running') await sleep(20);
    await server.end();
    await server.start();
    expect((await ended(id)).status).toBe('filled');
    expect(await ask(server, '/api/health')).toMatchObject({ status: 'ok', runs: { waiting: 0 } });
  });
});

describe('a passphrase', () => {
  it('is asked for on every page and route, opens, and can be taken away', async () => {
    expect((await bellows(['passphrase'], 'short\n')).status).toBe(2);
    expect((await bellows(['passphrase'], 'nine bees on a tray\n')).status).toBe(0);
    const shut = await Promise.all(
      ['/api/projects', '/api/storage', '/'].map((at) => fetch(server.url + at, { redirect: 'manual' })),
    );
    expect(shut.map((r) => r.status)).toEqual([401, 401, 307]);
    const upload = await fetch(`${server.url}/api/imports?name=x.stl`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: 'solid',
    });
    expect(upload.status).toBe(401);
    expect((await fetch(`${server.url}/api/health`)).status).toBe(200);

    await page.goto(`${server.url}/data`, { waitUntil: 'networkidle2' });
    expect(page.url()).toContain('/login?to=%2Fdata');
    await page.type('#passphrase', 'nine wasps on a tray');
    await press(page, 'Open');
    await seeText(page, 'This is not the passphrase.');
    await page.type('#passphrase', 'nine bees on a tray');
    await press(page, 'Open');
    await page.waitForFunction(() => location.pathname === '/data');
    await seeText(page, 'By project');
    expect(await textOf(page, 'main')).toContain('Feeder tray');
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await press(page, 'Sign out');
    await page.waitForSelector('#passphrase');
    expect((await bellows(['passphrase', '--remove'])).status).toBe(0);
    expect((await fetch(`${server.url}/api/projects`)).status).toBe(200);
  });
});
