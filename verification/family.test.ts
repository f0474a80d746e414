import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { defaultFeed } from '../src/core/model/feed';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { withDiameters } from '../src/core/pipeline/branches';
import { balanceStudy, type BalanceAsk, type BalanceReport } from '../src/core/pipeline/balanceStudy';
import { plainContext } from '../src/core/stage/context';

/** Two different spacers in one tool, POM, one gate each. */
const soup = readStl(readFileSync(new URL('../samples/frame-spacers.stl', import.meta.url)));
const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));

const feed = { ...defaultFeed(0.002, -0.012, false), runner: { shape: 'round' as const, diameter: 0.004 } };
const pair: Inputs = {
  ...emptyInputs('pair'),
  resin: 'pom-anstey-c9',
  gates: [
    { id: 'G1', position: [-0.026, 0, 0], diameter: 0.0012 },
    { id: 'G2', position: [0.026, 0, 0], diameter: 0.0012 },
  ],
  feed,
};
const free: BalanceAsk = { goal: 'balance', pressure: null, bounds: { min: 0.001, max: 0.008 }, own: {}, sizes: null };

async function balanced(ask: BalanceAsk): Promise<BalanceReport> {
  const outcome = await balanceStudy(mesh, 'pair', pair, ask, plainContext());
  if (outcome.status !== 'balanced') throw new Error(outcome.message);
  return outcome.report;
}

describe('the family pair', () => {
  it('fills evenly after balancing, and did not before', async () => {
    const { before, after, rows, reached } = await balanced(free);
    expect(before.timeSpread).toBeGreaterThan(0.05);
    expect(before.pressureSpread).toBeGreaterThan(0.1);
    expect(reached).toBe(true);
    expect(after.timeSpread).toBeLessThan(0.02);
    expect(after.pressureSpread).toBeLessThan(0.03);
    // The short clip is held back, the long one let go; nobody has to shut the mould against an uneven shot.
    expect(rows[0].after).toBeLessThan(rows[0].before);
    expect(rows[1].after).toBeGreaterThan(rows[1].before);
    expect(after.clampForce).toBeLessThan(before.clampForce);
    // The proposal, taken into the study and run by itself, is what was promised.
    const taken = withDiameters(pair, Object.fromEntries(rows.map((r) => [r.key, r.after])));
    const again = await balanceStudy(mesh, 'pair', taken, free, plainContext());
    if (again.status !== 'balanced') throw new Error(again.message);
    expect(again.report.before.timeSpread).toBeCloseTo(after.timeSpread, 9);
  });

  it('keeps a fixed branch, bounds and cutter sizes', async () => {
    const sizes = [0.0035, 0.004, 0.0045, 0.005, 0.0055, 0.006];
    const { rows, after } = await balanced({ ...free, own: { G1: { min: 0.004, max: 0.004 } }, sizes });
    expect(rows[0].after).toBe(0.004);
    expect(sizes).toContain(rows[1].after);
    expect(rows[1].after).toBeGreaterThan(0.004);
    expect(after.timeSpread).toBeLessThan(0.09);
    const single = await balanced({ ...free, ownSizes: { G1: [0.003, 0.0045] } });
    expect([0.003, 0.0045]).toContain(single.rows[0].after);
    expect(sizes).not.toContain(single.rows[1].after);
    const bound = await balanced({ ...free, bounds: { min: 0.004, max: 0.0042 } });
    for (const row of bound.rows) {
      expect(row.after).toBeGreaterThanOrEqual(0.004);
      expect(row.after).toBeLessThanOrEqual(0.0042);
    }
    expect(bound.reached).toBe(false);
    expect(bound.rows.some((r) => /bound/.test(r.reason))).toBe(true);
  });

  it('finds the least volume that still keeps a pressure', async () => {
    const { before, after, reached } = await balanced({ ...free, goal: 'least-volume', pressure: 24e6 });
    expect(reached).toBe(true);
    expect(after.pressure).toBeLessThanOrEqual(24e6);
    expect(after.pressure).toBeGreaterThan(0.9 * 24e6);
    expect(after.timeSpread).toBeLessThan(0.02);
    expect(after.feedVolume).toBeLessThan(0.9 * before.feedVolume);
  });

  it('says what cannot be balanced', async () => {
    const refuse = async (inputs: Inputs) => {
      const outcome = await balanceStudy(mesh, 'pair', inputs, free, plainContext());
      return outcome.status === 'refused' ? outcome.message : '';
    };
    expect(await refuse({ ...pair, feed: null })).toMatch(/no runners/);
    expect(await refuse({ ...pair, gates: pair.gates.slice(0, 1) })).toMatch(/nothing to balance/);
  });
});
