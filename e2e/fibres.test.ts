import type { KeyInput, Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Inputs } from '../src/core/model/study';
import { A_RUN, choose, chord, pageKey, press, savedInputs, seeShown, seeText, textOf, typeInto } from './app';
import { opened } from './opened';

let page: Page;
let errors: string[];
const { server } = opened((session) => ({ page, errors } = session));

const saved = (check: (inputs: Inputs) => boolean) => savedInputs(page, server, check);
const station = (key: KeyInput) => pageKey(page, key);
const says = (text: string) => page.evaluate((t) => document.body.innerText.includes(t), text);

beforeAll(async () => {
  await press(page, 'Queen cage lid');
  await seeShown(page, 'clay');
});

describe('a lid with fibres, filled from both ends', () => {
  it('a grade without fibres shows nothing of them, one with fibres how they are followed', async () => {
    await station('2');
    await seeText(page, 'Alike all over');
    await press(page, 'PPHollin H14');
    await saved((i) => i.resin === 'pp-hollin-h14');
    expect(await says('Alike all over')).toBe(false);
    await chord(page, 'Control', 'z');
    await seeText(page, 'Alike all over');
  });

  it('numbers are typed, bad ones are not taken, and unstable ones are told before a run', async () => {
    await typeInto(page, 'Length over diameter', '0.5');
    await seeText(page, 'Enter 1.00 to');
    await typeInto(page, 'Length over diameter', '30');
    await saved((i) => i.fibres?.aspect === 30);
    await press(page, 'How they turn');
    await choose(page, 'Interaction', 'Five numbers');
    await typeInto(page, 'b1', '-0.5');
    await saved((i) => i.fibres?.turning?.interaction.by === 'five' && i.fibres.turning.interaction.b[0] === -0.5);
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'gather the fibres of some directions');
    await press(page, 'As of the resin');
    await typeInto(page, 'Length over diameter', ' ');
    await saved((i) => i.fibres === undefined);
  });

  it('lengths and what the flow feels are followed where one wants them, along any load', async () => {
    await press(page, 'Length', '[aria-expanded]');
    await press(page, 'On', '[aria-label="How they break"] button');
    await saved((i) => i.fibres?.breaks === true);
    await typeInto(page, 'In the granules', '3');
    await saved((i) => i.fibres?.granule === 0.003);
    await seeText(page, 'by the stress of the flow');
    await press(page, 'In the flow', '[aria-expanded]');
    await press(page, 'On', '[aria-label="Slow it down"] button');
    await saved((i) => i.fibres?.coupled === true);
    await press(page, 'other', '[aria-label="Load along"] button');
    await typeInto(page, 'Load y', '1');
    await saved((i) => JSON.stringify(i.fibres?.load) === '[1,1,0]');
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    for (let k = 0; k < 5; k++) await chord(page, 'Control', 'z');
    await saved((i) => i.fibres === undefined);
  });

  it('interaction numbers are fitted to what the lab counted through a plate', async () => {
    await press(page, 'Fit points');
    await press(page, 'Fibres', '[role="radio"]');
    await press(page, 'Ask the lab');
    await seeText(page, '16 of 16 points');
    expect(await textOf(page, '[data-testid="fitted"]')).toMatch(/C_I\s*0\.\d+ ± /);
    await press(page, 'Make a resin of it');
    const { resin } = await saved((i) => typeof i.resin === 'object' && i.resin.filler?.turning !== undefined);
    expect(typeof resin === 'object' && resin.filler?.turning?.slowing).toBeGreaterThan(0.005);
    await chord(page, 'Control', 'z');
    await saved((i) => i.resin === 'pa6-lowan-n30-g30');
  });

  it('runs, and shows directions, stiffness and shrinkage, at the face and in the middle', async () => {
    await station('6');
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Result up to date', A_RUN);
    await seeText(page, 'How strong is it?');
    await press(page, 'Alignment of fibres');
    await seeShown(page, 'fibreDegree');
    await press(page, 'Middle');
    await seeShown(page, 'fibreDegree');
    await press(page, 'Modulus along load');
    await seeShown(page, 'fibreModulusAlong');
    await press(page, 'Shrinkage along the fibres');
    await seeShown(page, 'shrinkageOnFibres');
    // The shape has the fibres among its causes.
    await seeText(page, 'Uneven shrinkage');
    expect(await says('Fibres')).toBe(true);
  });

  it('a second field stands beside the first, from the same eye, and goes again', async () => {
    await press(page, 'Beside');
    await page.waitForSelector('[data-testid="second-viewport"][aria-busy="false"]');
    await choose(page, 'Second field shown', 'Fibres square to that');
    await page.waitForSelector('[data-testid="second-viewport"][data-shown="fibreSquare"]');
    await seeShown(page, 'shrinkageOnFibres');
    await page.click('[aria-label="Close the second field"]');
    await page.waitForFunction(() => !document.querySelector('[data-testid="second-viewport"]'));
  });

  it('a probe tells the directions all through the wall', async () => {
    await station('p');
    const box = await page.$eval('[data-testid=viewport]', (e) => {
      const { left, top, width, height } = e.getBoundingClientRect();
      return { x: left + 0.36 * width, y: top + 0.52 * height };
    });
    await page.mouse.click(box.x, box.y);
    await page.keyboard.press('Escape');
    await saved((i) => i.probes.length === 1);
    await choose(page, 'Quantity', 'Fibres through the wall');
    await page.waitForSelector('[aria-label="Profiles through the wall at the probes"]');
  });

  it('the question is answered with reasons, and a try has one gate', async () => {
    await page.evaluate(() => {
      const panel = document.querySelector('aside[aria-label=Reading] > div')!;
      panel.scrollTop = panel.scrollHeight;
    });
    await press(page, 'How strong is it?');
    await seeText(page, 'The data sheet says');
    expect(await textOf(page, 'aside[aria-label=Reading]')).toMatch(/fibres cross it for \d+ %/);
    expect(errors).toEqual([]);
  });
});
