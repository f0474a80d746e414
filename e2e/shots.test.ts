import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { unzipSync, strFromU8 } from 'fflate';
import type { KeyInput, Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import { cavities, type Inputs } from '../src/core/model/study';
import { studyFileSchema } from '../src/core/model/studyFile';
import {
  A_RUN,
  bringIn,
  choose,
  chord,
  pageKey,
  press,
  projectOf,
  savedIn,
  savedInputs,
  seeShown,
  seeText,
  textOf,
  typeInto,
} from './app';
import { opened } from './opened';

let page: Page;
let errors: string[];
const { server } = opened((session) => ({ page, errors } = session));
const sample = fileURLToPath(new URL('../samples/hive-tool-handle.3mf', import.meta.url));

const saved = (check: (inputs: Inputs) => boolean) => savedInputs(page, server, check);
const body = (inputs: Inputs, name: string) => inputs.bodies.find((b) => b.name === name)!;
/** Nothing is chosen, nothing waits for a click. */
const leave = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
const station = (key: KeyInput) => pageKey(page, key);
const searchResin = async (name: string) => {
  await page.click('[aria-label="Search resins"]', { count: 3 });
  await page.keyboard.type(name);
};
const placeGate = async (x: number, y: number) => {
  await press(page, 'Place gate');
  await page.mouse.click(x, y);
  await page.keyboard.press('Escape');
};

beforeAll(async () => {
  await press(page, 'Create');
  await seeText(page, 'There is no part yet');
  await press(page, 'Bring in a part');
  await bringIn(page, sample, 'Use these 3 bodies');
  await seeShown(page, 'clay');
});

describe('a handle of steel, a core and a grip over it, from a bare project', () => {
  it('bodies get their roles and shots, and the switch of the shots appears', async () => {
    await press(page, 'Blade');
    await choose(page, 'Role', 'Insert');
    await saved((i) => body(i, 'Blade').role === 'insert');
    await choose(page, 'Material of Blade', 'Stainless tool steel HW S');
    await typeInto(page, 'Laid in at', '90');
    const inputs = await saved((i) => i.inserts?.[0]?.temperature != null);
    expect(inputs.inserts).toMatchObject([{ id: body(inputs, 'Blade').id, material: 'steel-hw-s', contact: 'bonded' }]);
    expect(inputs.inserts![0].temperature).toBeCloseTo(363.15, 6);
    await press(page, 'Core');
    await choose(page, 'Role', 'Cavity');
    await press(page, 'Grip');
    await choose(page, 'Role', 'Cavity of shot 2');
    const two = await saved((i) => body(i, 'Grip').shot === 2);
    expect([two.later?.length, cavities(two).map((b) => b.name)]).toEqual([1, ['Core']]);
    await page.waitForSelector('[aria-label="Shot"]');
    // A step back, and on again.
    await leave();
    await chord(page, 'Control', 'z');
    await saved((i) => i.later === undefined);
    await chord(page, 'Shift', 'Control', 'z');
    await saved((i) => i.later?.length === 1);
    await press(page, 'Detail');
    await press(page, 'Quick');
    await saved((i) => i.detail === 'quick');
  });

  it('every shot has its own resin, gate and cycle; what is missing is told by shot', async () => {
    await station('2');
    await searchResin('Lowan N30');
    await press(page, 'PA6');
    await saved((i) => i.resin === 'pa6-lowan-n30');
    await station('3');
    await placeGate(840, 430);
    await saved((i) => i.gates.length === 1);
    await seeText(page, 'Shot 2: There is no gate');
    await press(page, 'Shot 2');
    await placeGate(820, 400);
    const inputs = await saved((i) => i.later?.[0].gates.length === 1);
    expect(inputs.gates).toHaveLength(1);
    expect(inputs.later![0].gates[0].position).not.toEqual(inputs.gates[0].position);
    await station('2');
    await searchResin('Marlow 75');
    await press(page, 'TPE');
    const chosen = await saved((i) => i.later?.[0].resin === 'tpe-marlow-75');
    expect(chosen.resin).toBe('pa6-lowan-n30');
    await station('5');
    await typeInto(page, 'Takes', '6');
    await saved((i) => i.later?.[0].transfer.time === 6);
    await press(page, 'In the air');
    await saved((i) => i.later?.[0].transfer.on === 'air');
  });

  it('both shots run, one over the other, to the shape of both', async () => {
    await leave();
    await chord(page, 'Control', 'Enter');
    await page.waitForFunction(() => /Shot 2 of 2/.test(document.body.innerText), { timeout: A_RUN });
    await seeText(page, 'Result up to date', A_RUN);
    await station('6');
    await press(page, 'Shot 2');
    await seeShown(page, 'fillTime');
    await seeText(page, 'Do they hold together?');
    const [run] = (await projectOf(page, server)).runs;
    expect([run.status, run.later?.length]).toEqual(['filled', 1]);
    const [second] = run.later!;
    const face = second.summary.hold!.faces.find((f) => f.body === 'shot 1')!;
    // Between the plastic that lay there and the melt of 205 °C that came over it.
    expect(face.peak_K.mean).toBeGreaterThan(320);
    expect(face.peak_K.mean).toBeLessThan(478);
    expect(run.summary!.hold!.loads.map((l) => [l.name, l.held])).toEqual([['Blade', 'outside']]);
    expect(second.summary.shape!.causes.map((c) => c.cause)).toEqual(expect.arrayContaining(['shot', 'insert']));
    expect(second.answers.map((a) => a.id)).toEqual(expect.arrayContaining(['do-they-hold', 'what-shape']));
    await press(page, 'Peak temperature of the face');
    await seeShown(page, 'facePeak');
    await press(page, 'Deviation');
    await seeShown(page, 'deviation');
    await press(page, 'Hide Blade');
    await page.waitForSelector('[aria-label="Hide Blade"][aria-pressed="true"]');
    // On the one clock of both.
    const clock = await textOf(page, '[aria-label="Shots on one clock"]');
    expect(clock).toMatch(/Shot 1, .* s.*Shot 2, .* s/s);
    await page.click('[aria-label="Shots on one clock"] button');
    await page.waitForSelector('[aria-label="Shot"] [data-state="on"]');
    await seeText(page, 'Wall beside the moved insert');
    await press(page, 'Chart');
    await press(page, 'Quantity');
    await press(page, 'Force on inserts');
    await page.waitForSelector('canvas[aria-label="Histories at the probes"]');
    await press(page, 'Close the chart');
    expect(errors).toEqual([]);
  });

  it('leaves as a study with all its bodies, and branches without the insert in one press', async () => {
    const { variants } = await projectOf(page, server);
    const zip = await fetch(`${server.url}/api/variants/${variants[0].id}/export`).then((r) => r.arrayBuffer());
    const files = unzipSync(new Uint8Array(zip));
    const study = studyFileSchema.parse(JSON.parse(strFromU8(files['study.json'])));
    expect(study.bodies.map((b) => [b.name, b.shot ?? null]).sort()).toEqual([
      ['Blade', null],
      ['Grip', 2],
    ]);
    expect(study.later).toMatchObject([{ resin: 'tpe-marlow-75', transfer_s: 6, transferOn: 'air' }]);
    for (const { path } of study.bodies) expect(files[path].length).toBeGreaterThan(84);
    expect(readFileSync(sample).length).toBeGreaterThan(0);
    await station('1');
    await press(page, 'Bodies');
    await press(page, 'Blade');
    await press(page, 'Variant without it');
    const view = await savedIn(page, server, (v) => v.variants.some((x) => x.name === 'Without Blade'));
    const without = view.variants.find((v) => v.name === 'Without Blade')!;
    expect(body(without.inputs, 'Blade').role).toBe('left-out');
    expect(without.inputs.later).toHaveLength(1);
    expect(errors).toEqual([]);
  });
});
