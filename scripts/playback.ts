/**
 * `npm run bench:page [-- quick|normal]`: how much script a frame takes while the tray's shot is played, in ms, field by
 * field (in the frame itself, and all that the page does meanwhile over the number of frames), in one viewer and in the four of the Compare station. Runs the built application with the demo data on a server
 * and data folder of its own.
 */
import { App, choose, chord, openBrowser, openPage, pageKey, press, seeShown, sleep } from '../e2e/app';

const detail = process.argv[2] ?? 'normal';
const name = detail[0].toUpperCase() + detail.slice(1);
const FIELDS: readonly [shown: string, button: string][] = [
  ['fillTime', 'Fill time'],
  ['pressure', 'Pressure'],
  ['temperature', 'Mean temperature'],
];

/**
 * Adds up the script of every frame from now on, by the frame's own time, and plays the shot. As text: helpers of the
 * bundler are not known in the page.
 */
const COUNT = `
  var frameScript = new Map();
  window.askedFrame = window.askedFrame ?? window.requestAnimationFrame;
  window.requestAnimationFrame = (callback) => window.askedFrame.call(window, (time) => {
    const begun = performance.now();
    callback(time);
    frameScript.set(time, (frameScript.get(time) ?? 0) + performance.now() - begun);
  });
  window.dispatchEvent(new Event('bellows:play'));
`;

const server = new App();
await server.start();
const browser = await openBrowser();
try {
  const { page } = await openPage(browser, server.url);
  await press(page, 'Feeder tray');
  await seeShown(page, 'clay');
  await page.keyboard.press('1');
  await press(page, 'Detail');
  await press(page, name);
  await page.keyboard.press('5');
  await press(page, 'To ejection');
  await sleep(500);
  await chord(page, 'Control', 'Enter');
  await page.waitForFunction(() => document.body.innerText.includes('Result up to date'), { timeout: 1_200_000 });
  await page.keyboard.press('6');
  const client = await page.createCDPSession();
  await client.send('Performance.enable');
  const measured = async () => {
    const { metrics } = await client.send('Performance.getMetrics');
    const of = (wanted: string) => metrics.find((m) => m.name === wanted)?.value ?? NaN;
    return { script: of('ScriptDuration'), task: of('TaskDuration'), heap: of('JSHeapUsedSize') };
  };
  /** Plays what is shown, twice: the first time what a field is drawn with is made. */
  const play = async (id: string) => {
    for (const pass of ['first', 'again']) {
      await page.evaluate(COUNT);
      const before = await measured();
      const begun = Date.now();
      await page.waitForFunction(() => document.querySelector('[aria-label="Pause"]') === null, {
        timeout: 300_000,
        polling: 200,
      });
      const after = await measured();
      const frames = (await page.evaluate('[...frameScript.values()]')) as number[];
      frames.sort((a, b) => a - b);
      const share = (of: number) => frames[Math.floor(of * (frames.length - 1))].toFixed(1).padStart(6);
      const per = (x: number) => ((1000 * x) / frames.length).toFixed(1).padStart(7);
      console.log(
        `${id.padEnd(12)} ${pass} ${String(frames.length).padStart(5)} frames in ${((Date.now() - begun) / 1000).toFixed(1)} s` +
          `  in the frame ${share(0.5)} ms, ${share(0.95)} ms at most in 95 %, ${share(1)} ms at most; script ${per(after.script - before.script)} ms  all ${per(after.task - before.task)} ms a frame` +
          `  heap ${(after.heap / 2 ** 20).toFixed(0)} MiB`,
      );
    }
  };
  for (const [id, button] of FIELDS) {
    await press(page, button);
    await seeShown(page, id);
    await play(id);
  }
  console.log('four viewers');
  for (let n = 0; n < 3; n++) {
    await pageKey(page, 'b');
    await page.waitForFunction(
      (count: number) => document.querySelectorAll('[aria-label="Variants"] [aria-pressed]').length === count,
      {},
      n + 2,
    );
    await chord(page, 'Control', 'Enter');
    // What has been calculated once is taken over.
    await page.waitForFunction(() => document.body.innerText.includes('Result up to date'), { timeout: 1_200_000 });
  }
  await pageKey(page, '7');
  await page.waitForSelector('[aria-label="Variants to compare"] input:not(:checked)');
  for (const box of await page.$$('[aria-label="Variants to compare"] input:not(:checked)')) await box.click();
  for (const [id, label] of FIELDS) {
    await choose(page, 'Field compared', label);
    for (let pane = 1; pane <= 4; pane++)
      await page.waitForSelector(`[data-testid="pane-${pane}"][data-shown="${id}"][aria-busy="false"]`);
    await play(id);
  }
} finally {
  await browser.close();
  await server.stop();
}
