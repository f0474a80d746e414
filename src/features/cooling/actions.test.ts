import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { box } from '../../../verification/shapes';
import { trayCooling } from '@/core/cooling/sample';
import { boundsOf } from '@/core/geometry/mesh';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '@/core/model/study';
import { openStudy, present, undo } from '../study/testServer';
import { useBench } from '../study/bench';
import { freeEnds, withEnd } from './ends';
import { addHose, addWell, deleteLine, drawChannelTo } from './lineActions';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

const mesh = box(0.12, 0.08, 0.02);
const cooling = trayCooling(mesh);
const inputs: Inputs = { ...emptyInputs(), bodies: [cavityBody('a'.repeat(64))], cooling };
const view = () => useBench.getState();
const now = () => present().inputs.cooling!;
const valid = () => expect(inputsSchema.safeParse(present().inputs).error?.issues ?? []).toEqual([]);
const channel = cooling.lines.find((l) => l.kind.as === 'channel')!;

beforeEach(() => void openStudy(inputs));
afterEach(() => vi.unstubAllGlobals());

describe('lines of a circuit', () => {
  it('are drawn from click to click with the diameter of the plan', () => {
    view().set({ aim: { for: 'channel', height: 0.05, from: null } });
    drawChannelTo([0, 0, 0.05]);
    drawChannelTo([0.04, 0, 0.05]);
    const line = now().lines.at(-1)!;
    expect([line.from, line.to, line.kind.as]).toEqual([[0, 0, 0.05], [0.04, 0, 0.05], 'channel']);
    expect(line.diameter).toBe(cooling.plan?.diameter ?? 0.008);
    expect(cooling.lines.some((l) => l.id === line.id)).toBe(false);
    expect(view().selectedChannel).toBe(line.id);
    valid();
    undo();
    expect(now()).toEqual(cooling);
  });

  it('go with whatever is of their name', () => {
    view().set({ selectedChannel: channel.id });
    deleteLine(channel.id);
    expect(now().lines).toHaveLength(cooling.lines.length - 1);
    expect(view().selectedChannel).toBeNull();
  });

  it.each(['baffle', 'bubbler'] as const)('a %s stands on its channel towards the part and stays out of it', (as) => {
    addWell(as, channel, mesh);
    addWell(as, channel, mesh);
    const [first, second] = now().lines.slice(-2);
    expect([first.kind.as, second.kind.as]).toEqual([as, as]);
    expect(first.from).not.toEqual(second.from);
    const { min, max } = boundsOf(mesh.positions);
    for (const { from, to } of [first, second]) {
      const towards = Math.sign((min[2] + max[2]) / 2 - from[2]);
      expect(Math.sign(to[2] - from[2])).toBe(towards);
      expect(to[2] < min[2] || to[2] > max[2]).toBe(true);
      // On the channel: between its ends.
      for (let d = 0; d < 3; d++) {
        const [low, high] = [Math.min(channel.from[d], channel.to[d]), Math.max(channel.from[d], channel.to[d])];
        expect(from[d]).toBeGreaterThanOrEqual(low - 1e-9);
        expect(from[d]).toBeLessThanOrEqual(high + 1e-9);
      }
    }
    valid();
  });

  it('a hose joins two open ends, which then are none', () => {
    const [a, b] = freeEnds(now()).slice(0, 2);
    const before = freeEnds(now()).length;
    addHose(a.at, b.at, a.bore);
    const hose = now().lines.at(-1)!;
    expect(hose.kind).toEqual({ as: 'hose', length: null });
    expect(now().ends.some((e) => e.at.every((x, d) => Math.abs(x - a.at[d]) < 5e-4))).toBe(false);
    expect(freeEnds(now()).length).toBe(before - 2);
    valid();
  });
});

describe('ends of a circuit', () => {
  it('are given one part at a time; a plug has no supply', () => {
    const [end] = freeEnds(cooling);
    const inlet = withEnd(cooling, end.at, 'inlet', 'W1');
    expect(inlet.filter((e) => e.at.every((x, d) => Math.abs(x - end.at[d]) < 1e-9))).toEqual([
      { at: end.at, as: 'inlet', supply: 'W1' },
    ]);
    const plug = withEnd({ ...cooling, ends: inlet }, end.at, 'plug', 'W1');
    expect(plug.at(-1)).toEqual({ at: end.at, as: 'plug', supply: null });
    expect(withEnd({ ...cooling, ends: plug }, end.at, 'open', null)).toHaveLength(plug.length - 1);
  });
});
