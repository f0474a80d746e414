import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defaultFeed } from '@/core/model/feed';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '@/core/model/study';
import { openStudy, present, undo } from '../study/testServer';
import { useBench } from '../study/bench';
import { deleteSelectedGate } from './gateActions';
import { drawTo, pickPinPlace, placeOutlet } from './placeActions';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

const pin = { open: { by: 'start' as const }, close: null, over: 0.05 };
const inputs: Inputs = {
  ...emptyInputs(),
  bodies: [cavityBody('a'.repeat(64))],
  gates: [
    { id: 'G1', position: [0, 0, 0], diameter: 0.002, pin },
    { id: 'G2', position: [0.1, 0, 0], diameter: 0.002 },
  ],
  feed: defaultFeed(0.002, -0.02, false),
};
const view = () => useBench.getState();
const now = () => present().inputs;
const valid = () => expect(inputsSchema.safeParse(now()).error?.issues ?? []).toEqual([]);

beforeEach(() => void openStudy(inputs));
afterEach(() => vi.unstubAllGlobals());

describe('gates', () => {
  it('the chosen one goes, and comes back by undo', () => {
    view().set({ selectedGate: 'G2' });
    deleteSelectedGate();
    expect(now().gates.map((g) => g.id)).toEqual(['G1']);
    expect(view().selectedGate).toBeNull();
    undo();
    expect(now().gates).toEqual(inputs.gates);
  });

  it('none chosen, none gone', () => {
    view().set({ selectedGate: null });
    deleteSelectedGate();
    expect(now()).toEqual(inputs);
  });

  it('a place for its pin is taken once, by the gate that asked', () => {
    view().set({ aim: { for: 'pin', gate: 'G1', move: 'close' } });
    pickPinPlace([0.05, 0, 0]);
    expect(now().gates[0].pin).toEqual({ ...pin, close: { by: 'front', position: [0.05, 0, 0] } });
    expect(now().gates[1].pin).toBeUndefined();
    expect(view().aim).toBeNull();
    pickPinPlace([0.06, 0, 0]);
    expect(now().gates[0].pin?.close).toEqual({ by: 'front', position: [0.05, 0, 0] });
    valid();
  });
});

describe('vents and tabs', () => {
  it('get fresh names, are chosen, and are valid', () => {
    placeOutlet('vent', [0, 0, 0], [0, 0, 1]);
    placeOutlet('vent', [0.01, 0, 0], [0, 0, 1]);
    expect(now().vents?.map((v) => v.id)).toEqual(['V1', 'V2']);
    placeOutlet('tab', [0.1, 0, 0], [0.6, 0, 0.8]);
    expect(now().tabs?.map((t) => t.id)).toEqual(['T1']);
    expect(view().selectedOutlet).toBe('T1');
    valid();
    undo();
    expect(now().tabs).toBeUndefined();
  });

  it('a tab goes out level from a slope, and straight up from a level face', () => {
    placeOutlet('tab', [0.1, 0, 0], [0.6, 0, 0.8]);
    placeOutlet('tab', [0.1, 0, 0], [0, 0.1, 0.995]);
    const [slope, level] = (now().tabs ?? []).map((t) => t.direction);
    expect(slope).toEqual([1, 0, 0]);
    expect(level).toEqual([0, 0.1, 0.995]);
  });
});

describe('runners that are drawn', () => {
  it('go from click to click, each one step, and end with a second click on the spot', () => {
    view().set({ aim: { for: 'runner', from: null } });
    drawTo([0, 0, 0]);
    expect(now()).toEqual(inputs);
    drawTo([0.02, 0, 0]);
    drawTo([0.02, 0.03, 0]);
    const lines = now().feed?.lines ?? [];
    expect(lines.map((l) => [l.id, l.from, l.to])).toEqual([
      ['L1', [0, 0, 0], [0.02, 0, 0]],
      ['L2', [0.02, 0, 0], [0.02, 0.03, 0]],
    ]);
    expect(view().selectedLine).toBe('L2');
    drawTo([0.02, 0.03, 0]);
    expect(view().aim).toEqual({ for: 'runner', from: null });
    expect(now().feed?.lines).toHaveLength(2);
    valid();
    undo();
    expect(now().feed?.lines).toHaveLength(1);
  });

  it('nothing is drawn unless drawing is on', () => {
    drawTo([0, 0, 0]);
    drawTo([0.02, 0, 0]);
    expect(now()).toEqual(inputs);
  });
});
