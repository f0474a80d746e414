import { describe, expect, it } from 'vitest';
import { defaultFeed } from '../src/core/model/feed';
import type { Pin } from '../src/core/model/pin';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/stage/context';
import { box } from './shapes';

/** The entrance slider as a plain strip: 420 x 30 x 2.4 mm, ABS, up to three hot drops along it. */
const [LENGTH, WIDTH, WALL] = [0.42, 0.03, 0.0024];
const strip = box(LENGTH, WIDTH, WALL);
const PLACES = { G1: 0.07, G2: 0.21, G3: 0.35 };

async function fill(gates: (keyof typeof PLACES)[], pins: Partial<Record<keyof typeof PLACES, Pin>> = {}) {
  const base = emptyInputs('strip');
  const inputs: Inputs = {
    ...base,
    resin: 'abs-corran-220',
    detail: 'quick',
    gates: gates.map((id) => ({ id, position: [PLACES[id], 0, WALL / 2], diameter: 0.002, pin: pins[id] })),
    feed: { ...defaultFeed(WALL, 0.04, true), hot: { temperature: null } },
    cycle: { ...base.cycle, injection: { by: 'time', time: 1.5 } },
  };
  const outcome = await runPipeline(strip, 'strip', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled') throw new Error(JSON.stringify(outcome).slice(0, 300));
  return outcome;
}

/** Weld lines that run over the strip's width. */
const crossing = ({ findings }: Awaited<ReturnType<typeof fill>>) =>
  findings.weldLines.filter((line) => {
    const across = line.points.map((p) => p[1]);
    return Math.max(...across) - Math.min(...across) > 0.4 * WIDTH;
  });

describe('a strip with three hot drops', () => {
  it('one drop needs the most pressure; three at once leave weld lines; in sequence there are none', async () => {
    const one = await fill(['G2']);
    const together = await fill(['G1', 'G2', 'G3']);
    const open: Pin = { open: { by: 'start' }, close: null, over: 0.05 };
    const later: Pin = { open: { by: 'front', position: null }, close: null, over: 0.05 };
    const sequence = await fill(['G1', 'G2', 'G3'], { G1: later, G2: open, G3: later });

    expect(crossing(one)).toHaveLength(0);
    const welds = crossing(together);
    expect(welds.length).toBeGreaterThanOrEqual(2);
    const places = welds.map((w) => w.points[w.points.length >> 1][0]).sort((a, b) => a - b);
    // Between the gates, nearer to the outer ones: the way to the middle gate is shorter.
    const [left, right] = [places[0], places[places.length - 1]];
    expect(left).toBeGreaterThan(PLACES.G1);
    expect(left).toBeLessThan((PLACES.G1 + PLACES.G2) / 2);
    expect(Math.abs(left + right - LENGTH)).toBeLessThan(0.015);
    expect(crossing(sequence)).toHaveLength(0);

    const pressure = (o: typeof one) => o.summary.pressureNeeded_Pa;
    expect(pressure(sequence)).toBeLessThan(0.95 * pressure(one));
    expect(pressure(together)).toBeLessThan(pressure(one));

    // The outer pins open when the front from the middle has come to them.
    const pins = sequence.summary.feed!.pins;
    const opened = Object.fromEntries(pins.map((p) => [p.gate, p.openedAt_s]));
    expect(opened.G2).toBe(0);
    for (const id of ['G1', 'G3']) {
      expect(opened[id]).toBeGreaterThan(0.3);
      expect(opened[id]).toBeLessThan(1.4);
    }
    expect(sequence.summary.massError).toBeLessThan(1e-9);
    // No melt passes a shut pin: only G2 flows before the others open.
    const { history } = sequence;
    const before = history.time.filter((t) => t < (opened.G1 as number)).length - 1;
    expect(Math.abs(history.gateFlow[before][0])).toBeLessThan(1e-3 * history.flowRate[before]);
  });
});
