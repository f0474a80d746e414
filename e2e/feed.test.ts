import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { ElementHandle, Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import type { ProjectView } from '../src/runtime/wire';
import { A_RUN, choose, chord, press, savedIn, seeShown, seeText, sleep, textOf, typeInto } from './app';
import { opened } from './opened';
import { expectWhole } from './whole';

let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));
const saved = (check: (view: ProjectView) => boolean) => savedIn(page, server, check);
const undo = async () => {
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await chord(page, 'Control', 'z');
};
const open = async (project: string) => {
  await page.goto(server.url, { waitUntil: 'networkidle2' });
  await press(page, project);
  await page.waitForSelector('[data-testid="viewport"][aria-busy="false"]');
  await press(page, 'Detail');
  await press(page, 'Quick');
  await saved((v) => v.variants[0].inputs.detail === 'quick');
  await page.keyboard.press('3');
};

describe('a family tool', () => {
  it('is laid out from nothing to both cavities', async () => {
    await open('Frame spacer pair');
    await choose(page, 'Runner layout', 'None');
    await saved((v) => v.variants[0].inputs.feed === null);
    await choose(page, 'Runner layout', 'Star');
    const view = await saved((v) => v.variants[0].inputs.feed?.layout === 'star');
    expect(view.variants[0].inputs.feed?.branches).toEqual({});
    await seeText(page, 'Cold feed');
    await typeInto(page, 'Runner diameter', '4');
    await saved((v) => {
      const runner = v.variants[0].inputs.feed?.runner;
      return runner?.shape === 'round' && Math.abs(runner.diameter - 0.004) < 1e-9;
    });
  });

  it('is balanced: a table of diameters, taken over as a variant', async () => {
    await press(page, 'Find diameters');
    await seeText(page, 'Take all as a variant', A_RUN);
    const effect = await textOf(page, '[aria-label="Before and after balancing"]');
    const spread = /Spread of fill time\s+([\d.]+) %\s+([\d.]+) %/.exec(effect);
    expect(Number(spread?.[1])).toBeGreaterThan(4);
    expect(Number(spread?.[2])).toBeLessThan(2);
    expect(Number(/Spread of pressure\s+[\d.]+ %\s+([\d.]+) %/.exec(effect)?.[1])).toBeLessThan(3);
    await press(page, 'Take all as a variant');
    const view = await saved((v) => v.variants.some((x) => x.name === 'Balanced'));
    const { branches } = view.variants.find((x) => x.name === 'Balanced')!.inputs.feed!;
    expect(branches.G2.diameter).toBeGreaterThan(branches.G1.diameter);
  });

  it('fills with them, and tells what every section took', async () => {
    await chord(page, 'Control', 'Enter');
    await seeShown(page, 'fillTime');
    const view = await saved((v) => v.runs.some((r) => r.status === 'filled'));
    const summary = view.runs.find((r) => r.status === 'filled')!.summary!;
    expect(summary.massError).toBeLessThan(1e-6);
    await page.waitForSelector('[aria-label="Sections of the feed in the last result"]');
    expect(await textOf(page, '[aria-label="Sections of the feed in the last result"]')).toMatch(/R1/);
  });

  it('has copies that are solved once, vents and tabs; what is wrong is told with its place', async () => {
    await choose(page, 'Cavity layout', 'Circle');
    await saved((v) => v.variants.some((x) => x.inputs.cavities?.places.by === 'circle'));
    await undo();
    await saved((v) => v.variants.every((x) => !x.inputs.cavities));
    await press(page, 'Rim vent');
    await saved((v) => v.variants.some((x) => x.inputs.vents?.length === 1));
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.keyboard.press('f');
    await sleep(800);
    await press(page, 'Vent');
    await page.mouse.move(545, 172);
    await sleep(400);
    await page.mouse.click(545, 172);
    await saved((v) => v.variants.some((x) => x.inputs.vents?.length === 2));
    await page.keyboard.press('Escape');
    await press(page, 'G1');
    await choose(page, 'Kind of gate', 'Direct sprue');
    await seeText(page, 'A direct sprue feeds one gate');
    await page.waitForSelector('[aria-label="Look at G1"]');
    await undo();
    await page.waitForFunction(() => !document.body.innerText.includes('A direct sprue feeds one gate'));
  });
});

describe('drawn runners', () => {
  it('take over what was laid out, and further lines', async () => {
    await choose(page, 'Runner layout', 'Drawn');
    const laid = await saved((v) => v.variants.some((x) => x.inputs.feed?.layout === 'drawn'));
    const before = laid.variants.find((x) => x.inputs.feed?.layout === 'drawn')!.inputs.feed!.lines!.length;
    expect(before).toBeGreaterThan(1);
    await press(page, 'Draw runners');
    for (const [x, y] of [
      [520, 600],
      [620, 620],
    ]) {
      await page.mouse.move(x, y);
      await sleep(250);
      await page.mouse.click(x, y);
      await sleep(250);
    }
    await page.keyboard.press('Escape');
    await saved((v) => v.variants.some((x) => x.inputs.feed?.lines?.length === before + 1));
    await seeText(page, 'does not hang together with the sprue');
    await undo();
    await saved((v) => v.variants.some((x) => x.inputs.feed?.lines?.length === before));
  });

  it('come from a table; one that is wrong is told and changes nothing', async () => {
    const file = (name: string, text: string) => {
      writeFileSync(path.join(folder, name), text);
      return path.join(folder, name);
    };
    const input = (await page.$('[aria-label="File with runner lines"]')) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(file('wrong.csv', 'x,y,z\n0,0,-12\nten,0,-12\n'));
    await seeText(page, 'Row 3 holds no point');
    await input.uploadFile(file('runners.csv', 'x,y,z,diameter\n0,0,-12,5\n0,20,-12,5\n'));
    const view = await saved((v) => v.variants.some((x) => x.inputs.feed?.lines?.some((l) => l.to[1] === 0.02)));
    const line = view.variants.flatMap((x) => x.inputs.feed?.lines ?? []).find((l) => l.to[1] === 0.02);
    expect(line?.section).toEqual({ shape: 'round', diameter: 0.005 });
  });
});

describe('valve pins', () => {
  it('one opens when the front passes a picked point; the strip shows all bars', async () => {
    await open('Entrance slider');
    await page.keyboard.press('5');
    await press(page, 'Filling');
    await page.keyboard.press('3');
    await press(page, 'G1');
    await press(page, 'Pick the place');
    // On the strip, between the left gate and its end.
    await page.mouse.move(476, 241);
    await sleep(300);
    await page.mouse.click(476, 241);
    const view = await saved((v) => {
      const open = v.variants[0].inputs.gates[0].pin?.open;
      return open?.by === 'front' && open.position !== null;
    });
    const pin = view.variants[0].inputs.gates[0].pin!.open;
    if (pin.by !== 'front' || !pin.position) throw new Error('no place');
    expect(pin.position[0]).toBeLessThan(-0.125);
    await chord(page, 'Control', 'Enter');
    await seeShown(page, 'fillTime');
    await page.waitForSelector('[aria-label^="Pin G1 opens at"]');
    expect(await page.$$eval('[aria-label^="Pin G"]', (l) => l.length)).toBe(3);
    const done = await saved((v) => v.runs.some((r) => r.status === 'filled'));
    const pins = done.runs.find((r) => r.status === 'filled')!.summary!.feed!.pins;
    const opened = Object.fromEntries(pins.map((p) => [p.gate, p.openedAt_s ?? Infinity]));
    // The picked place lies farther out than the gate on the other side.
    expect(opened.G1).toBeGreaterThan(opened.G3);
    expect(opened.G2).toBe(0);
  });

  it('the chart shows every gate, and the answer what the sequence did', async () => {
    await page.keyboard.press('6');
    await press(page, 'Chart');
    await choose(page, 'Quantity', 'Gate pressure');
    await page.waitForSelector('[aria-label="Probe chart"] canvas');
    await press(page, 'Where do fronts meet?');
    await seeText(page, 'no front meets there');
    await expectWhole(server);
    expect(errors).toEqual([]);
  });
});
