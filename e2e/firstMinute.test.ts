import { AxePuppeteer } from '@axe-core/puppeteer';
import type { Browser, Page } from 'puppeteer-core';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { writeStl } from '../src/core/formats/stl';
import { hasResults } from '../src/runtime/wire';
import { openBox } from '../verification/solids';
import {
  A_RUN,
  App,
  chord,
  openBrowser,
  openPage,
  pageKey,
  pictureOnFailure,
  press,
  projectOf,
  savedIn,
  SOON,
  seeShown,
  seeText,
  sleep,
  textOf,
  typeInto,
} from './app';

const server = new App();
let browser: Browser;
let page: Page;
let errors: string[];
beforeAll(async () => {
  // As after the first start: the demo's results are worked out, standing back for what the page does.
  await server.start({ BELLOWS_DEMO: 'full', BELLOWS_NICE: '19' });
  browser = await openBrowser();
  ({ page, errors } = await openPage(browser, server.url));
});
afterAll(async () => {
  await browser?.close();
  await server.stop();
});
afterEach(({ task }) => pictureOnFailure(page, task.result?.state));

const clock = async () => (await textOf(page, '[data-testid="clock"]')).replace(/\s+/g, ' ');
const focusIn = (selector: string) =>
  page.evaluate((s) => document.activeElement?.closest(s) !== null, selector) as Promise<boolean>;
const chips = () =>
  page.$$eval('[aria-label="Looked at lately"] button', (all) => all.map((e) => e.textContent?.trim()));

const cyclePressure = ({ variants }: Awaited<ReturnType<typeof projectOf>>) => {
  const { packing } = variants[0].inputs.cycle;
  return packing.by === 'constant' ? packing.pressure : null;
};

/** Drops a file on the page. */
const drop = (name: string, content: Uint8Array) =>
  page.evaluate(
    (called: string, bytes: number[]) => {
      const data = new DataTransfer();
      data.items.add(new File([new Uint8Array(bytes)], called));
      window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }));
    },
    name,
    [...content],
  );

const STATIONS = ['1', '2', '3', '4', '5', '6', '7'] as const;

/** What axe finds on the page as it is, serious or not. */
async function findings(): Promise<string[]> {
  const { violations, passes } = await new AxePuppeteer(page).setLegacyMode(true).analyze();
  expect(passes.length).toBeGreaterThan(15);
  return violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(' ')}`);
}

describe('the first minute', () => {
  it('begins with the projects, each with a picture of its part, and nothing that axe finds', async () => {
    await page.waitForFunction(
      (n: number) => document.querySelectorAll('[data-testid="part-picture"]').length === n,
      {},
      9,
    );
    const drawn = await page.$$eval('[data-testid="part-picture"]', (all) =>
      all.map((e) => (e as HTMLImageElement).src.length),
    );
    expect(Math.min(...drawn)).toBeGreaterThan(1000);
    expect(await findings()).toEqual([]);
  });

  it('shows a first result without a press of Run, and its mistake beside it', async () => {
    await press(page, 'Feeder tray');
    await seeShown(page, 'clay');
    await page.keyboard.press('6');
    await page.waitForSelector('nav[aria-label="Verdicts"] [aria-label="Will it fill? Good"]', { timeout: A_RUN });
    const { variants, runs } = await projectOf(page, server);
    expect(variants.map((v) => v.name)).toEqual(['First', 'Packing let go early']);
    expect(runs.every((r) => r.aside)).toBe(true);
    // The rest is worked out meanwhile, and what there is stands until then.
    await seeText(page, 'its answers are those so far');
    await seeText(page, 'First result:');
    expect(await page.$$eval('button', (all) => all.filter((e) => e.textContent?.trim() === 'Run').length)).toBe(1);
  });

  it('verdicts stand at a glance, and each leads to its answer', async () => {
    await press(page, 'What machine does it need?');
    expect(await focusIn('article[aria-label="What machine does it need?"]')).toBe(true);
    expect(await textOf(page, 'article[aria-label="What machine does it need?"]')).toContain('Clamp force');
    // Folded again by its head.
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      () => !document.querySelector('article[aria-label="What machine does it need?"]')?.textContent?.includes('Why'),
    );
  });

  it('a field is shown at the instant at which it says most, and named instants are one press away', async () => {
    await press(page, 'Pressure', '[role="radio"]');
    await seeShown(page, 'pressure', SOON);
    expect(await clock()).toMatch(/^0\.9\d+ of /);
    const atSwitchover = await clock();
    await press(page, 'full', '[aria-label="Instants of the shot"] button');
    expect(await clock()).not.toBe(atSwitchover);
    await press(page, 'switchover', '[aria-label="Instants of the shot"] button');
    expect(await clock()).toBe(atSwitchover);
  });

  it('fields are found by their words, and those looked at last are offered', async () => {
    await page.type('[aria-label="Find a field"]', 'front temp');
    await page.waitForFunction(() => document.querySelectorAll('[role="radio"][value]').length > 0);
    await page.keyboard.press('Enter');
    await seeShown(page, 'frontTemperature', SOON);
    await page.keyboard.press('Escape');
    expect(await page.$eval('[aria-label="Find a field"]', (e) => (e as HTMLInputElement).value)).toBe('');
    expect(await chips()).toContain('Pressure');
    await press(page, 'Pressure', '[aria-label="Looked at lately"] button');
    await seeShown(page, 'pressure', SOON);
    // The list is one stop of the Tab key, and arrow keys go through it.
    await page.focus('[aria-label="Field shown on the part"]');
    await page.keyboard.press('ArrowDown');
    await seeShown(page, 'temperature', SOON);
    await page.keyboard.press('ArrowUp');
    await seeShown(page, 'pressure', SOON);
  });

  it('the scale spans the shot, the instant, or what is typed', async () => {
    const range = () =>
      page.$eval('[data-legend-range]', (e) => e.getAttribute('data-legend-range')!.split(',').map(Number));
    const whole = await range();
    await press(page, 'This instant', '[role="radio"]');
    await page.waitForFunction(
      (before: string) => document.querySelector('[data-legend-range]')?.getAttribute('data-legend-range') !== before,
      {},
      whole.join(),
    );
    const now = await range();
    expect(now[0]).toBeGreaterThanOrEqual(whole[0]);
    expect(now[1]).toBeLessThanOrEqual(whole[1]);
    await press(page, 'Upper end of the scale');
    await page.keyboard.type('-3');
    await page.keyboard.press('Enter');
    expect(await page.$eval('[aria-label="Upper end of the scale"]', (e) => e.getAttribute('aria-invalid'))).toBe(
      'true',
    );
    await page.keyboard.down('Control');
    await page.keyboard.press('a');
    await page.keyboard.up('Control');
    await page.keyboard.type('8,5');
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      () =>
        document.querySelector('[data-legend-range]')?.getAttribute('data-legend-range')?.split(',')[1] === '8500000',
    );
    await press(page, 'Ends as they come');
    await press(page, 'Whole shot', '[role="radio"]');
    // Lines at round values, and what lies below a typed one is left away.
    await press(page, 'Isolines');
    // The scale is that of the filling, or of the whole shot if that has come in meanwhile.
    await page.waitForFunction(() => /lines every [125]\.0 MPa/.test(document.body.innerText), { timeout: SOON });
    await press(page, 'Isolines');
    await press(page, 'Lowest value shown');
    await page.keyboard.type('50 bar');
    await page.keyboard.press('Enter');
    await page.waitForSelector('[aria-label="Lowest value shown: 5.00"]');
    await press(page, 'Show all');
    await page.waitForSelector('[aria-label="Lowest value shown: all"]');
  });

  it('everything is told in the units of the reader, and taken in any that fit', async () => {
    const article = 'article[aria-label="Will it fill?"]';
    const inMetric = await textOf(page, article);
    expect(inMetric).toContain('MPa');
    const legend = () => textOf(page, '[aria-label="Legend: Pressure"]');
    expect(await legend()).toContain('MPa');
    await press(page, 'Units and colours');
    await press(page, 'All in inch and pound');
    await seeText(page, ' psi');
    await seeShown(page, 'pressure', SOON);
    await page.keyboard.press('Escape');
    const inInches = await textOf(page, article);
    expect(inInches).toContain('psi');
    expect(inInches).not.toMatch(/\d (MPa|mm|°C)\b/);
    expect(await legend()).toMatch(/psi/);
    // The same number, told otherwise.
    const number = (text: string, unit: string) => Number(text.match(new RegExp(`([\\d.]+) ${unit}`))![1]);
    expect(number(inInches, 'psi') / number(inMetric, 'MPa') / 145.038).toBeCloseTo(1, 1);
    await pageKey(page, '5');
    await typeInto(page, 'Packing pressure', '30 bar');
    await savedIn(page, server, (v) => cyclePressure(v) === 3e6);
    await typeInto(page, 'Packing pressure', '30 l/min');
    await seeText(page, '“30 l/min” is no value for this');
    await page.keyboard.press('Escape');
    await chord(page, 'Control', 'z');
    await press(page, 'Units and colours');
    await press(page, 'Dusk');
    await press(page, 'All metric');
    await page.keyboard.press('Escape');
    // Kept by the browser.
    const kept = await page.evaluate(() => JSON.parse(localStorage.getItem('bellows.reader')!) as unknown);
    expect(kept).toMatchObject({ colours: 'dusk', units: { length: 'mm', pressure: 'MPa' } });
    await pageKey(page, '6');
    await seeText(page, 'MPa');
  });

  it('F1 explains what has the focus, words lead on, and the help is searched', async () => {
    await pageKey(page, '5');
    await page.focus('[data-help="input:packing pressure"] input');
    await page.keyboard.press('F1');
    await seeText(page, 'Pressure with which melt is pushed after the cavity is full.');
    await page.type('[aria-label="Search the help"]', 'weld');
    await press(page, 'Weld line', '[data-testid="help"] button');
    await seeText(page, 'Seam where two fronts met');
    expect(await findings(), 'help').toEqual([]);
    await press(page, 'Close the help');
  });

  it('every station says what stands at its default, and leads on', async () => {
    await pageKey(page, '1');
    for (const name of ['Resin', 'Feed', 'Cooling', 'Cycle', 'Answers']) {
      await press(page, `Next: ${name}`);
      await page.waitForSelector(`nav[aria-label="Stations"] [aria-current="page"][title^="${name}"]`);
    }
  });

  it('a guide leads through a first job, can be left, and goes on where it was', async () => {
    await press(page, 'Help');
    await press(page, 'Guide through a first job');
    await seeText(page, 'A part comes in');
    await press(page, 'Next', '.driver-popover button');
    await seeText(page, 'What it is made of');
    await press(page, 'Next', '.driver-popover button');
    await seeText(page, 'Where the melt comes in');
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.querySelector('.driver-popover'));
    await press(page, 'Help');
    await press(page, 'Guide: go on at step 3 of 10');
    await seeText(page, 'Where the melt comes in');
    await page.keyboard.press('Escape');
    await page.waitForFunction(() => !document.querySelector('.driver-popover'));
    await pageKey(page, '6');
  });

  it('axe finds nothing in what opens over the page, nor on the sheets of the resin', async () => {
    const over = async (open: () => Promise<unknown>, what: string) => {
      await open();
      await page.waitForSelector('[role="dialog"]');
      await sleep(300);
      expect(await findings(), what).toEqual([]);
      await page.keyboard.press('Escape');
      await page.waitForFunction(() => !document.querySelector('[role="dialog"]'));
    };
    await pageKey(page, '6');
    await over(() => page.keyboard.press('v'), 'variants');
    await over(() => chord(page, 'Control', 'k'), 'actions');
    await over(() => press(page, 'How verdicts are made'), 'limits');
    await over(() => press(page, 'Units and colours'), 'units');
    await pageKey(page, '1');
    await over(() => press(page, 'Bring in files'), 'files');
    await pageKey(page, '2');
    for (const sheet of ['Table', 'Constants', 'Fit', 'Shrinkage', 'Others', 'Curves']) {
      await press(page, sheet, '[aria-label="Sheet"] button');
      await sleep(300);
      expect(await findings(), sheet).toEqual([]);
    }
  });

  it('resins stand in a table that any column sorts, and a row of it is taken', async () => {
    await press(page, 'Table', '[aria-label="Sheet"] button');
    const first = () => page.$eval('table[aria-label="Resins"] tbody tr', (e) => e.textContent ?? '');
    await press(page, 'Melt', 'table[aria-label="Resins"] th button');
    const hottest = await first();
    await press(page, 'Melt', 'table[aria-label="Resins"] th button');
    await page.waitForFunction(() => document.querySelector('th[aria-sort="ascending"]'));
    expect(await first()).not.toBe(hottest);
    await page.type('[aria-label="Narrow the table"]', 'pp hollin');
    await page.waitForFunction(() => document.querySelectorAll('table[aria-label="Resins"] tbody tr').length < 10);
    const name = await page.$eval('table[aria-label="Resins"] tbody tr:not([aria-selected="true"]) button', (e) => {
      (e as HTMLElement).click();
      return e.textContent;
    });
    await page.waitForFunction(
      (n: string | null) => document.querySelector('tr[aria-selected="true"]')?.textContent?.includes(n ?? '–'),
      {},
      name,
    );
    await chord(page, 'Control', 'z');
    await pageKey(page, '6');
  });

  it('the keyboard skips past the bars, and axe finds nothing at any station, light and dark', async () => {
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.evaluate(() => window.getSelection()?.removeAllRanges());
    await page.focus('nav[aria-label="Skip"] button:nth-child(3)');
    await page.keyboard.press('Enter');
    expect(await focusIn('#reading-place')).toBe(true);
    for (const theme of ['light', 'dark']) {
      for (const station of theme === 'light' ? STATIONS : STATIONS.filter((_, k) => k % 2)) {
        await pageKey(page, station);
        await sleep(500);
        expect(await findings(), `station ${station}, ${theme}`).toEqual([]);
      }
      await page.click('[aria-label="Light or dark page"]');
    }
    await page.keyboard.press('?');
    await page.waitForSelector('[role="dialog"]');
    expect(await findings(), 'shortcuts').toEqual([]);
    await page.keyboard.press('Escape');
  });

  it('a run that somebody asks for comes first', async () => {
    await pageKey(page, '6');
    await press(page, 'Packing let go early');
    await press(page, 'Run', 'button');
    await page.waitForFunction(() =>
      [...document.querySelectorAll('button')].some((b) => b.textContent?.trim() === 'Cancel'),
    );
    for (;;) {
      const { runs, variants } = await projectOf(page, server);
      const asked = runs.filter((r) => r.variantId === variants[1].id && !hasResults(r.status));
      // Where one stood by, that is the one that is asked for.
      expect(asked).toHaveLength(1);
      expect(asked[0].aside).toBe(false);
      if (asked[0].status === 'running') break;
      await sleep(200);
    }
    await press(page, 'Cancel');
    await seeText(page, 'Run cancelled');
  });

  it('a file that is dropped on the start page becomes a project, and one press leads to its first answer', async () => {
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await drop('small-box.stl', new Uint8Array(writeStl(openBox(0.06, 0.04, 0.02, 0.002))));
    await press(page, 'Use this part');
    await seeShown(page, 'clay');
    expect((await projectOf(page, server)).project.name).toBe('small-box');
    expect(await findings()).toEqual([]);
    await press(page, 'First answer');
    await page.waitForSelector('nav[aria-label="Verdicts"]', { timeout: A_RUN });
    const { variants, runs } = await projectOf(page, server);
    expect(variants[0].inputs).toMatchObject({ detail: 'quick', gates: [{ id: 'G1' }] });
    expect(runs).toHaveLength(1);
    // The search puts the gate near the middle of the floor, where the ways of the melt are even.
    const [x, y] = variants[0].inputs.gates[0].position;
    expect(Math.abs(x)).toBeLessThan(0.012);
    expect(Math.abs(y)).toBeLessThan(0.012);
    // A section is pulled by its arrows, and laid along a face that is clicked.
    await page.keyboard.press('s');
    const at = () => page.$eval('[role="slider"][aria-label="Place of the section"]', (e) => e.ariaValueNow);
    expect(await at()).toBe('0.5');
    await press(page, 'Lay it along a face');
    const box = (await (await page.$('[data-testid="viewport"]'))!.boundingBox())!;
    // Somewhere on what is left of the part: beside it a click does nothing.
    for (const [x, y] of [
      [0.42, 0.5],
      [0.36, 0.44],
      [0.45, 0.6],
      [0.3, 0.5],
    ]) {
      await page.mouse.move(box.x + x * box.width, box.y + y * box.height, { steps: 4 });
      await sleep(300);
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
      await sleep(300);
      if ((await at()) !== '0.5') break;
    }
    expect(await at()).not.toBe('0.5');
    await page.keyboard.press('s');
    await chord(page, 'Control', 'z');
    await savedIn(page, server, (v) => v.variants[0].inputs.gates.length === 0);
  });

  it('a study that has gone out comes back as a project where it is dropped', async () => {
    const { variants } = await projectOf(page, server);
    const bytes = await (await fetch(`${server.url}/api/variants/${variants[0].id}/export`)).arrayBuffer();
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await drop('small-box.zip', new Uint8Array(bytes));
    await seeText(page, 'small-box, First');
    await seeShown(page, 'clay');
    const back = await projectOf(page, server);
    expect(back.variants[0].inputs.bodies[0].mesh).toBe(variants[0].inputs.bodies[0].mesh);
    // A project with a branch goes out by its menu and comes back as its tree.
    await pageKey(page, 'b');
    await savedIn(page, server, (v) => v.variants.length === 2);
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await press(page, 'Actions of small-box, First');
    const way = await page.waitForSelector('[role="menuitem"][href$="/export"]');
    const whole = await (await fetch(await way!.evaluate((a) => (a as HTMLAnchorElement).href))).arrayBuffer();
    await page.keyboard.press('Escape');
    await drop('small-box-first.zip', new Uint8Array(whole));
    await page.waitForFunction(() => window.location.pathname.startsWith('/project/'));
    await seeShown(page, 'clay');
    const tree = await projectOf(page, server);
    expect(tree.project.name).toBe('small-box, First');
    expect(tree.variants.map((v) => v.parentId)).toEqual([null, tree.variants[0].id]);
    await page.goto(server.url, { waitUntil: 'networkidle2' });
    await drop('broken.zip', new Uint8Array([1, 2, 3]));
    await seeText(page, 'The file is no whole zip archive.');
    expect(errors).toEqual([]);
  });
});
