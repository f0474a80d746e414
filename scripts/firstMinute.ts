/**
 * `npm run bench:first`: a stop-watch for the first minute. Throws away what has been built, starts the demo with an empty
 * data folder as on a fresh machine after `npm ci`, and tells when it was open and when the first answer stood on the page.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { freePort, openBrowser, press, sleep } from '../e2e/app';

const root = fileURLToPath(new URL('..', import.meta.url));
const data = mkdtempSync(path.join(os.tmpdir(), 'bellows-first-'));
rmSync(path.join(root, '.next'), { recursive: true, force: true });

// Whoever starts it has a browser open.
const browser = await openBrowser();
for (const start of ['first start', 'second start']) {
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const begun = Date.now();
  const tell = (what: string) => console.log(`${start}: ${((Date.now() - begun) / 1000).toFixed(1)} s  ${what}`);
  const demo = spawn(process.execPath, ['scripts/demo.mjs'], {
    cwd: root,
    env: { ...process.env, PORT: String(port), BELLOWS_DATA: data, BELLOWS_DEMO: 'full' },
    stdio: 'ignore',
  });
  const open = () =>
    fetch(`${url}/api/health`).then(
      (r) => r.ok,
      () => false,
    );
  while (!(await open())) await sleep(200);
  tell('open');
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(url, { waitUntil: 'domcontentloaded' });
  await press(page, 'Feeder tray');
  await page.waitForSelector('canvas');
  tell('the tray is drawn');
  await page.keyboard.press('6');
  await page.waitForSelector('nav[aria-label="Verdicts"]', { timeout: 600_000 });
  tell('the first answers stand on the page');
  await page.close();
  const ended = new Promise((resolve) => demo.once('exit', resolve));
  demo.kill('SIGTERM');
  await ended;
}
await browser.close();
rmSync(data, { recursive: true, force: true });
