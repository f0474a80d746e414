import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import type { ElementHandle, Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { ProjectView } from '../src/runtime/wire';
import { A_RUN, choose, chord, press, projectOf, savedIn, seeShown, seeText, sleep, textOf, typeInto } from './app';
import { downloadsTo, opened } from './opened';
import { openSmallBox } from './smallBox';

let page: Page;
let errors: string[];
const { server, folder: downloads } = opened((session) => ({ page, errors } = session));
const saved = (check: (view: ProjectView) => boolean) => savedIn(page, server, check);

beforeAll(() => downloadsTo(page, downloads));

const leave = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

/** Waits for a file with the ending to be there whole. */
async function downloaded(ending: string): Promise<Buffer> {
  for (let i = 0; i < 600; i++) {
    const name = readdirSync(downloads).find((f) => f.endsWith(ending));
    if (name) return readFileSync(path.join(downloads, name));
    await sleep(100);
  }
  throw new Error(`no ${ending} was downloaded`);
}

describe('before a run', () => {
  it('shows the flow pattern at the Feed station without Run, and follows the gate', async () => {
    await openSmallBox(page, server, downloads);
    await saved((v) => v.variants[0].inputs.detail === 'quick');
    await page.keyboard.press('3');
    await seeShown(page, 'preview');
    const before = await textOf(page, '[data-testid="preview-note"]');
    expect(before).toMatch(/Preview, coarse/);
    await press(page, 'G1');
    await typeInto(page, 'X', '28');
    await page.waitForFunction(
      (text: string) => document.querySelector('[data-testid="preview-note"]')?.textContent !== text,
      { timeout: A_RUN },
      before,
    );
    // A gate at one end needs more pressure than one in the middle.
    const pressure = (text: string) => parseFloat(/about ([\d.]+)/.exec(text)?.[1] ?? '0');
    expect(pressure(await textOf(page, '[data-testid="preview-note"]'))).toBeGreaterThan(pressure(before));
    await leave();
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates[0].position[0] === 0.02);
  });

  it('searches for gates, keeps out of painted places, and uses the best', async () => {
    await press(page, 'Rule out');
    await page.mouse.move(690, 380);
    await page.mouse.down();
    await page.mouse.move(720, 395, { steps: 5 });
    await sleep(200);
    await page.mouse.up();
    await saved((v) => v.variants[0].inputs.noGate.length > 0);
    await press(page, 'Rule out');
    await press(page, 'Search the part');
    await seeText(page, 'Best single gates', A_RUN);
    await seeShown(page, 'gate-map');
    expect(await page.$$eval('[aria-label="Best places"] > li', (l) => l.length)).toBe(3);
    await press(page, 'Use alone');
    await saved((v) => v.variants[0].inputs.gates[0].position[0] !== 0.02);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates[0].position[0] === 0.02);
    await press(page, 'Allow gates everywhere');
    await saved((v) => v.variants[0].inputs.noGate.length === 0);
  });

  it('takes a machine, a profile and a switchover, and says what cannot be', async () => {
    await page.keyboard.press('5');
    await press(page, 'Profile');
    await saved((v) => v.variants[0].inputs.cycle.injection.by === 'profile');
    await press(page, 'Add a step');
    await saved((v) => {
      const { injection } = v.variants[0].inputs.cycle;
      return injection.by === 'profile' && injection.points.length === 4;
    });
    await press(page, 'Time');
    await saved((v) => v.variants[0].inputs.cycle.injection.by === 'time');
    await press(page, 'Machine');
    await press(page, 'Hask 30');
    await saved((v) => v.variants[0].inputs.cycle.machine === 'hask-30');
    await leave();
    await typeInto(page, 'Pressure limit', '0');
    await seeText(page, 'Set the limit of the machine');
    await leave();
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.cycle.pressureLimit === null);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.cycle.machine === null);
  });
});

describe('after a run', () => {
  it('answers six questions and shows the table behind the verdicts', async () => {
    await chord(page, 'Control', 'Enter');
    await page.keyboard.press('6');
    await seeShown(page, 'fillTime');
    const view = await projectOf(page, server);
    const answers = view.runs[0].answers ?? [];
    expect(answers.map((a) => a.id)).toEqual([
      'will-it-fill',
      'where-fronts-meet',
      'what-machine',
      'does-it-pack-out',
      'how-long-to-cool',
      'what-shape',
    ]);
    for (const a of answers) await seeText(page, a.question);
    expect(view.runs[0].summary?.heatError).toBeLessThan(0.01);
    await press(page, 'How verdicts are made');
    await seeText(page, 'The worst of its rules decides');
    await page.keyboard.press('Escape');
    await sleep(300);
  });

  it('shows every field and layer without an error', async () => {
    for (const field of [
      'Mean temperature',
      'Frozen share',
      'Temperature at the front',
      'Front speed',
      'Peak wall shear stress',
    ])
      await press(page, field);
    await seeShown(page, 'peakStress');
    for (const layer of ['Isochrones', 'Velocity', 'Tracers', 'Min and max']) await press(page, layer);
    const head = (await page.waitForSelector('[aria-label="Play head"]')) as ElementHandle;
    const frame = await head.boundingBox();
    if (!frame) throw new Error('no time axis');
    await page.mouse.click(frame.x + frame.width / 2, frame.y + frame.height / 2);
    await sleep(600);
    for (const layer of ['Velocity', 'Tracers', 'Min and max']) await press(page, layer);
    await press(page, 'Fill time');
    expect(errors).toEqual([]);
  });

  it('cuts at any angle and shows the profile through the wall', async () => {
    await press(page, 'Temperature through the wall');
    await seeShown(page, 'profile');
    await leave();
    await page.keyboard.press('s');
    const tilt = (await page.waitForSelector(
      '[role="slider"][aria-label="Tilt of the section"]',
    )) as ElementHandle<HTMLElement>;
    await tilt.focus();
    for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
    await page.waitForFunction(() => document.body.innerText.includes('12°'));
    await leave();
    await page.keyboard.press('s');
    await press(page, 'Fill time');
    await seeShown(page, 'fillTime');
    expect(errors).toEqual([]);
  });

  it('places probes that stay with the study, and charts them', async () => {
    await page.keyboard.press('f');
    await leave();
    await page.keyboard.press('p');
    await page.mouse.move(660, 330);
    await sleep(200);
    await page.mouse.click(660, 330);
    const view = await saved((v) => v.variants[0].inputs.probes.length === 1);
    const { position } = view.variants[0].inputs.probes[0];
    expect(Math.abs(position[0])).toBeLessThan(0.091);
    await page.keyboard.press('Escape');
    await page.waitForSelector('[aria-label="Probe chart"] canvas');
    await choose(page, 'Quantity', 'Temperature');
    await choose(page, 'Quantity', 'Layer stress in the room');
    await page.waitForSelector('canvas[aria-label="Profiles through the wall at the probes"]');
    // A probe changes no number: the result stays up to date.
    await seeText(page, 'Result up to date');
    await press(page, 'Close the chart');
    await press(page, 'Delete probe P1');
    await saved((v) => v.variants[0].inputs.probes.length === 0);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.probes.length === 1);
  });

  it('takes a picture and an animation along', async () => {
    await press(page, 'Picture');
    const png = await downloaded('.png');
    expect(png.subarray(1, 4).toString()).toBe('PNG');
    // Wider than the view by the legend, twice the resolution of the screen.
    expect(png.readUInt32BE(16)).toBeGreaterThan(1200);
    await press(page, 'Animation');
    const film = await downloaded('.webm');
    expect(film.length).toBeGreaterThan(20_000);
    // The mark of an EBML file, of which WebM is one.
    expect([...film.subarray(0, 4)]).toEqual([0x1a, 0x45, 0xdf, 0xa3]);
    expect(errors).toEqual([]);
  });

  it('says what its tries would come to, and the run after one is near that', async () => {
    const needed = (await projectOf(page, server)).runs[0].summary!.pressureNeeded_Pa;
    await leave();
    await page.keyboard.press('5');
    await press(page, 'Filling', '[role="radio"]');
    // Little above what it needs: the answer then has something to try.
    await typeInto(page, 'Pressure limit', (1.06e-6 * needed).toFixed(2));
    await saved((v) => v.variants[0].inputs.upTo === 'fill' && v.variants[0].inputs.cycle.pressureLimit !== null);
    await leave();
    await chord(page, 'Control', 'Enter');
    await page.keyboard.press('6');
    await seeText(page, 'It fills, with little reserve', A_RUN);
    await page.waitForSelector('[data-testid="expected"]', { timeout: A_RUN });
    const told = await page.$$eval('[data-testid="expected"]', (all) =>
      all.map((e) => [e.parentElement?.querySelector('button')?.textContent?.trim() ?? '', e.textContent ?? '']),
    );
    const [name, text] = told.find(([button]) => button.startsWith('Melt at'))!;
    expect(text).toContain('by the coarse preview');
    const expected = Number(/about ([\d.]+) MPa/.exec(text)?.[1]);
    expect(1e6 * expected).toBeLessThan(needed);
    await press(page, name);
    const view = await saved((v) => v.runs.some((r) => r.status === 'filled' && r.variantId === v.variants[1]?.id));
    const after = view.runs.find((r) => r.variantId === view.variants[1].id)!.summary!.pressureNeeded_Pa;
    // At one temperature: hotter melt cools more than it knows.
    expect(Math.abs((1e6 * expected) / after - 1)).toBeLessThan(0.12);
  });
});
