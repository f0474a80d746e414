import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { RESINS } from '@/core/material/library';
import { emptyInputs, type Inputs } from '@/core/model/study';
import type { PreviewAnswer, PreviewRequest, PreviewSurface } from '@/runtime/previewProtocol';
import { slab } from '../../../verification/solids';
import { askFilling, searchGates, sendPart, stopSearch, usePreview } from './previewWork';

/** A worker that notes what it is asked and answers when it is told to. */
class TestWorker {
  static made: TestWorker[] = [];
  asked: PreviewRequest[] = [];
  ended = false;
  onmessage: ((event: { data: PreviewAnswer }) => void) | null = null;
  onerror: ((event: { message: string }) => void) | null = null;
  constructor() {
    TestWorker.made.push(this);
  }
  postMessage(request: PreviewRequest) {
    this.asked.push(request);
  }
  terminate() {
    this.ended = true;
  }
  say(data: PreviewAnswer) {
    this.onmessage?.({ data });
  }
}

const NONE = new Int32Array();
const SURFACE: PreviewSurface = {
  positions: new Float32Array(),
  triangles: new Uint32Array(),
  nodes: NONE,
  weights: new Uint8Array(),
  lattice: { origin: [0, 0, 0], spacing: 1e-3, nx: 1, ny: 1, nz: 1 },
  spacing: 1e-3,
  index: NONE,
  cellVolume: new Float32Array(),
  nodeOfCell: NONE,
  position: new Float32Array(),
  rowStart: NONE,
  rowNode: NONE,
  nodeVolume: new Float32Array(),
  centroid: new Float32Array(),
  thickness: new Float32Array(),
};
const SIZE = { volume: 1e-5, area: 1e-2, thickness: 2e-3 } as unknown as Parameters<typeof askFilling>[1];
const MESH = slab(0.1, 0.05, () => 2e-3);
const inputs: Inputs = { ...emptyInputs('m'), resin: RESINS[0].id };
const gateAt = (x: number) => [{ id: 'g', position: [x, 0, 0] as [number, number, number], diameter: 2e-3 }];

let n = 0;
let worker: TestWorker;
const previewData = () => usePreview.getState().data;
const last = () => worker.asked.at(-1) as Extract<PreviewRequest, { id: number }>;
const filled = (id: number, ...times: number[]): PreviewAnswer => {
  return { type: 'filled', id, times: Float32Array.from(times), pressure: 1e7, ms: 5 };
};
/** A part that the page has not had yet, with its grid there. */
function withPart(): string {
  const key = `part ${++n}`;
  sendPart(key, MESH);
  worker = TestWorker.made.at(-1) as TestWorker;
  worker.say({ type: 'grid', key, surface: SURFACE });
  return key;
}

beforeEach(() => {
  vi.stubGlobal('Worker', TestWorker);
  usePreview.setState({ search: null, showMap: false, problem: null });
});
afterEach(() => vi.unstubAllGlobals());

describe('the preview that follows the gates', () => {
  it('asks for one filling at a time, and of those that came meanwhile for the newest', () => {
    withPart();
    for (const x of [0, 0.01, 0.02, 0.03]) askFilling(inputs, SIZE, gateAt(x));
    expect(worker.asked.map((r) => r.type)).toEqual(['part', 'fill']);
    worker.say(filled(last().id, 1, 2));
    expect(worker.asked).toHaveLength(3);
    expect((last() as { gates: ReturnType<typeof gateAt> }).gates).toEqual(gateAt(0.03));
    // What came first is shown while the newest is under way.
    expect([...(previewData()?.times ?? [])]).toEqual([1, 2]);
    worker.say(filled(last().id, 3, 4));
    expect(previewData()?.end).toBe(4);
    expect(worker.asked).toHaveLength(3);
  });

  it('starts again with another part, and takes nothing of the one before', () => {
    withPart();
    askFilling(inputs, SIZE, gateAt(0));
    const old = worker;
    const { id } = last();
    const key = withPart();
    expect(old.ended).toBe(true);
    worker.say(filled(id, 1, 2));
    expect(previewData()).toMatchObject({ key, times: null });
  });

  it('does not send the same part twice', () => {
    const key = withPart();
    sendPart(key, MESH);
    expect(worker.asked).toHaveLength(1);
  });

  it('asks for nothing of a resin that is not there', () => {
    withPart();
    askFilling({ ...inputs, resin: 'no such grade' }, SIZE, gateAt(0));
    expect(worker.asked).toHaveLength(1);
  });

  it('says what went wrong, and goes on with the next wish', () => {
    withPart();
    askFilling(inputs, SIZE, gateAt(0));
    askFilling(inputs, SIZE, gateAt(0.01));
    worker.say({ type: 'failed', id: last().id, message: 'No wall there.' });
    expect(usePreview.getState().problem).toBe('No wall there.');
    worker.say(filled(last().id, 1));
    expect(usePreview.getState().problem).toBeNull();
  });
});

describe('the search for gates', () => {
  it('waits for the coarse grid', () => {
    sendPart(`part ${++n}`, MESH);
    worker = TestWorker.made.at(-1) as TestWorker;
    searchGates(inputs, SIZE, 2e-3);
    expect(worker.asked).toHaveLength(1);
    expect(usePreview.getState().search).not.toBeNull();
    worker.say({ type: 'grid', key: `part ${n}`, surface: SURFACE });
    expect(last().type).toBe('find');
  });

  it('is not broken off by a gate that is moved, though it broke off a filling itself', () => {
    withPart();
    askFilling(inputs, SIZE, gateAt(0));
    const filling = last().id;
    searchGates(inputs, SIZE, 2e-3);
    const search = last().id;
    worker.say({ type: 'stopped', id: filling });
    askFilling(inputs, SIZE, gateAt(0.01));
    expect(last().id).toBe(search);
    worker.say({ type: 'progress', fraction: 0.5, message: 'Trying' });
    expect(usePreview.getState().search?.fraction).toBe(0.5);
    const values = Float32Array.of(1);
    worker.say({ type: 'found', id: search, score: values, pressure: values, evenness: values, best: [] as never });
    expect(usePreview.getState()).toMatchObject({ search: null, showMap: true });
    // Now the gate that was moved has its turn.
    expect(last().type).toBe('fill');
    worker.say(filled(last().id, 1));
  });

  it('can be stopped before and after it began', () => {
    sendPart(`part ${++n}`, MESH);
    worker = TestWorker.made.at(-1) as TestWorker;
    searchGates(inputs, SIZE, 2e-3);
    stopSearch();
    worker.say({ type: 'grid', key: `part ${n}`, surface: SURFACE });
    expect(worker.asked.map((r) => r.type)).toEqual(['part', 'stop']);
    searchGates(inputs, SIZE, 2e-3);
    const { id } = last();
    stopSearch();
    // A word of progress that was on its way does not bring it back for good.
    worker.say({ type: 'progress', fraction: 0.7, message: 'Trying' });
    worker.say({ type: 'stopped', id });
    expect(usePreview.getState().search).toBeNull();
    askFilling(inputs, SIZE, gateAt(0));
    expect(last().type).toBe('fill');
    worker.say(filled(last().id, 1));
  });
});
