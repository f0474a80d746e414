import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { unzipSync } from 'fflate';
import type { ElementHandle, Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { writeStl } from '../src/core/formats/stl';
import type { ProjectView } from '../src/runtime/wire';
import { box } from '../verification/shapes';
import {
  A_RUN,
  SOON,
  chord,
  openPage,
  press,
  projectOf,
  savedIn,
  seeShown,
  seeText,
  sleep,
  textOf,
  typeInto,
} from './app';
import { opened } from './opened';

const root = fileURLToPath(new URL('..', import.meta.url));
let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));

const project = () => projectOf(page, server);
const saved = (check: (view: ProjectView) => boolean) => savedIn(page, server, check);
const latestInputs = async (name: string) => (await project()).variants.find((v) => v.name === name)?.inputs;

describe('the demo project', () => {
  it('opens with its part and a gate', async () => {
    await press(page, 'Feeder tray');
    await page.waitForSelector('canvas');
    await seeShown(page, 'clay');
    await seeText(page, '180.0 × 120.0 × 45.00 mm');
  });

  it('places a gate by click, moves it by drag and by number, and takes it all back', async () => {
    await page.keyboard.press('g');
    await seeText(page, 'Click on the part');
    await page.mouse.click(850, 500);
    await page.keyboard.press('Escape');
    let view = await saved((v) => v.variants[0].inputs.gates.length === 2);
    const placed = view.variants[0].inputs.gates[1].position;
    // On the outside of the tray: within its box.
    expect(Math.abs(placed[0])).toBeLessThan(0.0901);
    expect(placed[2]).toBeGreaterThan(-1e-6);

    await page.mouse.move(852, 501);
    await page.mouse.down();
    await page.mouse.move(868, 485, { steps: 4 });
    await sleep(300);
    await page.mouse.move(880, 472, { steps: 3 });
    await sleep(300);
    await page.mouse.up();
    view = await saved((v) => v.variants[0].inputs.gates[1].position[0] !== placed[0]);
    const dragged = view.variants[0].inputs.gates[1].position;
    expect(Math.hypot(...dragged.map((x, d) => x - placed[d]))).toBeGreaterThan(0.003);

    // Dragging has chosen the gate already, unless the click before let go of it.
    if (!(await textOf(page, '[aria-label="Feed bench"]')).includes('Gate G2')) await press(page, 'G2');
    await typeInto(page, 'Diameter', '3,5');
    await saved((v) => v.variants[0].inputs.gates[1].diameter === 0.0035);
    await typeInto(page, 'Diameter', '900');
    await seeText(page, 'Enter 0.100 to 50.0 mm');
    await page.keyboard.press('Escape');
    await page.mouse.click(680, 660);

    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates[1]?.diameter === 0.0025);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates[1]?.position[0] === placed[0]);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates.length === 1);
    await chord(page, 'Shift', 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates.length === 2);
    await chord(page, 'Control', 'z');
    await saved((v) => v.variants[0].inputs.gates.length === 1);
  });

  it('runs, shows the front while it is computed, and answers', async () => {
    await page.keyboard.press('1');
    await press(page, 'Detail');
    await press(page, 'Quick');
    await saved((v) => v.variants[0].inputs.detail === 'quick');
    await page.keyboard.press('5');
    await press(page, 'To ejection');
    await saved((v) => v.variants[0].inputs.upTo === 'pack');
    await chord(page, 'Control', 'Enter');
    await seeShown(page, 'fillTime-live');
    await seeShown(page, 'fillTime');
    await seeText(page, 'Pressure needed at the gate');
    const [run] = (await project()).runs;
    expect(run.status).toBe('filled');
    expect(run.summary?.massError).toBeLessThan(1e-6);
    // The gate is at the floor's middle: the last place is up at a corner of the rim.
    const last = run.summary?.lastPlace_m ?? [0, 0, 0];
    expect(last[2]).toBeGreaterThan(0.035);
    expect(Math.abs(last[0])).toBeGreaterThan(0.07);
  });

  it('plays, scrubs, probes, cuts and filters', async () => {
    await page.keyboard.press('6');
    await press(page, 'Pressure');
    await seeShown(page, 'pressure');
    const head = (await page.waitForSelector('[aria-label="Play head"]')) as ElementHandle;
    const frame = await head.boundingBox();
    if (!frame) throw new Error('no time axis');
    await page.mouse.click(frame.x + frame.width / 2, frame.y + frame.height / 2);
    const clock = await textOf(page, '[data-testid="clock"]');
    const now = parseFloat(clock);
    // The middle of the strip lies in the packing: every phase has its room.
    const { summary } = (await projectOf(page, server)).runs[0];
    expect(now).toBeGreaterThan(summary?.fillTime_s ?? Infinity);
    expect(now).toBeLessThan(summary?.pack?.packingEnd_s ?? 0);
    await page.keyboard.press('ArrowRight');
    expect(parseFloat(await textOf(page, '[data-testid="clock"]'))).toBeGreaterThan(now);
    await page.keyboard.press('End');

    await page.mouse.move(700, 500);
    await page.waitForSelector('[data-testid="probe"]');
    await page.waitForFunction(() =>
      /Pressure [\d.]+ MPa/.test(document.querySelector('[data-testid="probe"]')?.textContent ?? ''),
    );

    await page.mouse.move(680, 660);
    await page.keyboard.press('s');
    await seeText(page, 'Section');
    await page.waitForSelector('[aria-label="Place of the section"]');
    await page.keyboard.press('s');

    const grip = (await page.waitForSelector('[aria-label="Lowest shown"]')) as ElementHandle<HTMLElement>;
    await grip.focus();
    for (let i = 0; i < 5; i++) await page.keyboard.press('PageUp');
    await press(page, 'Show all');

    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.keyboard.press('Space');
    await seeText(page, 'Pause');
    await page.keyboard.press('Space');
    await press(page, 'Last place to fill');
    expect(errors).toEqual([]);
  });

  it('marks a result as out of date when an input changes, and keeps it', async () => {
    await page.keyboard.press('5');
    await typeInto(page, 'Injection time', '2');
    await seeText(page, 'Result out of date');
    // While inputs change the coarse flow pattern follows them; the result itself is kept.
    await seeShown(page, 'preview');
    await page.keyboard.press('Escape');
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.keyboard.press('6');
    await seeText(page, 'Result of earlier inputs');
    await page.keyboard.press('5');
    await chord(page, 'Control', 'z');
    await seeText(page, 'Result up to date');
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  });

  it('branches, renames, switches and deletes variants, with undo', async () => {
    await press(page, 'Branch a new variant');
    await saved((v) => v.variants.length === 2);
    await press(page, 'Variant actions');
    await press(page, 'Rename');
    await page.waitForSelector('[aria-label="Name of the variant"]');
    await sleep(200);
    await page.keyboard.type('Two gates');
    await page.keyboard.press('Enter');
    await saved((v) => v.variants.some((x) => x.name === 'Two gates'));
    await page.keyboard.press('2');
    await press(page, 'ABS');
    await saved((v) => v.variants[1].inputs.resin === 'abs-corran-220');
    expect((await latestInputs('First'))?.resin).toBe('pp-hollin-h14');
    await press(page, 'Variant actions');
    await press(page, 'Delete');
    await saved((v) => v.variants.length === 1);
    await seeText(page, 'deleted');
    await press(page, 'Undo');
    const back = await saved((v) => v.variants.length === 2);
    expect(back.variants[1].inputs.resin).toBe('abs-corran-220');
  });

  it('keeps step with another tab, and neither overwrites what the other has set', async () => {
    const { page: other } = await openPage(page.browser(), page.url());
    try {
      await other.waitForSelector('[data-testid="viewport"][aria-busy="false"]');
      await other.keyboard.press('2');
      await press(other, 'PE-HD');
      await saved((v) => v.variants[1].inputs.resin === 'pehd-sedge-d7');
    } finally {
      await other.close();
      await page.bringToFront();
    }
    await page.keyboard.press('5');
    await seeText(page, 'defaults from Sedge D7');
    await press(page, 'Filling');
    await saved((v) => v.variants[1].inputs.upTo === 'fill' && v.variants[1].inputs.resin === 'pehd-sedge-d7');
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await chord(page, 'Control', 'z');
    const back = await saved((v) => v.variants[1].inputs.upTo === 'pack');
    expect(back.variants[1].inputs.resin).toBe('pehd-sedge-d7');
  });

  it('cancels a run at once and queues a second one', async () => {
    await page.keyboard.press('1');
    await press(page, 'Detail');
    await press(page, 'Fine');
    await saved((v) => v.variants[1].inputs.detail === 'fine');
    await press(page, 'Run');
    await seeShown(page, 'fillTime-live');
    await press(page, 'First');
    // Long enough to be cancelled: what has been calculated once is not calculated again.
    await page.keyboard.press('1');
    await press(page, 'Detail');
    await press(page, 'Fine');
    await saved((v) => v.variants[0].inputs.detail === 'fine');
    await press(page, 'Run');
    await seeText(page, 'Waiting for the run before');
    await press(page, 'Two gates');
    await press(page, 'Cancel');
    const start = Date.now();
    const cancelled = (v: ProjectView) => v.runs.some((r) => r.status === 'cancelled');
    while (!cancelled(await project()) && Date.now() - start < SOON) await sleep(30);
    // Long before it would have come to its end.
    expect(Date.now() - start).toBeLessThan(10_000);
    // The one that waited is under way now; it is not waited for.
    await saved((v) => v.runs.some((r) => r.status === 'running'));
    await press(page, 'First');
    await press(page, 'Cancel');
    await saved((v) => v.runs.filter((r) => r.status === 'cancelled').length === 2);
    await press(page, 'Two gates');
  });

  it('exports a study that gives the same numbers on the command line', async () => {
    await page.keyboard.press('1');
    await press(page, 'Detail');
    await press(page, 'Quick');
    await page.keyboard.press('5');
    await press(page, 'Filling', '[role="radio"]');
    const view = await saved((v) => v.variants[1].inputs.detail === 'quick' && v.variants[1].inputs.upTo === 'fill');
    await press(page, 'Run');
    await seeText(page, 'Result up to date', A_RUN);
    const run = (await project()).runs.find((r) => r.variantId === view.variants[1].id && r.status === 'filled');
    const zip = await fetch(`${server.url}/api/variants/${view.variants[1].id}/export`);
    const files = unzipSync(new Uint8Array(await zip.arrayBuffer()));
    for (const [name, bytes] of Object.entries(files)) writeFileSync(path.join(folder, name), bytes);
    const out = path.join(folder, 'results');
    const text = execFileSync(
      process.execPath,
      [path.join(root, 'bin/bellows.mjs'), 'run', path.join(folder, 'study.json'), '--out', out],
      {
        encoding: 'utf8',
      },
    );
    expect(text).toContain('Will it fill?');
    const summary = JSON.parse(readFileSync(path.join(out, 'summary.json'), 'utf8')) as Record<string, number>;
    expect(summary.pressureNeeded_Pa).toBe(run?.summary?.pressureNeeded_Pa);
    expect(summary.fillTime_s).toBe(run?.summary?.fillTime_s);
    expect(summary.nCells).toBe(run?.summary?.nCells);
  });
});

describe('a part of one’s own', () => {
  const file = async (name: string, bytes: Uint8Array | string) => {
    writeFileSync(path.join(folder, name), bytes);
    const input = (await page.waitForSelector('input[type="file"]')) as ElementHandle<HTMLInputElement>;
    await input.uploadFile(path.join(folder, name));
  };

  it('starts empty and says what is missing', async () => {
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await page.type('[aria-label="Name of the new project"]', 'Comb holder');
    await press(page, 'Create');
    await seeText(page, 'There is no part yet');
  });

  it('says what is wrong with a bad file', async () => {
    await press(page, 'Bring in a part');
    await file('notes.stl', 'These are notes about a part, not the part.');
    await seeText(page, 'This is not an STL file.');
    await file('empty.stl', '');
    await seeText(page, 'The file is empty.');
    const plate = box(0.07, 0.03, 0.0025);
    await file('hole.stl', writeStl({ ...plate, triangles: plate.triangles.slice(3) }));
    await seeText(page, 'not watertight');
    await press(page, 'Choose other files');
  });

  it('takes a good one dropped on the page, with the unit guessed and changed', async () => {
    await page.evaluate(
      (bytes) => {
        const dataTransfer = new DataTransfer();
        dataTransfer.items.add(new File([new Uint8Array(bytes)], 'plate.stl'));
        document.body.dispatchEvent(new DragEvent('drop', { dataTransfer, bubbles: true, cancelable: true }));
      },
      [...writeStl(box(0.07, 0.03, 0.0025))],
    );
    await seeText(page, 'guessed from the size: mm');
    await seeText(page, '70.0 × 30.0 × 2.50 mm');
    await press(page, 'inch');
    await seeText(page, '1778 × 762 × 63.5 mm');
    await press(page, 'mm');
    await press(page, 'Use this part');
    await seeShown(page, 'clay');
    await seeText(page, 'There is no gate.');
  });

  it('cannot run without a gate, then runs with one', async () => {
    await chord(page, 'Control', 'Enter');
    await seeText(page, 'Choose "Place gate"');
    await page.keyboard.press('g');
    await page.mouse.click(660, 385);
    await page.keyboard.press('Escape');
    await saved((v) => v.variants[0].inputs.gates.length === 1);
    await page.keyboard.press('5');
    await typeInto(page, 'Pressure limit', '0');
    await seeText(page, 'The pressure limit is zero');
    await typeInto(page, 'Pressure limit', '0,15');
    await saved((v) => v.variants[0].inputs.cycle.pressureLimit === 1.5e5);
    await press(page, 'Run');
    await seeText(page, 'Short shot', A_RUN);
    await press(page, 'Add a gate where it fills last');
    await saved((v) => v.variants.length === 2 && v.runs.length === 2);
    const view = await saved((v) => v.runs.every((r) => r.status === 'filled' || r.status === 'stalled'));
    expect(view.variants[1].inputs.gates).toHaveLength(2);
    expect(view.runs[0].summary?.shareFilled).toBeGreaterThan(view.runs[1].summary?.shareFilled ?? 1);
  });
});
