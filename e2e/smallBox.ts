import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'puppeteer-core';
import { writeStl } from '../src/core/formats/stl';
import { openBox } from '../verification/solids';
import { bringIn, pageKey, press, savedIn, seeShown, seeText, typeInto, type App } from './app';

/**
 * A project of its own with an open box of 60 x 40 x 20 mm, walls of 2 mm and a gate under its floor, at Detail quick: a
 * whole cycle of it takes a few seconds.
 */
export async function openSmallBox(page: Page, server: App, folder: string): Promise<void> {
  const file = path.join(folder, 'small-box.stl');
  writeFileSync(file, writeStl(openBox(0.06, 0.04, 0.02, 0.002)));
  await page.type('[aria-label="Name of the new project"]', 'Small box');
  await press(page, 'Create');
  await seeText(page, 'There is no part yet');
  await press(page, 'Bring in a part');
  await bringIn(page, file, 'Use this part');
  await seeShown(page, 'clay');
  await press(page, 'Detail');
  await press(page, 'Quick');
  await pageKey(page, '3');
  await press(page, 'Place gate');
  const box = (await (await page.$('canvas'))!.boundingBox())!;
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
  await page.keyboard.press('Escape');
  const placed = (await savedIn(page, server, (v) => v.variants[0].inputs.gates.length === 1)).variants[0].inputs;
  await press(page, placed.gates[0].id);
  for (const [axis, at] of Object.entries({ X: '20', Y: '-10', Z: '0' })) await typeInto(page, axis, at);
  await savedIn(page, server, (v) => v.variants[0].inputs.gates[0].position.join() === '0.02,-0.01,0');
  // No longer chosen.
  await press(page, placed.gates[0].id);
  await pageKey(page, '1');
}
