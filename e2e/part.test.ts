import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { ElementHandle, Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import { writeStl } from '../src/core/formats/stl';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { revolve, slab } from '../verification/solids';
import { write3mf } from '../src/core/formats/threemf';
import type { Inputs } from '../src/core/model/study';
import { chord, press, projectOf, savedInputs, seeShown, seeText, sleep } from './app';
import { opened } from './opened';

let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));

const project = () => projectOf(page, server);
const inputsNow = async (): Promise<Inputs> => (await project()).variants[0].inputs;
const saved = (check: (inputs: Inputs) => boolean) => savedInputs(page, server, check);
const geometry = async (hash: string) => (await project()).geometries.find((g) => g.hash === hash)!;
const choose = async (file: string) => {
  const input = (await page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>;
  await input.uploadFile(file);
};
const file = (name: string, bytes: Uint8Array): string => {
  const at = path.join(folder, name);
  writeFileSync(at, bytes);
  return at;
};

/** A plate with a hole in its skin and a face turned round. */
const broken = (() => {
  const plate = slab(0.06, 0.04, () => 0.003);
  const t = [...plate.triangles.slice(3)];
  [t[4], t[5]] = [t[5], t[4]];
  return { ...plate, triangles: Uint32Array.from(t) };
})();
const pin = revolve([
  [0, 0],
  [0.0015, 0],
  [0.0015, 0.02],
  [0, 0.02],
]);
const at = (x: number, y: number) => mapVertices(pin, ([a, b, c]): Vec3 => [a + x, b + y, c + 0.002]);

beforeAll(async () => {
  await press(page, 'Feeder tray');
  await seeShown(page, 'clay');
});

describe('the Part station', () => {
  let drawn: Inputs;

  it('chooses a body by click in the view and pulls a stand-in by its dots', async () => {
    await page.mouse.click(560, 440);
    await page.waitForSelector('[aria-label="Bodies"] [aria-pressed="true"]');
    await press(page, 'Stand-in');
    await page.waitForSelector('[aria-label="Stand-in"] input');
    const sizes = () =>
      page.$$eval('[aria-label="Stand-in"] input', (all) => all.map((e) => Number((e as HTMLInputElement).value)));
    const before = await sizes();
    expect(before.slice(0, 3).sort((a, b) => a - b)).toEqual([45, 120, 180]);
    await sleep(500);
    // The dot on the lid of the box.
    await page.mouse.move(678, 311);
    await page.mouse.down();
    await page.mouse.move(678, 293, { steps: 4 });
    await page.mouse.move(678, 273, { steps: 4 });
    await page.mouse.up();
    const after = await sizes();
    const grown = after.slice(0, 3).findIndex((x, i) => x !== before[i]);
    expect(before[grown]).toBe(45);
    expect(after[grown]).toBeGreaterThan(50);
    // The underside stays: the centre goes up by half of what was pulled.
    expect(after[5] - before[5]).toBeCloseTo((after[grown] - before[grown]) / 2, 3);
    await page.keyboard.press('Escape');
    await page.waitForSelector('[aria-label="Bodies"] [aria-pressed="true"]', { hidden: true });
  });

  it('brings in a broken STL with what is wrong with it and where', async () => {
    await press(page, 'Bring in files');
    await choose(file('plate.stl', writeStl(broken)));
    await seeText(page, 'not watertight');
    await press(page, 'Use this part');
    drawn = await saved((i) => i.bodies[0]?.name === 'plate');
    expect(drawn.gates).toEqual([]);
    await seeText(page, 'The surface is not closed');
    await press(page, 'Show the place');
    await seeText(page, 'Place 1 of 1');
  });

  it('mends it in one step', async () => {
    await press(page, 'plate');
    await press(page, 'Mend');
    await seeText(page, 'hole closed');
    const inputs = await saved((i) => i.bodies[0].mesh !== drawn.bodies[0].mesh);
    const { report } = await geometry(inputs.bodies[0].mesh);
    expect(report.watertight).toBe(true);
    expect(report.volume).toBeCloseTo(0.06 * 0.04 * 0.003, 10);
    await seeText(page, 'Nothing to report');
  });

  it('turns it and measures its wall', async () => {
    const before = await inputsNow();
    await press(page, 'Orient');
    await press(page, 'X');
    await press(page, '+90°');
    const inputs = await saved((i) => i.bodies[0].mesh !== before.bodies[0].mesh);
    const { bounds } = (await geometry(inputs.bodies[0].mesh)).report;
    expect(bounds.max.map((m, d) => Number((m - bounds.min[d]).toFixed(9)))).toEqual([0.06, 0.003, 0.04]);
    await press(page, 'Find the fewest undercuts');
    await seeText(page, 'no undercut');
    await press(page, 'Maps');
    await press(page, 'Wall thickness');
    await seeShown(page, 'map-thickness');
    await seeText(page, 'Typical wall');
    // A plate of 3 mm, standing: without draft on its large faces.
    await seeText(page, '3.00 mm');
    await seeText(page, 'of draft');
    await press(page, 'Mould half');
    await seeShown(page, 'map-side');
  });

  it('keeps a changed rule and judges by it', async () => {
    await page.evaluate(() => {
      const label = [...document.querySelectorAll('label')].find((l) => l.textContent?.startsWith('Draft not below'));
      document.getElementById(label?.htmlFor ?? '')?.focus();
    });
    await page.keyboard.type('0');
    await page.keyboard.press('Enter');
    await saved((i) => i.rules.draft === 0);
    await page.waitForFunction(() => !document.body.innerText.includes('of draft.'));
  });

  it('adds an assembly, and puts a cylinder in place of a pin and all its copies', async () => {
    const before = await inputsNow();
    await press(page, 'Bodies');
    await press(page, 'Bring in files');
    const bodies = [at(0.01, 0), at(0.03, 0.005), at(0.05, -0.005)].map((mesh, i) => ({
      name: `Pin ${i + 1}`,
      colour: '#8b949b',
      mesh,
    }));
    await choose(
      file('pins.3mf', write3mf([...bodies, { name: 'Block', colour: null, mesh: slab(0.01, 0.01, () => 0.01) }])),
    );
    await seeText(page, 'The unit comes from the file');
    await press(page, 'Add bodies');
    await press(page, 'Use these 4 bodies');
    const added = await saved((i) => i.bodies.length === before.bodies.length + 4);
    expect(added.bodies.slice(1).map((b) => [b.name, b.role, b.colour])).toEqual([
      ['Pin 1', 'left-out', '#8b949b'],
      ['Pin 2', 'left-out', '#8b949b'],
      ['Pin 3', 'left-out', '#8b949b'],
      ['Block', 'left-out', null],
    ]);
    await press(page, 'Pin 1');
    await press(page, 'Stand-in');
    await press(page, 'Cylinder');
    await press(page, 'Find copies of this body');
    await seeText(page, '2 copies found');
    await press(page, 'Use for all 3');
    const swapped = await saved((i) => i.bodies.filter((b) => b.standIn).length === 3);
    for (const body of swapped.bodies.filter((b) => b.standIn)) {
      expect(body.standIn).toMatchObject({ shape: 'cylinder' });
      const { volume } = (await geometry(body.mesh)).report;
      // The pin has 48 sides, the stand-in's circle goes through its corners.
      expect(Math.abs(volume / (Math.PI * 0.0015 ** 2 * 0.02) - 1)).toBeLessThan(0.01);
    }
    expect(swapped.bodies.at(-1)?.standIn).toBeNull();
  });

  it('traces the axis of a pin', async () => {
    await press(page, 'Pin 2');
    await press(page, 'Restore');
    await saved((i) => i.bodies.filter((b) => b.standIn).length === 2);
    await press(page, 'Axis trace');
    const { axes } = await saved((i) => i.axes.length === 1);
    expect(axes[0].segments.length).toBeGreaterThan(0);
    await seeText(page, 'Point 1, end');
  });

  it('brings in a newer version and tells which gates are loose', async () => {
    await press(page, 'Feed');
    await page.keyboard.press('g');
    await page.mouse.click(680, 380);
    await page.keyboard.press('Escape');
    await saved((i) => i.gates.length === 1);
    await press(page, 'Part');
    await press(page, 'Bring in files');
    // Shifted by its own length: no place of the old one is left.
    const newer = mapVertices(
      slab(0.06, 0.04, () => 0.003),
      ([x, y, z]): Vec3 => [x + 0.5, y, z],
    );
    await choose(file('plate.stl', writeStl(newer)));
    await seeText(page, 'Newer version');
    await press(page, 'Use this part');
    await seeText(page, 'is loose');
    const inputs = await inputsNow();
    expect([inputs.gates.length, inputs.bodies.length]).toEqual([1, 5]);
    await press(page, 'Feed');
    await seeText(page, 'loose');
  });

  it('takes all of it back', async () => {
    for (let i = 0; i < 12; i++) await chord(page, 'Control', 'z');
    const inputs = await saved((i) => i.bodies[0]?.name === 'Feeder tray');
    expect([inputs.bodies.length, inputs.gates.length, inputs.axes.length]).toEqual([1, 1, 0]);
    expect(inputs.rules).toEqual({});
    expect(errors).toEqual([]);
  });
});
