import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '@/core/model/study';
import { warpageOf } from '@/core/model/warpage';
import { pickForShape } from '../study/shapeActions';
import { openStudy, present, undo } from '../study/testServer';
import { useBench } from '../study/bench';
import { mainView } from '../study/view';
import { deleteProbe, dropProbe, stampNoGate } from './probeActions';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

const inputs: Inputs = { ...emptyInputs(), bodies: [cavityBody('a'.repeat(64))] };
const bench = () => useBench.getState();
const view = () => mainView.getState();
const now = () => present().inputs;
const valid = () => expect(inputsSchema.safeParse(now()).error?.issues ?? []).toEqual([]);
type Point = [number, number, number];

beforeEach(() => {
  vi.useFakeTimers();
  openStudy(inputs);
  const { shape } = view();
  view().set({ shape: { ...shape, points: [] } });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('probes', () => {
  it('get names that are free, show their histories, and are no more than the study takes', () => {
    for (let k = 0; k < 30; k++) dropProbe([0.001 * k, 0, 0]);
    expect(now().probes).toHaveLength(24);
    expect(bench()).toMatchObject({ selectedProbe: 'P24', chart: true });
    deleteProbe('P3');
    dropProbe([0.5, 0, 0]);
    expect(now().probes.map((p) => p.id)).toContain('P3');
    expect(new Set(now().probes.map((p) => p.id)).size).toBe(24);
    valid();
  });
});

describe('places where no gate may sit', () => {
  const paint = (erase: boolean, ...at: Point[]) => {
    bench().set({ aim: { for: 'no-gate', radius: 0.005, erase } });
    at.forEach(stampNoGate);
    vi.advanceTimersByTime(200);
  };

  it('one stroke is one step, and stamps on one another are one', () => {
    paint(false, [0, 0, 0], [0.0005, 0, 0], [0.004, 0, 0], [0.02, 0, 0]);
    expect(now().noGate.map((p) => p.position[0])).toEqual([0, 0.004, 0.02]);
    undo();
    expect(now().noGate).toEqual([]);
  });

  it('are wiped out under the brush', () => {
    paint(false, [0, 0, 0], [0.02, 0, 0]);
    paint(true, [0.021, 0, 0]);
    expect(now().noGate.map((p) => p.position[0])).toEqual([0]);
    valid();
  });

  it('nothing is painted with no brush in hand', () => {
    stampNoGate([0, 0, 0]);
    vi.advanceTimersByTime(200);
    expect(now()).toEqual(inputs);
  });
});

describe('places that the shape asks for', () => {
  it('three to lay it onto its drawing, which change nothing in the study', () => {
    bench().set({ aim: { for: 'alignment' } });
    for (const x of [0, 1, 2]) pickForShape([x, 0, 0]);
    expect(view().shape.points).toEqual([
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
    ]);
    expect(bench().aim).toBeNull();
    expect(now()).toEqual(inputs);
  });

  it('a support, held in all directions', () => {
    bench().set({ aim: { for: 'support' } });
    pickForShape([0.01, 0, 0]);
    expect(warpageOf(now()).supports).toEqual([
      { id: 'S1', position: [0.01, 0, 0], holds: { x: true, y: true, z: true } },
    ]);
    undo();
    expect(warpageOf(now()).supports).toEqual([]);
  });

  it.each([
    ['distance', 2],
    ['angle', 2],
    ['flatness', 1],
  ] as const)('a %s is measured from %d places', (kind, places) => {
    bench().set({ aim: { for: 'measure', kind, places: [] } });
    for (let k = 0; k < places; k++) {
      expect(warpageOf(now()).measures).toEqual([]);
      pickForShape([0.01 * k, 0, 0]);
    }
    const [measure] = warpageOf(now()).measures;
    expect([measure.id, measure.kind, measure.places.length]).toEqual(['M1', kind, places]);
    valid();
  });
});
