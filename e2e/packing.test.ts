import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import { write3mf } from '../src/core/formats/threemf';
import { RESINS } from '../src/core/material/library';
import { mapVertices } from '../src/core/geometry/mesh';
import type { ProjectView } from '../src/runtime/wire';
import { box } from '../verification/shapes';
import { slab } from '../verification/solids';
import {
  A_RUN,
  SOON,
  bringIn,
  chord,
  press,
  projectOf,
  savedIn,
  seeShown,
  seeText,
  sleep,
  textOf,
  typeInto,
} from './app';
import { downloadsTo, opened } from './opened';
import { openSmallBox } from './smallBox';
import { expectWhole } from './whole';

let page: Page;
let errors: string[];
const { server, folder: downloads } = opened((session) => ({ page, errors } = session));
const saved = (check: (view: ProjectView) => boolean) => savedIn(page, server, check);
const present = (view: ProjectView) => view.variants[view.variants.length - 1].inputs;
/** A file that the page saves, once it is whole. */
async function savedFile(name: string, seconds = 60): Promise<Buffer> {
  for (let i = 0; i < 10 * seconds && !readdirSync(downloads).includes(name); i++) await sleep(100);
  return readFileSync(path.join(downloads, name));
}
const leave = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

beforeAll(async () => {
  await downloadsTo(page, downloads);
  await openSmallBox(page, server, downloads);
});

describe('the Resin station', () => {
  it('finds grades by words and keeps favourites', async () => {
    await leave();
    await page.keyboard.press('2');
    await seeText(page, `${RESINS.length} of ${RESINS.length} resins`);
    await page.type('[aria-label="Search resins"]', 'pa6 glass');
    await seeText(page, `4 of ${RESINS.length} resins`);
    await page.click('[aria-label="Make Lowan N30 G30 a favourite"]');
    await page.click('[aria-label="Search resins"]', { count: 3 });
    await page.keyboard.press('Backspace');
    await press(page, 'Show');
    await press(page, 'Favourites');
    await seeText(page, `1 of ${RESINS.length} resins`);
    await press(page, 'Show');
    await press(page, 'All resins');
  });

  it('draws curves, compares two grades and gives them as a table', async () => {
    await page.waitForSelector('canvas[aria-label="Viscosity against shear rate"]');
    await press(page, 'Compare to');
    await press(page, 'PPHollin H3');
    await seeText(page, 'and Hollin H14 (dashed)');
    await press(page, 'pvT');
    await page.waitForSelector('canvas[aria-label="Specific volume against temperature"]');
    await press(page, 'CSV');
    for (let i = 0; i < 100 && !readdirSync(downloads).some((f) => f.endsWith('.csv')); i++) await sleep(100);
    const csv = readFileSync(path.join(downloads, readdirSync(downloads)[0]), 'utf8');
    expect(csv).toMatch(/^"Temperature, °C","Hollin H3, 0 MPa"/);
    await press(page, 'PPHollin H14');
  });

  it('copies a grade; what is impossible cannot be saved, what is unusual is said', async () => {
    await press(page, 'Copy and edit');
    await typeInto(page, 'n', '0.8');
    await seeText(page, 'n is unusual.');
    await typeInto(page, 'n', '1.4');
    await seeText(page, 'Enter 0.0100 to 0.990');
    await typeInto(page, 'n', '0.33');
    // A spectrum of its own with the first change.
    expect(await textOf(page, '[data-testid="relaxation-origin"]')).toContain('an estimate');
    await typeInto(page, 'Below it, activation', '150000');
    await seeText(page, 'Its own spectrum.');
    await press(page, 'Remove point 1 of Spectrum');
    await press(page, 'Save');
    const view = await saved((v) => typeof present(v).resin === 'object');
    const { resin } = present(view);
    expect(resin).toMatchObject({ name: 'Hollin H14 copy', origin: 'typed in', viscosity: { n: 0.33 } });
    if (typeof resin === 'string' || !resin.relaxation) throw new Error('no spectrum');
    expect(resin.relaxation.activation).toBe(150_000);
    expect(resin.relaxation.terms.length).toBeGreaterThan(3);
    await seeText(page, `${RESINS.length + 1} of ${RESINS.length + 1} resins`);
  });

  it('fits a grade to readings of the lab, points left out by a click', async () => {
    await press(page, 'Fit points');
    await seeText(page, 'There are no points yet.');
    await press(page, 'Ask the lab');
    await seeText(page, '36 of 36 points');
    await page.click('[aria-label^="Point 7,"]');
    await seeText(page, '35 of 36 points');
    expect(await textOf(page, '[data-testid="fitted"]')).toMatch(/n\s+0\.\d+ ± /);
    await press(page, 'Make a resin of it');
    const view = await saved((v) => {
      const { resin } = present(v);
      return typeof resin === 'object' && resin.origin === 'fitted from data';
    });
    expect(present(view).resin).toMatchObject({ viscosity: { kind: 'cross-wlf' } });
  });

  it('refuses points that say nothing, with the line', async () => {
    await page.$eval('[aria-label="Measured points"]', (e) => (e as HTMLTextAreaElement).select());
    await page.type('[aria-label="Measured points"]', '100, 230, 250\nabc');
    await seeText(page, 'Line 2 is not made of 3 numbers');
    await press(page, 'PPHollin H45');
    await saved((v) => present(v).resin === 'pp-hollin-h45');
  });

  it('corrects a grade by shrinkage measured on plates, and shows how its stress fades', async () => {
    await press(page, 'Curves');
    await press(page, 'Relaxes');
    await seeText(page, 'Modulus that is left of a strain held');
    await press(page, 'Shrinkage');
    await seeText(page, 'Nothing measured');
    await page.type('[aria-label="Measured shrinkage"]', '2, 50');
    await seeText(page, 'There are no plates yet.');
    await page.type('[aria-label="Measured shrinkage"]', '\nabc');
    await seeText(page, 'Line 2 is not made of 3 numbers');
    await page.$eval('[aria-label="Measured shrinkage"]', (e) => (e as HTMLTextAreaElement).select());
    await page.type('[aria-label="Measured shrinkage"]', '2, 50, 1.6\n2, 30, 2.0');
    await press(page, 'Mould these plates');
    await page.waitForSelector('[data-testid="corrected"]', { timeout: A_RUN });
    expect(await textOf(page, '[data-testid="corrected"]')).toMatch(/along the wall\s+45\.0 % → \d/);
  });

  it('has metals, gases and coolants that can be copied', async () => {
    await press(page, 'Metals, gases');
    await press(page, 'Coolants');
    await press(page, 'Water with 25 %');
    await seeText(page, 'Freezes at');
    await leave();
  });
});

describe('packing', () => {
  it('is set by a profile; one that goes back in time is told and not run', async () => {
    await page.keyboard.press('5');
    await page.$$eval('[aria-label="Packing"] button, [aria-label="Packing"] [role="radio"]', (all) =>
      (all.find((b) => b.textContent?.includes('Profile')) as HTMLElement).click(),
    );
    await press(page, 'Add a point');
    const set = async (label: string, value: string) => {
      await page.click(`[aria-label="${label}, packing profile"]`, { count: 3 });
      await page.keyboard.type(value);
      await page.keyboard.press('Enter');
    };
    await set('Time of point 3', '2');
    await seeText(page, 'time cannot go back');
    await leave();
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'The packing profile goes back in time');
    await page.keyboard.press('Escape');
    await set('Time of point 2', '1.5');
    await set('Pressure of point 3', '12');
    const view = await saved((v) => {
      const { packing } = present(v).cycle;
      return packing.by === 'profile' && packing.points.length === 3 && packing.points[2].value === 1.2e7;
    });
    expect(present(view).cycle.packing).toMatchObject({ as: 'pressure' });
    await leave();
  });

  it('fills, packs and cools; the strip covers the cycle and the answers say how it went', async () => {
    await chord(page, 'Control', 'Enter');
    await page.keyboard.press('6');
    await seeText(page, 'How long must it cool?', A_RUN);
    const { summary, answers } = (await projectOf(page, server)).runs[0];
    expect(summary?.pack?.massError).toBeLessThan(1e-6);
    expect(summary?.pack?.heatError).toBeLessThan(0.01);
    expect(answers).toHaveLength(6);
    for (const phase of ['packing', 'cooling', 'open']) await seeText(page, phase);
    await press(page, 'Volumetric shrinkage');
    await seeShown(page, 'shrinkage');
    await press(page, 'Ejectable time');
    await seeShown(page, 'ejectableAt');
  });

  it('shows the shape that comes out: by direction and cause, aligned, exaggerated, and saved', async () => {
    await seeText(page, 'What shape comes out?');
    await press(page, 'Deviation');
    await seeShown(page, 'deviation');
    // A field that is chosen opens the answer to its question.
    await page.waitForFunction(() =>
      document.querySelector('article[aria-label="What shape comes out?"]')?.textContent?.includes('Why'),
    );
    const legend = () =>
      page.$eval('[data-legend-range]', (e) => e.getAttribute('data-legend-range')!.split(',').map(Number));
    const [, whole] = await legend();
    const { summary } = (await projectOf(page, server)).runs[0];
    // The legend ends at the farthest vertex, the number is what half a per cent of the surface is beyond.
    expect(whole / summary!.shape!.largest_m).toBeGreaterThanOrEqual(1);
    expect(whole / summary!.shape!.largest_m).toBeLessThan(1.3);
    await press(page, 'Normal');
    await page.waitForFunction(
      () => Number(document.querySelector('[data-legend-range]')?.getAttribute('data-legend-range')?.split(',')[0]) < 0,
    );
    // To both sides of the drawing: its zero is in the middle of the scale.
    const [low, high] = await legend();
    expect(low).toBe(-high);
    await seeText(page, 'square to the face');
    await press(page, 'Cause');
    await press(page, 'Spring-in of corners');
    await seeShown(page, 'deviation');
    await press(page, 'Cause');
    await press(page, 'Everything');
    await press(page, 'Three points');
    await press(page, 'Pick three points');
    const box = (await (await page.$('canvas'))!.boundingBox())!;
    for (const [x, y] of [
      [0.4, 0.45],
      [0.55, 0.5],
      [0.5, 0.6],
    ])
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
    await seeText(page, 'Pick three other points');
    await press(page, 'Best fit');
    await page.focus('[aria-label="Exaggeration"]');
    for (let k = 0; k < 5; k++) await page.keyboard.press('ArrowRight');
    await seeText(page, '15 ×');
    await leave();
    await press(page, 'STL');
    expect((await savedFile('shape.stl')).length).toBeGreaterThan(10_000);
    await press(page, '3MF');
    expect((await savedFile('shape.3mf')).subarray(0, 2).toString()).toBe('PK');
    await press(page, 'von Mises stress, surface');
    await seeShown(page, 'vonMises');
  });

  it('measures before and after, and judges by what is set now', async () => {
    await press(page, 'Pick');
    const box = (await (await page.$('canvas'))!.boundingBox())!;
    for (const [x, y] of [
      [0.35, 0.5],
      [0.6, 0.55],
    ])
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
    await saved((v) => present(v).warpage?.measures.length === 1);
    await page.waitForFunction(() =>
      /\d → \d/.test(document.querySelector('[aria-label="Measures"]')?.textContent ?? ''),
    );
    await seeText(page, 'Result up to date');
    await typeInto(page, 'May be off by', '0.001');
    await seeText(page, 'beyond its 0.001');
    await press(page, 'Delete measure M1');
    await saved((v) => present(v).warpage?.measures.length === 0);
    await page.keyboard.press('5');
    await typeInto(page, 'May be off by', '20');
    await saved((v) => present(v).warpage?.tolerance === 0.02);
    await leave();
    await page.keyboard.press('6');
    await seeText(page, 'tolerance 20.0 mm');
    await press(page, 'Deviation');
  });

  it('finds the body to cut, and hands the structure on', async () => {
    await press(page, 'Find the counter-warped body');
    await seeText(page, 'Corrected once', A_RUN);
    const rows = await page.$$eval('[aria-label="Bodies tried"] tbody tr', (all) =>
      all.map((row) => [1, 2].map((k) => Number(/[\d.]+/.exec(row.children[k].textContent ?? '')?.[0]))),
    );
    const [[largest, mean], [largestAfter, meanAfter]] = rows;
    // One correction; how far it goes in the end has a test of its own. At this Detail the largest hangs on a few
    // vertices at corners, the mean does not.
    expect(meanAfter).toBeLessThan(0.6 * mean);
    expect(largestAfter).toBeLessThan(largest);
    await press(page, 'STL');
    expect((await savedFile('counter-warped.stl')).length).toBeGreaterThan(10_000);
    await press(page, 'What comes out');
    await press(page, 'Stress .vtu');
    await page.waitForSelector('[role="status"]');
    await press(page, 'Stop');
    await press(page, 'Deck .inp');
    expect((await savedFile('structure.inp', 120)).toString('utf8', 0, 2000)).toContain('*NODE, NSET=ALL');
  });

  it('follows the mass in the chart', async () => {
    await press(page, 'Chart');
    await press(page, 'Quantity');
    await press(page, 'Mass in the cavities');
    await page.waitForSelector('canvas[aria-label="Histories at the probes"]');
    await page.click('[aria-label="Close the chart"]');
  });

  it('a cycle is found by trials and taken over as a variant', async () => {
    await leave();
    await page.keyboard.press('5');
    await press(page, 'Find a cycle by trials');
    await page.waitForSelector('[data-testid="suggested"]', { timeout: A_RUN });
    await press(page, 'Take it over as a variant');
    const view = await saved((v) => v.variants.some((x) => x.name.startsWith('Suggested cycle')));
    const { cycle } = present(view);
    const { packing } = cycle;
    expect(packing.by === 'constant' ? packing.time : packing.points.at(-1)?.at).toBeGreaterThan(2);
    expect(cycle.coolingTime).not.toBeNull();
  });

  it('bonds an insert to the plastic and shows the stress in either', async () => {
    const lid = slab(0.09, 0.04, () => 0.0025);
    const bar = mapVertices(box(0.06, 0.01, 0.003), ([x, y, z]) => [x + 0.015, y, z - 0.00275]);
    const file = path.join(downloads, 'lid.3mf');
    writeFileSync(
      file,
      write3mf([
        { name: 'Cage lid', colour: null, mesh: lid },
        { name: 'Bar', colour: '#8b949b', mesh: bar },
      ]),
    );
    await leave();
    await page.keyboard.press('1');
    await press(page, 'Bodies');
    await press(page, 'Bring in files');
    await bringIn(page, file, 'Use these 2 bodies');
    await press(page, 'Bar');
    await press(page, 'Role');
    await press(page, 'Insert');
    await saved((v) => present(v).bodies.some((b) => b.role === 'insert'));
    await leave();
    await page.keyboard.press('3');
    await press(page, 'Place gate');
    await page.mouse.click(640, 330);
    await saved((v) => present(v).gates.length === 1);
    await page.keyboard.press('Escape');
    await leave();
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Result up to date', A_RUN);
    await page.keyboard.press('6');
    // The list is whole once the fields of the bond are in it: before, it still moves under the pointer.
    await seeText(page, 'Shear at the bond');
    await press(page, 'von Mises stress, surface');
    await seeShown(page, 'vonMises');
    const highest = () =>
      page.$eval('[data-legend-range]', (e) => Number(e.getAttribute('data-legend-range')!.split(',')[1]));
    const inPlastic = await highest();
    await press(page, 'Inserts');
    await page.waitForFunction(
      (before: number) =>
        Number(document.querySelector('[data-legend-range]')?.getAttribute('data-legend-range')?.split(',')[1]) >
        2 * before,
      { timeout: SOON },
      inPlastic,
    );
    const inInsert = await highest();
    await press(page, 'Both');
    await sleep(1000);
    const inBoth = await highest();
    expect(inBoth).toBeGreaterThan(2 * inPlastic);
    expect(inBoth).toBeLessThanOrEqual(1.01 * inInsert);
  });

  it('comes through the contract whole, and leaves no error behind', async () => {
    await expectWhole(server);
    expect(errors).toEqual([]);
  });
});
