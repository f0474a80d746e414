import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { choose, chord, pageKey, press, savedInputs, seeText, sleep, textOf, typeInto } from './app';
import { opened } from './opened';
import { openSmallBox } from './smallBox';
import type { Inputs } from '../src/core/model/study';

let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));
const saved = (check: (inputs: Inputs) => boolean) => savedInputs(page, server, check);

/** Types a place while something is aimed at, with the keyboard alone, mm. */
async function typePlace(x: string, y: string, z: string): Promise<void> {
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Place X');
  for (const [k, at] of [x, y, z].entries()) {
    await chord(page, 'Control', 'a');
    await page.keyboard.type(at);
    await page.keyboard.press('Tab');
    if (k === 2) await page.keyboard.press('Enter');
  }
}
const focusNowhere = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

describe('places, names and distances by hand', () => {
  it('a gate is placed by its coordinates without the pointer', async () => {
    await openSmallBox(page, server, folder);
    await pageKey(page, 'g');
    await page.waitForSelector('form[aria-label="Place by its coordinates"]');
    // Half a millimetre below the floor: it goes onto it.
    await typePlace('-20', '10', '-0.5');
    const { gates } = await saved(({ gates: now }) => now.length === 2);
    const [x, y, z] = gates[1].position;
    expect(Math.hypot(x + 0.02, y - 0.01, z)).toBeLessThan(1e-6);
    await seeText(page, 'moved 0.50 mm to the surface');
    await focusNowhere();
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.querySelector('form[aria-label="Place by its coordinates"]'));
  });

  it('it gets a name, which stands in the list and goes by undo, also after a reload', async () => {
    await press(page, 'G2');
    await typeInto(page, 'Name', 'Far foot');
    await saved(({ names }) => names?.['gate G2'] === 'Far foot');
    await seeText(page, 'Far foot');
    await page.reload({ waitUntil: 'networkidle2' });
    await pageKey(page, '3');
    await seeText(page, 'Far foot');
    await chord(page, 'Control', 'z');
    await saved(({ names }) => names === undefined);
    await chord(page, 'Control', 'z');
    await saved(({ gates }) => gates.length === 1);
    await chord(page, 'Control', 'Shift', 'z');
    await chord(page, 'Control', 'Shift', 'z');
    await saved(({ gates, names }) => gates.length === 2 && names?.['gate G2'] === 'Far foot');
  });

  it('a name goes with what it named', async () => {
    await press(page, 'Far foot');
    await press(page, 'Delete gate G2');
    await saved(({ gates, names }) => gates.length === 1 && names === undefined);
  });

  it('runners are drawn point by point before there is any layout', async () => {
    await focusNowhere();
    await choose(page, 'Runner layout', 'Drawn');
    await press(page, 'Draw runners');
    await focusNowhere();
    await typePlace('20', '-10', '-12');
    await focusNowhere();
    await typePlace('0', '-10', '-12');
    const { feed } = await saved(({ feed: now }) => now?.lines?.length === 1);
    expect(feed!.lines![0]).toMatchObject({ from: [0.02, -0.01, -0.012], to: [0, -0.01, -0.012] });
    await focusNowhere();
    await page.keyboard.press('Escape');
    await choose(page, 'Runner layout', 'None');
    await saved(({ feed: now }) => now === null);
  });

  it('the wall and a distance are measured by two places', async () => {
    await focusNowhere();
    await pageKey(page, 'd');
    await typePlace('-20', '0', '0');
    await seeText(page, 'wall 2.00 mm');
    await focusNowhere();
    await typePlace('20', '0', '0');
    await seeText(page, '40.00 mm; X 40.0 mm, Y 0 mm, Z 0 mm');
    await focusNowhere();
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.body.innerText.includes('X 40.0 mm'));
  });

  it('a window that gets narrow keeps the part in sight, and gives the room back when it is wide again', async () => {
    await focusNowhere();
    await pageKey(page, '1');
    /** Left and right end of what is drawn, as shares of the view's width. */
    const ends = () =>
      page.evaluate(() => {
        const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="viewport"] canvas')!;
        const copy = document.createElement('canvas');
        [copy.width, copy.height] = [canvas.width, canvas.height];
        const drawing = copy.getContext('2d')!;
        drawing.drawImage(canvas, 0, 0);
        const { data, width } = drawing.getImageData(0, 0, copy.width, copy.height);
        let [left, right] = [width, 0];
        for (let k = 3; k < data.length; k += 4) {
          if (!data[k]) continue;
          left = Math.min(left, ((k - 3) / 4) % width);
          right = Math.max(right, ((k - 3) / 4) % width);
        }
        return [left / width, right / width];
      });
    await press(page, 'Fit');
    await sleep(300);
    const wide = await ends();
    for (const width of [1024, 1280]) {
      await page.setViewport({ width, height: 800 });
      await sleep(600);
      const [left, right] = await ends();
      expect(left).toBeGreaterThan(0.01);
      expect(right).toBeLessThan(0.99);
      if (width === 1280) expect([left, right].map((x) => x.toFixed(2))).toEqual(wide.map((x) => x.toFixed(2)));
    }
  });

  it('a project is copied with what it holds', async () => {
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await press(page, 'Actions of Small box');
    await press(page, 'Duplicate');
    await seeText(page, 'Copy of Small box');
    await press(page, 'Copy of Small box');
    await page.waitForSelector('[data-testid="viewport"][aria-busy="false"]');
    const { gates, bodies } = await saved(() => true);
    expect([gates.length, bodies.length]).toEqual([1, 1]);
    expect(await textOf(page, 'header')).toContain('Copy of Small box');
    expect(errors).toEqual([]);
  });
});
