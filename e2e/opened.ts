import { rmSync, mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Browser, Page } from 'puppeteer-core';
import { afterAll, afterEach, beforeAll } from 'vitest';
import { App, openBrowser, openPage, pictureOnFailure } from './app';

/** An application with a page of it, and a folder for files, around the tests of one file. */
export interface Opened {
  server: App;
  /** Gone with the tests. */
  folder: string;
}

/** `take` gets the page and the errors it collects, before the first test. */
export function opened(take: (session: { page: Page; errors: string[] }) => void): Opened {
  const server = new App();
  const folder = mkdtempSync(path.join(os.tmpdir(), 'bellows-e2e-'));
  let browser: Browser | undefined;
  let page: Page;
  beforeAll(async () => {
    await server.start();
    browser = await openBrowser();
    const session = await openPage(browser, server.url);
    ({ page } = session);
    take(session);
  });
  afterAll(async () => {
    await browser?.close();
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  });
  afterEach(({ task }) => pictureOnFailure(page, task.result?.state));
  return { server, folder };
}

/** Files the page gives away lie in the folder from now on. */
export async function downloadsTo(page: Page, folder: string): Promise<void> {
  const session = await page.createCDPSession();
  await session.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder });
}
