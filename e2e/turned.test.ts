import type { Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { ProjectView } from '../src/runtime/wire';
import { A_RUN, choose, chord, pageKey, press, savedIn, savedInputs, seeText } from './app';
import { opened } from './opened';
import { openSmallBox } from './smallBox';

let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));

const run = async () => {
  await chord(page, 'Control', 'Enter');
  await seeText(page, 'Result up to date', A_RUN);
};

/** Share of the pixels, of those that either view draws on, in which two views differ clearly; of their canvases alone. */
const viewsApart = () =>
  page.evaluate(() => {
    const pixels = [1, 2].map((k) => {
      const canvas = document.querySelector<HTMLCanvasElement>(`[data-testid="pane-${k}"] canvas`)!;
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [canvas.width, canvas.height];
      const drawing = copy.getContext('2d')!;
      drawing.drawImage(canvas, 0, 0);
      return drawing.getImageData(0, 0, copy.width, copy.height);
    });
    const [a, b] = pixels;
    const [width, height] = [Math.min(a.width, b.width), Math.min(a.height, b.height)];
    let [drawn, apart] = [0, 0];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [p, q] = [4 * (x + a.width * y), 4 * (x + b.width * y)];
        if (!a.data[p + 3] && !b.data[q + 3]) continue;
        drawn++;
        if ([0, 1, 2, 3].some((c) => Math.abs(a.data[p + c] - b.data[q + c]) > 48)) apart++;
      }
    return { drawn, share: apart / drawn };
  });

beforeAll(async () => {
  await openSmallBox(page, server, folder);
  await pageKey(page, '5');
  await press(page, 'Filling', '[role="radio"]');
  await savedInputs(page, server, (i) => i.upTo === 'fill');
  await run();
});

describe('a part that is turned in its variant', () => {
  it('lies beside the one it was branched from as that does, seen and coloured alike', async () => {
    await pageKey(page, 'b');
    await seeText(page, 'Variant');
    await pageKey(page, '1');
    await press(page, 'Orient', '[role="radio"]');
    await press(page, 'Turn by 15.0° about Z');
    // The gate goes with it: 15° about the middle of the part.
    const gateOf = (view: ProjectView) => view.variants[view.variants.length - 1].inputs.gates[0];
    const turned = gateOf(await savedIn(page, server, (view) => gateOf(view).position[1] > -0.008));
    expect(turned.position.map((x) => Math.round(1e5 * x))).toEqual([2191, -448, 0]);
    await run();
    await pageKey(page, '7');
    for (const k of [1, 2])
      await page.waitForSelector(`[data-testid="pane-${k}"][data-shown="fillTime"][aria-busy="false"]`);
    await page.waitForFunction(() => document.querySelectorAll('[data-testid="pane-scale"]').length === 2);
    // The second is brought to how the first lies; until then the picture is another.
    let last = await viewsApart();
    for (let k = 0; k < 60 && last.share > 0.12; k++) {
      await new Promise((resolve) => setTimeout(resolve, 500));
      last = await viewsApart();
    }
    expect(last.drawn).toBeGreaterThan(20_000);
    expect(last.share).toBeLessThan(0.12);
    expect(errors).toEqual([]);
  });

  it('differs from it by little, place by place', async () => {
    const range = async (shown: string) => {
      const legend = await page.waitForSelector(`[aria-label^="Legend: ${shown}"]`);
      return legend!.evaluate((e) => e.getAttribute('data-legend-range')!.split(',').map(Number));
    };
    const [, end] = await range('Fill time');
    await press(page, 'Difference', '[role="radio"]');
    await page.waitForSelector('[data-testid="pane-2"][data-shown="fillTime difference"]');
    const [low, high] = await range('Fill time, difference');
    expect(low).toBe(-high);
    // The grids differ: of the time to fill it is a few hundredths, unless places are mixed up.
    expect(high).toBeGreaterThan(0);
    expect(high).toBeLessThan(0.12 * end);
    await choose(page, 'Field compared', 'Pressure');
    await page.waitForSelector('[data-testid="pane-2"][data-shown="pressure difference"]');
    await seeText(page, 'the grids differ: read at the places of the first');
    expect(errors).toEqual([]);
  });
});
