import type { KeyInput, Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Inputs } from '../src/core/model/study';
import { A_RUN, choose, chord, pageKey, press, savedInputs, seeShown, seeText, typeInto } from './app';
import { opened } from './opened';

let page: Page;
let errors: string[];
const { server } = opened((session) => ({ page, errors } = session));

const saved = (check: (inputs: Inputs) => boolean) => savedInputs(page, server, check);
const station = (key: KeyInput) => pageKey(page, key);
/** Middle of the view. */
const middle = () =>
  page.$eval('[data-testid=viewport]', (e) => {
    const { left, top, width, height } = e.getBoundingClientRect();
    return { x: left + width / 2, y: top + height / 2 };
  });

beforeAll(async () => {
  await press(page, 'Smoker grip');
  await seeShown(page, 'clay');
  await press(page, 'Detail');
  await press(page, 'Quick');
  await saved((i) => i.detail === 'quick');
});

describe('a handle that gas pushes hollow', () => {
  it('without a needle it is not run, and says so', async () => {
    await station('3');
    await press(page, 'N1');
    await page.click('[aria-label="Delete needle N1"]');
    await saved((i) => i.core?.needles.length === 0);
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'No needle lets the fluid into the core.');
  });

  it('a needle is clicked, moved by its coordinates, dragged, and taken back', async () => {
    await press(page, 'Place needle');
    const { x, y } = await middle();
    await page.mouse.click(x, y);
    await page.keyboard.press('Escape');
    const [clicked] = (await saved((i) => i.core?.needles.length === 1)).core!.needles;
    expect(clicked.id).toBe('N1');
    await typeInto(page, 'X', '40');
    await saved((i) => Math.abs(i.core!.needles[0].position[0] - 0.04) < 1e-9);
    await chord(page, 'Control', 'z');
    await saved((i) => Math.abs(i.core!.needles[0].position[0] - clicked.position[0]) < 1e-9);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 60, y + 25, { steps: 5 });
    await page.mouse.up();
    const moved = await saved(
      (i) => Math.hypot(...i.core!.needles[0].position.map((v, d) => v - clicked.position[d])) > 5e-3,
    );
    expect(moved.core!.needles).toHaveLength(1);
  });

  it('too little melt is told before the run, a negative delay is not taken', async () => {
    await station('5');
    await typeInto(page, 'Melt up to', '40');
    await saved((i) => i.core?.melt.by === 'share' && i.core.melt.share === 0.4);
    await seeText(page, 'the fluid is likely to break through');
    await typeInto(page, 'Melt up to', '75');
    await typeInto(page, 'Delay', '-1');
    await seeText(page, 'at least');
    expect((await saved((i) => i.core?.melt.by === 'share' && i.core.melt.share === 0.75)).core!.delay).toBe(1);
    await press(page, 'Volume');
    await saved((i) => i.core?.drive.by === 'volume');
    await chord(page, 'Control', 'z');
    await saved((i) => i.core?.drive.by === 'pressure');
  });

  it('runs to a hollow part: its core grows in the view, and a section lies open', async () => {
    await station('3');
    await typeInto(page, 'X', '0');
    await typeInto(page, 'Y', '0');
    await typeInto(page, 'Z', '-4');
    await saved((i) => Math.hypot(...i.core!.needles[0].position.map((v, d) => v - [0, 0, -0.004][d])) < 1e-9);
    await station('6');
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Result up to date', A_RUN);
    await seeText(page, 'Does the core come out right?');
    await press(page, 'Core share');
    await seeShown(page, 'coreShare');
    await press(page, 'Skin left');
    await seeShown(page, 'skinLeft');
    await station('s');
    await press(page, 'Temperature through the wall');
    await seeShown(page, 'profile');
    await seeText(page, 'core, MPa');
  });

  it('a try gives a variant with another melt, and without a fluid the packing is back', async () => {
    await station('5');
    await press(page, 'Find a cycle by trials');
    await seeText(page, 'The fluid in the core packs the part', A_RUN);
    await choose(page, 'Fluid in the core', 'None');
    expect((await saved((i) => i.core === undefined)).core).toBeUndefined();
    await seeText(page, 'Packing');
    await chord(page, 'Control', 'z');
    await saved((i) => i.core !== undefined);
    expect(errors).toEqual([]);
  });
});

describe('a tray that is pressed from a charge', () => {
  it('is turned, run, and shows what the tool does; without the charge it asks for a piece', async () => {
    await page.goto(server.url, { waitUntil: 'load' });
    await press(page, 'Pressed tray');
    await seeShown(page, 'clay');
    await station('5');
    await press(page, 'Filling');
    await saved((i) => i.upTo === 'fill');
    await typeInto(page, 'Turned', '90');
    const turned = await saved((i) => {
      const melt = i.compression?.melt;
      return melt?.by === 'charge' && melt.outline.as === 'rectangle' && melt.outline.turned > 1.5;
    });
    expect(turned.compression!.melt).toMatchObject({ pieces: [{ id: 'C1' }] });
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Result up to date', A_RUN);
    await seeText(page, 'Does the tool close?');
    await seeText(page, 'force, kN');
    await press(page, 'C1');
    await page.click('[aria-label="Take out piece C1"]');
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'No piece of melt lies in the open tool.');
    await press(page, 'Lay in a piece');
    const { x, y } = await middle();
    await page.mouse.click(x, y);
    await page.keyboard.press('Escape');
    await saved((i) => i.compression?.melt.by === 'charge' && i.compression.melt.pieces.length === 1);
    await choose(page, 'Tool closes', 'Before the melt comes');
    await saved((i) => i.compression === undefined);
  });

  it('into a gap the strip shows the press, and the injection when asked', async () => {
    await page.goto(server.url, { waitUntil: 'load' });
    await press(page, 'Feeder tray');
    await seeShown(page, 'clay');
    await press(page, 'Detail');
    await press(page, 'Quick');
    await station('5');
    await press(page, 'Filling');
    await choose(page, 'Tool closes', 'On melt injected into a gap');
    await saved((i) => i.compression?.melt.by === 'gates' && i.upTo === 'fill' && i.detail === 'quick');
    await station('6');
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Result up to date', A_RUN);
    await seeText(page, 'Pressure needed for the open tool');
    await seeText(page, 'force, kN');
    await press(page, 'Show the injection');
    await seeText(page, 'pressure, MPa');
    await press(page, 'Show the press');
    await seeText(page, 'gap, mm');
    expect(errors).toEqual([]);
  });
});
