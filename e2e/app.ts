import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import puppeteer, { type Browser, type ElementHandle, type KeyInput, type Page } from 'puppeteer-core';
import type { Inputs } from '../src/core/model/study';
import type { ProjectView } from '../src/runtime/wire';

const root = fileURLToPath(new URL('..', import.meta.url));

export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address();
      probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0));
    });
  });
}

/** The built application on a port and a data folder of its own. */
export class App {
  readonly data: string;
  port = 0;
  private process: ChildProcess | null = null;

  /** `data`: its data folder, one of its own unless given. */
  constructor(data?: string) {
    this.data = data ?? mkdtempSync(path.join(os.tmpdir(), 'bellows-data-'));
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  /** Of the server's process. */
  get pid(): number {
    return this.process?.pid ?? 0;
  }

  /**
   * Starts the server with settings of its own, and waits until it answers. Its solvers do not stand back: pages of tests
   * are drawn by the processor, and runs are waited for. `longestFile`: what goes on writing a file beyond that many
   * blocks of 512 bytes finds no room.
   */
  async start(settings: Record<string, string> = {}, longestFile?: number): Promise<void> {
    if (!existsSync(path.join(root, '.next', 'BUILD_ID'))) throw new Error('build first: npm run build');
    this.port ||= await freePort();
    // The shell becomes the server itself: the test kills exactly this process.
    this.process = spawn(
      '/bin/sh',
      [
        '-c',
        `${longestFile ? `ulimit -f ${longestFile}; ` : ''}exec "$0" "$@"`,
        process.execPath,
        path.join(root, 'node_modules', 'next', 'dist', 'bin', 'next'),
        'start',
        '--port',
        String(this.port),
        '--hostname',
        '127.0.0.1',
      ],
      {
        cwd: root,
        env: {
          ...process.env,
          NODE_ENV: 'production',
          BELLOWS_DATA: this.data,
          BELLOWS_HOME: root,
          BELLOWS_NICE: '0',
          BELLOWS_DEMO: 'bare',
          ...settings,
        },
        stdio: 'ignore',
      },
    );
    for (let i = 0; i < 600; i++) {
      const ok = await fetch(`${this.url}/api/health`).then(
        (r) => r.ok,
        () => false,
      );
      if (ok) return;
      await sleep(200);
    }
    throw new Error('the server did not start');
  }

  /** Asks the server to end, as the system does at its shutdown, and waits until it has. */
  end = (): Promise<void> => this.gone('SIGTERM');

  /** Kills the server at once, as a power cut would. */
  kill = (): Promise<void> => this.gone('SIGKILL');

  private async gone(signal: NodeJS.Signals): Promise<void> {
    const child = this.process;
    if (!child) return;
    const exit = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await exit;
    this.process = null;
  }

  async stop(): Promise<void> {
    await this.kill();
    rmSync(this.data, { recursive: true, force: true });
  }
}

export const sleep = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** `smooth`: with smooth edges in 3D, for pictures that are kept; a processor draws them twice as long. */
export async function openBrowser(smooth = false): Promise<Browser> {
  return puppeteer.launch({
    // A run is waited for in one call of the protocol.
    protocolTimeout: 2 * A_RUN,
    executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
    headless: true,
    args: [
      '--no-sandbox',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--hide-scrollbars',
      '--use-angle=gl-egl',
      '--ignore-gpu-blocklist',
      ...(smooth ? [] : ['--webgl-antialiasing-mode=none']),
    ],
  });
}

/**
 * How long is waited for what a page does at once, and for a run, ms: many times what they take, for a machine that is
 * shared. Only a test that fails waits so long.
 */
export const SOON = 60_000;
export const A_RUN = 600_000;

/** A page of 1280 x 800 that collects its errors. */
export async function openPage(browser: Browser, url: string): Promise<{ page: Page; errors: string[] }> {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  page.setDefaultTimeout(SOON);
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  page.on(
    'console',
    (message) => message.type() === 'error' && errors.push(`${message.text()} ${message.location().url ?? ''}`.trim()),
  );
  await page.goto(url, { waitUntil: 'networkidle2' });
  return { page, errors };
}

/** Clicks the first button, link or radio whose visible text or label begins with `name`. */
export async function press(
  page: Page,
  name: string,
  among = 'button, a, [role="radio"], [role="menuitem"], [role="option"]',
): Promise<void> {
  for (let attempt = 0; ; attempt++) {
    const handle = await page.waitForFunction(
      (wanted: string, selector: string) =>
        [...document.querySelectorAll<HTMLElement>(selector)].find((e) => {
          const said = [e.textContent?.trim() ?? '', e.getAttribute('aria-label') ?? ''];
          return (
            said.some((s) => s.startsWith(wanted)) && e.offsetParent !== null && !(e as HTMLButtonElement).disabled
          );
        }) ?? null,
      { timeout: SOON },
      name,
      among,
    );
    try {
      await (handle.asElement() as unknown as { click(): Promise<void> }).click();
      return;
    } catch (error) {
      // Redrawn between finding and clicking: look again, as a person would.
      if (attempt === 4) throw error;
      await sleep(150);
    }
  }
}

/** Opens a list by its label and takes the option that begins with `option`. */
export async function choose(page: Page, label: string, option: string): Promise<void> {
  const trigger = await page.waitForSelector(`[role="combobox"][aria-label="${label}"]`);
  await trigger?.evaluate((e) => e.scrollIntoView({ block: 'center' }));
  await trigger?.click();
  await press(page, option, '[role="option"]');
  await page.waitForFunction(() => !document.querySelector('[role="option"]'));
}

/** Waits until the page's text contains `text`. */
export const seeText = (page: Page, text: string, timeout = SOON) =>
  page.waitForFunction((t: string) => document.body.innerText.includes(t), { timeout }, text);

/** Waits for what the 3D view shows: "clay", a field's id, or a field's id with "-live". */
export const seeShown = (page: Page, shown: string, timeout = A_RUN) =>
  page.waitForFunction(
    (s: string) => {
      const viewport = document.querySelector('[data-testid="viewport"]');
      return viewport?.getAttribute('data-shown') === s && viewport.getAttribute('aria-busy') === 'false';
    },
    { timeout },
    shown,
  );

export async function chord(page: Page, ...keys: Parameters<Page['keyboard']['press']>[0][]): Promise<void> {
  const last = keys[keys.length - 1];
  const held = keys.slice(0, -1);
  for (const key of held) await page.keyboard.down(key);
  await page.keyboard.press(last);
  for (const key of held.reverse()) await page.keyboard.up(key);
}

export const textOf = (page: Page, selector: string) =>
  page.$eval(selector, (e) => (e as HTMLElement).innerText).catch(() => '');

/** Types a value into the number field of that label and commits it. */
export async function typeInto(page: Page, label: string, value: string): Promise<void> {
  const id = await page.$$eval(
    'label',
    (all, l) => all.find((e) => e.textContent?.trim().startsWith(l))?.htmlFor ?? '',
    label,
  );
  const input = await page.waitForSelector(`[id="${id}"]`);
  await input?.click({ clickCount: 3 });
  await page.keyboard.type(value);
  await page.keyboard.press('Enter');
}

/** Gives the page a file, and takes what is in it by the button of that name. */
export async function bringIn(page: Page, file: string, use: string): Promise<void> {
  const input = (await page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(file);
  await press(page, use);
}

/** The project the page shows, as the server has it. */
export async function projectOf(page: Page, server: App): Promise<ProjectView> {
  const id = page.url().split('/').pop();
  return (await fetch(`${server.url}/api/projects/${id}`)).json() as Promise<ProjectView>;
}

/** Saves go out in the background: waits until the server has what the page shows. */
export async function savedIn(page: Page, server: App, check: (view: ProjectView) => boolean): Promise<ProjectView> {
  for (let i = 0; i < 600; i++) {
    const view = await projectOf(page, server);
    if (check(view)) return view;
    await sleep(100);
  }
  throw new Error('the change was not saved');
}

/** The same of the inputs of the first variant. */
export const savedInputs = async (page: Page, server: App, check: (inputs: Inputs) => boolean): Promise<Inputs> =>
  (await savedIn(page, server, (view) => check(view.variants[0].inputs))).variants[0].inputs;

/** Presses a key of the page itself, whatever field was typed into. */
export async function pageKey(page: Page, key: KeyInput): Promise<void> {
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press(key);
}

/** Keeps a picture of the page when a test has failed. */
export async function pictureOnFailure(page: Page, state: string | undefined): Promise<void> {
  if (state === 'fail') await page.screenshot({ path: path.join(os.tmpdir(), 'bellows-e2e-failure.png') });
}
