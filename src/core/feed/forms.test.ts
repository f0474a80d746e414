import { describe, expect, it } from 'vitest';
import { emptyInputs, type Gate, type Inputs } from '../model/study';
import { checkFeed } from '../pipeline/checkFeed';
import { allGates } from '../setup/copies';
import { defaultForm, GATE_KINDS } from '../model/gateForm';
import { defaultFeed, type Feed, type RunnerLine } from '../model/feed';
import { feedOfOne, wayTo } from './alike';
import { landOf, openingOf } from './land';
import { layOut } from './layout';
import { coldVolume, cutSegments, segmentLength } from './network';
import { areaOf } from './section';

const gate = (id: string, x: number, y: number, z = 0, form?: Gate['form']): Gate => ({
  id,
  position: [x, y, z],
  diameter: 0.0012,
  ...(form ? { form } : {}),
});
const feed = (patch: Partial<Feed> = {}): Feed => ({ ...defaultFeed(0.002, -0.012, false), ...patch });
const line = (id: string, from: RunnerLine['from'], to: RunnerLine['to'], diameter = 0.005): RunnerLine => ({
  id,
  from,
  to,
  section: { shape: 'round', diameter },
  endSection: null,
  hot: null,
});

describe('kinds of gates', () => {
  it.each(GATE_KINDS.map((k) => k.kind))(
    '%s: its narrowest place is at the part, and it opens as it should',
    (kind) => {
      const form = defaultForm(kind, 0.002, 0.005);
      const own = gate('G1', 0.03, 0, 0, form);
      const { section, end } = landOf(feed(), own);
      expect(areaOf(end ?? section)).toBeLessThanOrEqual(areaOf(section) * 1.0001);
      const opening = openingOf(own);
      const slot = kind === 'edge' || kind === 'fan' || kind === 'film';
      expect(opening.width > opening.diameter).toBe(slot);
    },
  );

  it('a submarine gate slants down from the runner', () => {
    const form = defaultForm('submarine', 0.002, 0.005);
    const network = layOut(feed({ at: [0, 0] }), [gate('G1', 0.03, 0, -0.012 - 0.006 * Math.SQRT1_2, form)], 500);
    const land = network.segments[network.kinds.indexOf('land')];
    const [a, b] = [network.points[land.from], network.points[land.to]];
    expect(segmentLength(network, land)).toBeCloseTo(0.006, 9);
    expect((a[2] - b[2]) / (b[0] - a[0])).toBeCloseTo(1, 6);
  });

  it('a direct sprue is all there is', () => {
    const network = layOut(feed(), [gate('G1', 0.01, 0.02, 0, { kind: 'sprue' })], 500);
    expect(network.kinds).toEqual(['sprue']);
    expect(network.gatePoints).toEqual([network.segments[0].to]);
  });

  it('cold-slug ends go on behind bends and below the sprue, and only in cold feeds', () => {
    const gates = [gate('G1', -0.04, -0.02), gate('G2', 0.04, -0.02), gate('G3', -0.04, 0.02), gate('G4', 0.04, 0.02)];
    const slugs = (f: Feed) => layOut(f, gates, 500).kinds.filter((k) => k === 'slug').length;
    expect(slugs(feed({ layout: 'tree' }))).toBe(0);
    expect(slugs(feed({ layout: 'tree', slug: 0.006 }))).toBe(3);
    expect(slugs(feed({ layout: 'tree', slug: 0.006, hot: { temperature: null } }))).toBe(0);
  });
});

describe('drawn runners', () => {
  const lines = [
    line('L1', [0, 0, -0.012], [0.03, 0, -0.012]),
    line('L2', [0, 0, -0.012], [-0.03, 0, -0.012]),
    // Drawn against the melt, with an end that no gate hangs on.
    line('L3', [0.03, 0.02, -0.012], [0.03, 0, -0.012]),
  ];
  const gates = [gate('G1', -0.03, 0, -0.011), gate('G2', 0.03, 0, -0.011)];
  const drawn = (list = lines) => feed({ layout: 'drawn', lines: list, at: [0, 0] });

  it('run from the sprue to the gates; an end without a gate catches cold melt', () => {
    const network = layOut(drawn(), gates, 500);
    const way = wayTo(network, 1);
    expect(way.map((k) => network.kinds[k])).toEqual(['sprue', 'runner', 'land']);
    expect(network.segments[way[1]].id).toBe('L1');
    const slug = network.segments.findIndex((s) => s.id === 'L3');
    expect(network.kinds[slug]).toBe('slug');
    expect(network.points[network.segments[slug].from]).toEqual([0.03, 0, -0.012]);
  });

  const problems = (inputs: Partial<Inputs>) =>
    checkFeed({ ...emptyInputs('part'), ...inputs }).map((p) => `${p.message}${p.place ? ' @' : ''}`);

  it('loops, loose lines, lines without length and gates without feed are told with their place', () => {
    expect(problems({ gates, feed: drawn() })).toEqual([]);
    const loop = [...lines, line('L4', [0, 0, -0.012], [0.03, 0.02, -0.012])];
    expect(problems({ gates, feed: drawn(loop) }).join()).toMatch(/closes a loop. @/);
    const loose = [...lines, line('L4', [0.1, 0.1, -0.012], [0.2, 0.1, -0.012])];
    expect(problems({ gates, feed: drawn(loose) }).join()).toMatch(/L4 does not hang together with the sprue. @/);
    expect(problems({ gates: [...gates, gate('G3', 0.2, 0, -0.011)], feed: drawn() }).join()).toMatch(
      /G3 has no feed.* @/,
    );
    expect(problems({ gates, feed: drawn([]) })).toEqual(['There is no runner yet.']);
    expect(
      problems({
        gates,
        feed: drawn(lines.map((l) => ({ ...l, section: { shape: 'round', diameter: 0.0005 } }))),
      }).join(),
    ).toMatch(/thinner than the gate/);
  });

  it('runners one in the other, pins that never open or close first are told', () => {
    const row = [gate('G1', 0.03, 0), gate('G2', 0.06, 0)];
    expect(problems({ gates: row, feed: feed({ at: [0, 0] }) }).join()).toMatch(/lie one in the other. @/);
    expect(problems({ gates: row, feed: feed({ at: [0, 0], layout: 'trunk' }) })).toEqual([]);
    const pinned = (pin: Gate['pin']) => [{ ...gates[0], pin }, gates[1]];
    const hot = { ...drawn(), hot: { temperature: null } };
    expect(
      problems({ gates: pinned({ open: { by: 'share', share: 1 }, close: null, over: 0.1 }), feed: hot }).join(),
    ).toMatch(/never opens/);
    const crossed = { open: { by: 'time', time: 2 }, close: { by: 'time', time: 1 }, over: 0.1 } as const;
    expect(problems({ gates: pinned(crossed), feed: hot }).join()).toMatch(/closes before it opens/);
    expect(problems({ gates: pinned(crossed), feed: drawn() }).join()).toMatch(/no hot drop/);
  });
});

describe('one cavity that stands for all', () => {
  const inputs: Inputs = {
    ...emptyInputs('part'),
    gates: [gate('G1', 0.03, 0)],
    cavities: { middle: [0.04, 0], places: { by: 'circle', count: 4, centre: [0, 0] }, solveOnce: true },
    feed: feed({ at: [0, 0] }),
  };
  const all = layOut(inputs.feed!, allGates(inputs), 500);
  const one = feedOfOne(all, 4)!;

  it('has a quarter of what all share and the whole of its own', () => {
    expect(coldVolume(one)).toBeCloseTo(coldVolume(all) / 4, 12);
    const sprue = cutSegments(one)[0];
    const whole = cutSegments(all)[0];
    sprue.forEach((cell, k) => {
      expect(cell.duct.area).toBeCloseTo(whole[k].duct.area / 4, 12);
      expect(cell.duct.mobility).toBe(whole[k].duct.mobility);
    });
  });

  it('a diameter given to its branch goes to all copies', () => {
    const wide = layOut({ ...inputs.feed!, branches: { G1: { diameter: 0.0077 } } }, allGates(inputs), 500);
    const runners = wide.segments.filter((_, k) => wide.kinds[k] === 'runner');
    expect(runners).toHaveLength(4);
    for (const { section } of runners) expect(section).toEqual({ shape: 'round', diameter: 0.0077 });
    expect(feedOfOne(wide, 4)).not.toBeNull();
  });

  it('is refused when one way is longer', () => {
    const off = { ...inputs, feed: feed({ at: [0.002, 0] }) };
    expect(feedOfOne(layOut(off.feed, allGates(off), 500), 4)).toBeNull();
  });
});
