import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'puppeteer-core';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Inputs } from '../src/core/model/study';
import {
  A_RUN,
  choose,
  chord,
  pageKey,
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

let page: Page;
let errors: string[];
const { server, folder } = opened((session) => ({ page, errors } = session));
const station = (key: '2' | '3' | '5' | '6' | '7') => pageKey(page, key);
/** Waits until the newest variant is so on the server. */
const saved = (check: (inputs: Inputs) => boolean) =>
  savedIn(page, server, ({ variants }) => check(variants[variants.length - 1].inputs));
const table = () => textOf(page, '[data-testid="compared"]');
const run = async () => {
  await chord(page, 'Control', 'Enter');
  await seeText(page, 'Result up to date', A_RUN);
};
const blur = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

beforeAll(async () => {
  await press(page, 'Queen cage lid');
  await seeShown(page, 'clay');
  await station('5');
  await press(page, 'Filling', '[role="radio"]');
  await saved((i) => i.upTo === 'fill');
});

describe('variants side by side', () => {
  it('one alone is not compared, and says what is missing', async () => {
    await run();
    await station('7');
    await seeText(page, 'Choose a second variant with a result');
  });

  it('a branch with a hotter melt stands beside what it was branched from', async () => {
    await pageKey(page, 'b');
    await seeText(page, 'Variant');
    await station('5');
    await typeInto(page, 'Melt', '275');
    await saved((i) => i.cycle.meltTemperature === 548.15);
    await blur();
    await run();
    await station('7');
    await press(page, 'Numbers', '[role="radio"]');
    await page.waitForSelector('[data-testid="compared"]');
    const text = await table();
    expect(text).toMatch(/Will it fill\?\s+Good/);
    expect(text).toMatch(/Pressure needed[\s\S]*?MPa[\s\S]*?better/);
    expect(text).toContain('(first)');
  });

  it('both stand side by side, linked; what is let go of goes its own way', async () => {
    await press(page, 'Views', '[role="radio"]');
    const shows = (pane: number, what: string) =>
      page.waitForSelector(`[data-testid="pane-${pane}"][data-shown="${what}"][aria-busy="false"]`);
    await shows(1, 'fillTime');
    await shows(2, 'fillTime');
    const scale = () =>
      page.$$eval('[data-testid="pane-scale"]', (all) => all.map((e) => (e as HTMLElement).innerText));
    const [one, other] = await scale();
    expect(one).toBe(other);
    await choose(page, 'Field compared', 'Pressure');
    await shows(2, 'pressure');
    await press(page, 'Own', '[role="radio"]');
    await page.waitForFunction(() => {
      const all = [...document.querySelectorAll<HTMLElement>('[data-testid="pane-scale"]')].map((e) => e.innerText);
      return all.length === 2 && all[0] !== all[1];
    });
    await press(page, 'In common', '[role="radio"]');
    await press(page, 'Field', 'button[aria-pressed]');
    await choose(page, 'Field of this view', 'Fill time');
    await shows(2, 'fillTime');
    await shows(1, 'pressure');
    await press(page, 'Field', 'button[aria-pressed]');
    await shows(2, 'pressure');
    // The play head of the strip moves both, unless the clock is let go.
    await press(page, 'Clock', 'button[aria-pressed]');
    await page.waitForSelector('input[aria-label="Moment of this view"]');
    await press(page, 'Clock', 'button[aria-pressed]');
    await page.waitForFunction(() => !document.querySelector('input[aria-label="Moment of this view"]'));
  });

  it('the difference stands on the part of the first, the divider is moved by keys alone', async () => {
    await press(page, 'Difference', '[role="radio"]');
    await page.waitForSelector('[data-testid="pane-2"][data-shown="pressure difference"]');
    const legend = await page.$eval('[aria-label^="Legend: Pressure, difference"]', (e) => {
      return e.getAttribute('data-legend-range')!.split(',').map(Number);
    });
    expect(legend[0]).toBe(-legend[1]);
    expect(legend[1]).toBeGreaterThan(0);
    // Temperatures differ by kelvins, whatever their zero.
    await choose(page, 'Field compared', 'Temperature at the front');
    await page.waitForSelector('[data-testid="pane-2"][data-shown="frontTemperature difference"]');
    expect(await page.$eval('[data-testid="pane-2"] ~ div [data-testid="pane-scale"]', (e) => e.textContent)).toMatch(
      / K$/,
    );
    await choose(page, 'Field compared', 'Pressure');
    await page.waitForSelector('[data-testid="pane-2"][data-shown="pressure difference"]');
    await press(page, 'Divider', '[role="radio"]');
    await page.focus('[role="separator"][aria-label^="Divider"]');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    await page.waitForSelector('[role="separator"][aria-valuenow="54"]');
    await page.keyboard.press('Home');
    await page.waitForSelector('[role="separator"][aria-valuenow="0"]');
    await press(page, 'Row', '[role="radio"]');
    await press(page, 'Values', '[role="radio"]');
    await press(page, 'Numbers', '[role="radio"]');
  });

  it('only what differs is left where one wants that, and goes out as a table', async () => {
    const rows = () => page.$$eval('[data-testid="compared"] tbody tr', (list) => list.length);
    const all = await rows();
    await press(page, 'Only what differs', 'label');
    await page.waitForFunction(
      (n: number) => document.querySelectorAll('[data-testid="compared"] tbody tr').length < n,
      {},
      all,
    );
    await press(page, 'Only what differs', 'label');
    await downloadsTo(page, folder);
    await press(page, 'CSV');
    const file = path.join(folder, 'comparison.csv');
    let text = '';
    for (let k = 0; k < 50 && !text; k++) {
      await sleep(100);
      text = await Promise.resolve()
        .then(() => readFileSync(file, 'utf8'))
        .catch(() => '');
    }
    expect(text.split('\n')[0]).toMatch(/^number,unit,First,First ±,Variant,/);
    expect(text).toMatch(/Pressure needed,MPa,\d/);
  });

  it('charts have a line a run, and inputs say what differs and make it alike', async () => {
    await press(page, 'Charts', '[role="radio"]');
    await page.waitForSelector('canvas[aria-label="Nozzle pressure over time of the compared runs"]');
    await choose(page, 'Charted', 'Flow rate');
    await page.waitForSelector('canvas[aria-label="Flow rate over time of the compared runs"]');
    await press(page, 'Inputs', '[role="radio"]');
    await seeText(page, 'Melt temperature');
    await seeText(page, '275 °C');
    await press(page, 'Variant: default');
    await saved((i) => i.cycle.meltTemperature === null);
    await chord(page, 'Control', 'z');
    await saved((i) => i.cycle.meltTemperature === 548.15);
  });

  it('what did it is tried: each change alone, and all together', async () => {
    await press(page, 'What did it?', '[role="radio"]');
    await seeText(page, '1 input differs');
    await press(page, 'Try them');
    await page.waitForSelector('[data-testid="causes"]', { timeout: A_RUN });
    const said = await textOf(page, '[data-testid="causes"]');
    expect(said).toMatch(/MPa in First, [\d.]+ MPa in Variant, at Detail quick/);
    expect(said).toMatch(/Melt temperature[\s\S]+−[\d.]+ MPa[\s\S]+All together/);
    expect(said).toContain('One change alone');
  });

  it('an earlier run of a variant is still there to compare', async () => {
    await station('5');
    await typeInto(page, 'Melt', '280');
    await saved((i) => i.cycle.meltTemperature === 553.15);
    await blur();
    await run();
    await station('7');
    await page.waitForSelector('[role="combobox"][aria-label="Run of Variant"]');
    await press(page, 'Numbers', '[role="radio"]');
    const newest = await table();
    const other = await page.evaluate(() => {
      (document.querySelector('[role="combobox"][aria-label="Run of Variant"]') as HTMLElement).focus();
      return document.activeElement?.getAttribute('aria-label');
    });
    expect(other).toBe('Run of Variant');
    await page.keyboard.press('Enter');
    /** Waits until the option that an arrow key leads on from is this one. */
    const onOption = (text: string) =>
      page.waitForFunction(
        (wanted: string) => {
          const { activeElement: e } = document;
          return e?.getAttribute('role') === 'option' && (e as HTMLElement).innerText.includes(wanted);
        },
        {},
        text,
      );
    await onOption('Newest result');
    await page.keyboard.press('ArrowDown');
    await onOption('Melt temperature 275');
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      (before: string) => {
        const now = document.querySelector<HTMLElement>('[data-testid="compared"]')?.innerText;
        return now !== undefined && now !== before;
      },
      {},
      newest,
    );
    await choose(page, 'Run of Variant', 'Newest result');
  });

  it('all variants stand in a tree, with their marks; an earlier result is looked at from there', async () => {
    await pageKey(page, 'v');
    await page.waitForSelector('[role="treeitem"][aria-level="2"][aria-label="Variant"]');
    await page.click('[aria-label="Star Variant"]');
    await savedIn(page, server, ({ variants }) => variants[1].starred);
    await page.click('[aria-label="Actions of Variant"]');
    await press(page, 'Note', '[role="menuitem"]');
    await page.waitForSelector('textarea[aria-label="Note on Variant"]');
    await page.type('textarea[aria-label="Note on Variant"]', 'Hotter, and watch the cycle');
    await chord(page, 'Control', 'Enter');
    await savedIn(page, server, ({ variants }) => variants[1].note === 'Hotter, and watch the cycle');
    await page.click('[aria-label="Actions of Variant"]');
    await press(page, 'Show under', '[role="menuitem"]');
    await press(page, 'none', '[role="menuitem"]');
    await savedIn(page, server, ({ variants }) => variants[1].parentId === null);
    await press(page, 'Its runs', '[role="treeitem"][aria-label="Variant"] button');
    await page.waitForFunction(() => document.querySelectorAll('[aria-label^="Look at the result of"]').length === 2);
    const earlier = (await page.$$('[aria-label^="Look at the result of"]'))[1];
    await earlier.click();
    await seeText(page, 'Back to the newest');
    await seeShown(page, 'pressure');
    await press(page, 'Back to the newest');
    await page.waitForFunction(() => !document.body.innerText.includes('Back to the newest'));
    // Deleted and brought back from the same place.
    await pageKey(page, 'b');
    const three = await savedIn(page, server, ({ variants }) => variants.length === 3);
    await pageKey(page, 'v');
    await page.waitForSelector('[role="treeitem"][aria-label="Variant 2"]');
    await page.click('[aria-label="Actions of Variant 2"]');
    await press(page, 'Delete', '[role="menuitem"]');
    await savedIn(page, server, ({ variants }) => variants.length === 2);
    await press(page, 'Bring back');
    const back = await savedIn(page, server, ({ variants }) => variants.length === 3);
    expect(back.variants[2].id).toBe(three.variants[2].id);
    await page.keyboard.press('Escape');
    await station('7');
    await press(page, 'Numbers', '[role="radio"]');
    await page.waitForSelector('[data-testid="compared"]');
  });

  it('another is made the first, and all of it leaves no error on the page', async () => {
    await press(page, 'Make first');
    await page.waitForFunction(() =>
      document.querySelector('[data-testid="compared"] thead')?.textContent?.includes('Variant (first)'),
    );
    expect(errors).toEqual([]);
  });

  it('the start page shows the variants as a tree, each a way into the project', async () => {
    const ids = (await projectOf(page, server)).variants.map((v) => v.id);
    const address = page.url();
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await press(page, 'Variants of Queen cage lid');
    const rows = await page.$$eval('[data-testid="project-variants"] li', (all) =>
      all.map((li) => [li.textContent, li.querySelector('[role="img"]')?.getAttribute('aria-label') ?? '']),
    );
    expect(rows).toHaveLength(3);
    expect(rows[0][1]).toContain('Will it fill? good');
    expect(rows.filter(([text]) => text?.includes('not run yet'))).toHaveLength(1);
    await page.click(`[data-testid="project-variants"] a[href$="${ids[1]}"]`);
    await page.waitForFunction((there: string) => window.location.href === there, {}, address);
    await seeText(page, 'Result up to date');
    await pageKey(page, 'v');
    await page.waitForSelector('[role="treeitem"][aria-label="Variant"] [aria-current="true"]');
    await page.keyboard.press('Escape');
    expect(errors).toEqual([]);
  });
});
