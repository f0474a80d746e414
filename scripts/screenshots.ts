/**
 * `npm run screenshots`: the pictures of docs/screenshots from the demo data, on a server and data
 * folder of their own. Build first.
 */
import { fileURLToPath } from 'node:url';
import {
  A_RUN,
  App,
  choose,
  chord,
  openBrowser,
  openPage,
  press,
  seeShown,
  seeText,
  sleep,
  typeInto,
} from '../e2e/app';

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));
const server = new App();
await server.start();
const browser = await openBrowser(true);
const { page } = await openPage(browser, server.url);
const shot = async (name: string) => {
  await sleep(1200);
  await page.screenshot({ path: `${folder}${name}.png` as `${string}.png` });
  console.log(name);
};

/** Opens an answer at the top of its panel. */
const answer = (question: string) => press(page, question, 'nav[aria-label="Verdicts"] button');

/** Puts the play head at a share of the time axis. */
const scrub = async (share: number) => {
  const head = await page.waitForSelector('[aria-label="Play head"]');
  const frame = await head?.boundingBox();
  if (frame) await page.mouse.click(frame.x + Math.min(share * frame.width, frame.width - 1), frame.y + 40);
};

await press(page, 'Feeder tray');
await seeShown(page, 'clay');
await shot('part');
await press(page, 'Maps');
await press(page, 'Wall thickness');
await seeShown(page, 'map-thickness');
await press(page, 'Orient');
await press(page, 'Find the fewest undercuts');
await seeText(page, 'no undercut');
await press(page, 'Show which half forms each face');
await seeShown(page, 'map-side');
await press(page, 'Bodies');
await page.keyboard.press('2');
await shot('resin');
await press(page, 'Fit points');
await press(page, 'Ask the lab');
await seeText(page, '36 of 36 points');
await shot('resin-fit');
await press(page, 'Curves');
await page.keyboard.press('6');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime-live');
await page.waitForFunction(() => /[4-6]\d % filled/.test(document.body.innerText), { timeout: 30_000 });
await page.screenshot({ path: `${folder}running.png` });
await seeShown(page, 'fillTime');
await page.keyboard.press('3');
await press(page, 'G1');
await shot('feed');
await page.keyboard.press('Escape');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await chord(page, 'Control', 'z');
await chord(page, 'Control', 'z');
await page.keyboard.press('6');
await page.keyboard.press('Escape');
await press(page, 'Isochrones');
await shot('answers');
await press(page, 'Isochrones');
await press(page, 'Volumetric shrinkage');
await seeShown(page, 'shrinkage');
await answer('Does it pack out?');
await shot('packing');
await press(page, 'Deviation');
await seeShown(page, 'deviation');
await answer('What shape comes out?');
await page.$$eval('h3', (all) =>
  all.find((h) => h.textContent?.includes('Shape check'))?.scrollIntoView({ block: 'start' }),
);
await shot('shape');
await press(page, 'Temperature through the wall');
await seeShown(page, 'profile');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await page.keyboard.press('s');
await press(page, 'full', '[aria-label="Instants of the shot"] button');
await page.mouse.move(670, 440);
for (let i = 0; i < 4; i++) await page.mouse.wheel({ deltaY: -300 });
await shot('section');
await page.mouse.move(640, 650);
await page.keyboard.press('s');
await page.keyboard.press('f');
await page.goto(server.url, { waitUntil: 'networkidle2' });
await press(page, 'Hive tool handle');
await seeShown(page, 'clay');
await press(page, 'Blade');
await shot('shots');
await page.keyboard.press('6');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime', A_RUN);
await press(page, 'Shot 2');
await seeShown(page, 'fillTime');
await page.focus('[aria-label="Play head"]');
await page.keyboard.press('End');
await page.goto(server.url, { waitUntil: 'networkidle2' });
await press(page, 'Smoker grip');
await seeShown(page, 'clay');
await page.keyboard.press('6');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime', A_RUN);
await page.focus('[aria-label="Play head"]');
await page.keyboard.press('End');
await press(page, 'Skin left');
await seeShown(page, 'skinLeft');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await page.keyboard.press('s');
await answer('Does the core come out right?');
await shot('core');
await page.keyboard.press('s');
await page.goto(server.url, { waitUntil: 'networkidle2' });
await press(page, 'Queen cage lid');
await seeShown(page, 'clay');
await page.keyboard.press('6');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime', A_RUN);
await page.focus('[aria-label="Play head"]');
await page.keyboard.press('End');
await press(page, 'Fibres along');
await press(page, 'Between');
await seeShown(page, 'fibreOn');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await page.keyboard.press('p');
await page.mouse.click(545, 372);
await page.keyboard.press('Escape');
await choose(page, 'Quantity', 'Fibres through the wall');
await answer('How strong is it?');
await shot('fibres');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await page.keyboard.press('b');
await page.keyboard.press('5');
await typeInto(page, 'Melt', '280');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await chord(page, 'Control', 'Enter');
await seeText(page, 'Result up to date', A_RUN);
await page.keyboard.press('7');
await page.waitForSelector('[data-testid="pane-2"][aria-busy="false"]');
await choose(page, 'Field compared', 'Temperature at the front');
await press(page, 'Stack', '[role="radio"]');
await press(page, 'Difference', '[role="radio"]');
await page.waitForSelector('[data-testid="pane-2"][data-shown$="difference"]');
await shot('compare');
await page.goto(server.url, { waitUntil: 'networkidle2' });
await press(page, 'Pressed tray');
await seeShown(page, 'clay');
await press(page, 'Light or dark page');
await page.keyboard.press('6');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime', A_RUN);
await page.keyboard.press('5');
await scrub(0.3);
await shot('pressed-dark');
await press(page, 'Light or dark page');
const open = async (project: string) => {
  await page.goto(server.url, { waitUntil: 'networkidle2' });
  await press(page, project);
  await page.waitForSelector('[data-testid="viewport"][aria-busy="false"]');
  await page.keyboard.press('3');
};
await open('Entrance slider');
await chord(page, 'Control', 'Enter');
await seeShown(page, 'fillTime');
await page.keyboard.press('6');
await press(page, 'Pressure');
await seeShown(page, 'pressure');
await scrub(0.23);
await press(page, 'Chart');
await press(page, 'Quantity');
await press(page, 'Gate flow');
await shot('pins');
await open('Tray mould');
await page.keyboard.press('4');
await page.keyboard.press('f');
await press(page, 'W2');
await shot('cooling');
await chord(page, 'Control', 'Enter');
await page.waitForSelector('[data-testid="mould-facts"]', { timeout: A_RUN });
await press(page, 'Answers');
await press(page, 'Mould surface temperature');
await seeShown(page, 'mouldSurface');
await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
await page.keyboard.press('Escape');
await page.keyboard.press('s');
await answer('How long must it cool?');
await page.mouse.move(640, 640);
await shot('mould');
await page.goto(server.url, { waitUntil: 'networkidle2' });
await page.waitForFunction(() => document.querySelectorAll('[data-testid="part-picture"]').length === 9);
await shot('start');
await page.goto(`${server.url}/data`, { waitUntil: 'networkidle2' });
await press(page, 'Delete Hive monitor');
await seeText(page, 'Bring back');
await press(page, 'Runs of Feeder tray');
await page.waitForFunction(() => !document.querySelector('[data-sonner-toast]'), { timeout: 20_000 });
await shot('data');
await browser.close();
await server.stop();
