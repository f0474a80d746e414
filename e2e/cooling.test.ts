import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { A_RUN, chord, pageKey, press, savedIn, seeShown, seeText, textOf, typeInto } from './app';
import { opened } from './opened';
import { openSmallBox } from './smallBox';
import { expectWhole } from './whole';

let page: Page;
let errors: string[];
const { server: app, folder } = opened((session) => ({ page, errors } = session));

const rowOf = (id: string) =>
  page.$$eval(
    'table[aria-label="Circuit lines"] tbody tr',
    (rows, wanted) => rows.map((r) => (r as HTMLElement).innerText).find((t) => t.startsWith(wanted)) ?? '',
    id,
  );
const pressureOf = async () => Number(/at ([\d.]+) bar/.exec(await textOf(page, '[data-testid="network-U1"]'))?.[1]);

/** Opens a list by its label and takes an option. */
async function choose(label: string, option: string): Promise<void> {
  await press(page, label);
  await press(page, option);
}

describe('cooling of the tray, from nothing to the hot spot', () => {
  it('lays channels out, and the network answers while they are changed', async () => {
    await press(page, 'Feeder tray');
    await page.waitForSelector('[data-testid="viewport"]');
    await press(page, 'Detail');
    await press(page, 'Quick');
    await page.keyboard.press('4');
    await press(page, 'Add a mould with channels');
    await seeText(page, 'Nothing crosses, every circuit is closed.');
    expect(await rowOf('A1')).toMatch(/Channel\s+8\.00/);
    // A head sorts, numbers in names by size; arrow keys go from row to row.
    const table = '[aria-label="Circuit lines"]';
    const lines = () =>
      page.$$eval(`${table} tbody tr:not([aria-hidden]) button`, (all) => all.map((e) => e.textContent ?? ''));
    await press(page, 'Line', `${table} th button`);
    const ascending = await lines();
    expect(ascending[0]).toBe('A1');
    await press(page, 'Line', `${table} th button`);
    expect(await lines()).toEqual(ascending.toReversed());
    await press(page, 'Line', `${table} th button`);
    await press(page, ascending[0], `${table} button`);
    await page.keyboard.press('ArrowDown');
    await page.waitForFunction(
      () => document.activeElement?.closest('[aria-label="Circuit lines"] [aria-selected="true"]') !== null,
    );
    await press(page, ascending[1], `${table} button`);
    const before = await pressureOf();
    expect(before).toBeGreaterThan(0.05);
    // Narrower bores need more pressure for the same flow.
    await typeInto(page, 'Diameter', '6');
    await page.waitForFunction(
      (was: number) =>
        Number(/at ([\d.]+) bar/.exec(document.querySelector('[data-testid="network-U1"]')?.textContent ?? '')?.[1]) >
        2 * was,
      {},
      before,
    );
    await chord(page, 'Control', 'z');
    await page.waitForFunction(
      (was: number) =>
        Math.abs(
          Number(/at ([\d.]+) bar/.exec(document.querySelector('[data-testid="network-U1"]')?.textContent ?? '')?.[1]) -
            was,
        ) < 1e-9,
      {},
      before,
    );
  });

  it('a baffle on a channel carries the coolant of its line', async () => {
    await press(page, 'A2');
    await press(page, 'Add baffle');
    await seeText(page, 'Baffle W1');
    await typeInto(page, 'Height', '38');
    await savedIn(page, app, (view) => {
      const well = view.variants[0].inputs.cooling?.lines.find((l) => l.id === 'W1');
      return well !== undefined && Math.abs(well.from[2] - well.to[2] - 0.038) < 1e-9;
    });
    const facts = await textOf(page, '[data-testid="line-facts"]');
    expect(facts).toContain('turbulent');
    const [flow, host] = [await rowOf('W1'), await rowOf('A2')].map((t) => /\s([\d.]+)\s+[\d,]+$/.exec(t.trim())?.[1]);
    expect(flow).toBeDefined();
    expect(flow).toBe(host);
  });

  it('hoses connect what was side by side, and the flow changes at once', async () => {
    await choose('How channels are connected', 'In parallel');
    await page.waitForFunction(() => document.querySelectorAll('button[aria-label^="Hose from"]').length === 16);
    const alone = await rowOf('B1');
    // From the far end of B1 to the near end of B2.
    const ends = await page.$$('button[aria-label="Hose from B1"]');
    await ends[1].click();
    const to = await page.waitForSelector('button[aria-label="Hose to B2"]');
    await to?.click();
    await page.waitForFunction(() => document.querySelectorAll('button[aria-label^="Hose from"]').length === 14);
    await savedIn(
      page,
      app,
      (view) => view.variants[0].inputs.cooling?.lines.some((l) => l.kind.as === 'hose') === true,
    );
    expect(await rowOf('B1')).not.toBe(alone);
    await seeText(page, 'H1');
    await choose('How channels are connected', 'In series');
    await seeText(page, 'Nothing crosses, every circuit is closed.');
  });

  it('says where a channel runs into the cavity, and does not run', async () => {
    await press(page, 'B1');
    await typeInto(page, 'From Z', '5');
    await typeInto(page, 'To Z', '5');
    await seeText(page, 'Line B1 runs into the cavity.');
    await chord(page, 'Control', 'z');
    await chord(page, 'Control', 'z');
    await seeText(page, 'Nothing crosses, every circuit is closed.');
    await typeInto(page, 'Sent at', '-5');
    await seeText(page, 'freezes at 0');
    await chord(page, 'Control', 'z');
  });

  it('runs, tells the hot spot and shows the mould on both sides of the walls', async () => {
    // A deep box, of which a run takes less: its core is far from every channel.
    await page.goto(app.url, { waitUntil: 'networkidle2' });
    await openSmallBox(page, app, folder);
    await pageKey(page, '4');
    await press(page, 'Add a mould with channels');
    await seeText(page, 'Nothing crosses, every circuit is closed.');
    await press(page, 'Cycle');
    await press(page, 'To ejection');
    await press(page, 'Cooling');
    await chord(page, 'Control', 'Enter');
    await page.waitForSelector('[data-testid="mould-facts"]', { timeout: A_RUN });
    const facts = await textOf(page, '[data-testid="mould-facts"]');
    const hottest = Number(/Hottest place\s+([\d.]+) °C/.exec(facts)?.[1]);
    const mean = Number(/On average\s+([\d.]+) °C/.exec(facts)?.[1]);
    expect(hottest).toBeGreaterThan(mean + 5);
    expect(mean).toBeGreaterThan(26);
    expect(Number(/Balance off by\s+([\d.]+) %/.exec(facts)?.[1])).toBeLessThan(0.5);
    expect(await textOf(page, '[data-testid="cycle-split"]')).toMatch(/Cooling/);
    await press(page, 'Answers');
    await press(page, 'Mould surface temperature');
    await seeShown(page, 'mouldSurface');
    await page.keyboard.press('s');
    await seeText(page, 'Tilt');
    await page.keyboard.press('s');
    await press(page, 'Between both sides of the wall');
    await seeShown(page, 'mouldDifference');
    await press(page, 'How long must it cool?');
    await seeText(page, 'the coolant takes');
    await seeText(page, 'Copper alloy at the hot spot');
    expect(await textOf(page, '[data-testid="cooling-share"]')).toMatch(/Cooling takes \d+ %/);
    await expectWhole(app);
    expect(errors).toEqual([]);
  });
});
