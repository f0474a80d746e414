/**
 * `npm run screenshots`: the pictures of docs/screenshots from the demo data, on a server and data
 * folder of their own. Build first.
 */
import { fileURLToPath } from 'node:url';
import { App, chord, openBrowser, openPage, press, seeShown, seeText, sleep, typeInto } from '../e2e/app';

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));
const server = new App();
await server.start();
const browser = await openBrowser();
const { page } = await openPage(browser, server.url);
const shot = async (name: string) => {
  await sleep(1200);
  await page.screenshot({ path: `${folder}${name}.png` as `${string}.png` });
  console.log(name);
};

await shot('start');
await press(page, 'Feeder tray');
await seeShown(page, 'clay');
await shot('part');
await page.keyboard.press('2');
await shot('resin');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime-live');
await page.waitForFunction(() => /[4-6]\d % filled/.test(document.body.innerText), { timeout: 30_000 });
await page.screenshot({ path: `${folder}running.png` });
await seeShown(page, 'fillTime');
await page.keyboard.press('3');
await press(page, 'G1');
await shot('feed');
await page.keyboard.press('5');
await page.keyboard.press('Escape');
await shot('answers');
await press(page, 'Pressure');
await seeShown(page, 'pressure');
await page.keyboard.press('s');
const head = await page.waitForSelector('[aria-label="Play head"]');
const frame = await head?.boundingBox();
if (frame) await page.mouse.click(frame.x + 0.62 * frame.width, frame.y + 40);
await page.mouse.move(640, 380);
await shot('section');
await page.mouse.move(640, 650);
await page.keyboard.press('s');
await press(page, 'Branch a new variant');
await seeText(page, 'Variant');
await page.keyboard.press('4');
await typeInto(page, 'Pressure limit', '2');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await press(page, 'Run');
await seeText(page, 'Short shot', 60_000);
await press(page, 'Light or dark page');
await page.keyboard.press('End');
await shot('short-shot-dark');
await browser.close();
await server.stop();
