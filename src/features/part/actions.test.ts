import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { toast } from 'sonner';
import { cavityBody, emptyInputs, geometryKey, inputsSchema, type Inputs } from '@/core/model/study';
import type { Body } from '@/core/model/body';
import { useStudy } from '../study/store';
import { openStudy, present, undo, type TestServer } from '../study/testServer';
import { mainView } from '../study/view';
import {
  combineBodies,
  deleteBodies,
  isolateBodies,
  mendBodies,
  renameBody,
  restoreOriginals,
  setRole,
  showBodies,
  splitBody,
  traceBody,
  turnPart,
} from './bodyActions';

vi.mock('sonner', () => ({
  toast: Object.assign(vi.fn(), { error: vi.fn(), success: vi.fn(), warning: vi.fn() }),
}));

const hash = (n: number) => n.toString(16).padStart(64, '0');
const body = (n: number, more: Partial<Body> = {}): Body => ({
  ...cavityBody(hash(n), `Body ${n}`),
  id: `B${n}`,
  ...more,
});
const inputs: Inputs = {
  ...emptyInputs(),
  bodies: [body(1), body(2, { role: 'insert' }), body(3, { role: 'left-out', original: hash(9) })],
  gates: [{ id: 'G1', position: [0.01, 0, 0], diameter: 0.002 }],
};
const bodies = () => present().inputs.bodies;
const valid = () => expect(inputsSchema.safeParse(present().inputs).error?.issues ?? []).toEqual([]);

let server: TestServer;
/** What the server answers to the next piece of work on surfaces. */
let answer: unknown;
beforeEach(() => {
  server = openStudy(inputs);
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) =>
    url === '/api/geometry' ? Promise.resolve(new Response(`${JSON.stringify(answer)}\n`)) : server.handle(url, init),
  );
  vi.clearAllMocks();
});
afterEach(() => vi.unstubAllGlobals());
const answered = (result: unknown) => (answer = { type: 'done', result: { answer: result, geometries: [] } });

describe('bodies', () => {
  it('get a role, one step for all that are chosen', () => {
    const before = geometryKey(present().inputs);
    setRole(['B2', 'B3'], 'cavity');
    expect(bodies().map((b) => b.role)).toEqual(['cavity', 'cavity', 'cavity']);
    expect(geometryKey(present().inputs)).not.toBe(before);
    undo();
    expect(bodies()).toEqual(inputs.bodies);
  });

  it('are renamed to what says something', () => {
    renameBody('B1', '   ');
    expect(bodies()[0].name).toBe('Body 1');
    renameBody('B1', '  Lid  ');
    expect(bodies()[0].name).toBe('Lid');
    renameBody('B1', 'x'.repeat(500));
    expect(bodies()[0].name).toHaveLength(120);
    valid();
  });

  it('go with an offer to bring them back', () => {
    deleteBodies(['B2', 'B9']);
    expect(bodies().map((b) => b.id)).toEqual(['B1', 'B3']);
    const [, options] = vi.mocked(toast).mock.calls[0] as unknown as [string, { action: { onClick: () => void } }];
    options.action.onClick();
    expect(bodies().map((b) => b.id)).toEqual(['B1', 'B2', 'B3']);
    deleteBodies(['B9']);
    expect(useStudy.getState().done).toHaveLength(0);
  });

  it('are hidden, faded and shown without a step', () => {
    showBodies(['B1', 'B2'], 'hidden');
    showBodies(['B1'], 'faded');
    expect(mainView.getState().bodyView).toEqual({ B1: 'faded', B2: 'hidden' });
    showBodies(['B1', 'B2'], 'shown');
    expect(mainView.getState().bodyView).toEqual({});
    isolateBodies(['B1']);
    expect(mainView.getState().bodyView).toEqual({ B2: 'hidden', B3: 'hidden' });
    isolateBodies(['B1']);
    expect(mainView.getState().bodyView).toEqual({});
    expect(useStudy.getState().done).toHaveLength(0);
  });

  it('that stand in for others are put back', () => {
    restoreOriginals(['B3']);
    expect(bodies()[2]).toMatchObject({ mesh: hash(9), original: null, standIn: null });
    restoreOriginals(['B1']);
    expect(useStudy.getState().done).toHaveLength(1);
  });
});

describe('work on surfaces', () => {
  it('mended: the surface changes, what was done is told', async () => {
    const report = { volume: 1e-6, area: 1e-4, nTriangles: 12 };
    answered({
      bodies: [{ id: 'B1', mesh: hash(11), before: report, after: report, done: ['closed 1 hole'], left: 0 }],
    });
    await mendBodies([bodies()[0]]);
    expect(bodies()[0].mesh).toBe(hash(11));
    expect(toast.success).toHaveBeenCalledWith('Body 1 mended', expect.anything());
    valid();
  });

  it('turned: gates, traces and originals go along', async () => {
    const quarter = [0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0];
    answered({
      bodies: [
        { id: 'B1', mesh: hash(21) },
        { id: 'B2', mesh: hash(22) },
        { id: 'B3', mesh: hash(23) },
        { id: 'B3/original', mesh: hash(29) },
      ],
    });
    await turnPart('Turn', quarter);
    expect(bodies().map((b) => b.mesh)).toEqual([hash(21), hash(22), hash(23)]);
    expect(bodies()[2].original).toBe(hash(29));
    expect(present().inputs.gates[0].position).toEqual([0, 0.01, 0]);
    expect(present().inputs.tool.placement.slice(0, 4)).toEqual([0, -1, 0, 0]);
    valid();
  });

  it('split: the first piece keeps the name it is known by', async () => {
    answered({ meshes: [hash(31), hash(32)] });
    await splitBody(bodies()[0]);
    expect(bodies().map((b) => [b.name, b.mesh])).toEqual([
      ['Body 1 1', hash(31)],
      ['Body 1 2', hash(32)],
      ['Body 2', hash(2)],
      ['Body 3', hash(3)],
    ]);
    expect(bodies()[0].id).toBe('B1');
    expect(new Set(bodies().map((b) => b.id)).size).toBe(4);
    valid();
  });

  it.each([
    ['join', 2],
    ['cut', 3],
  ] as const)('%s: %d bodies are left', async (how, left) => {
    answered({ mesh: hash(41) });
    const [a, b] = bodies();
    expect(await combineBodies(a, b, how)).toBe(true);
    expect(bodies()).toHaveLength(left);
    expect(bodies()[0].mesh).toBe(hash(41));
  });

  it('traced: one trace a body, which fades to show it', async () => {
    const trace = { nodes: [{ position: [0, 0, 0], diameter: 0.004 }], segments: [], length: 0.02 };
    answered(trace);
    await traceBody(bodies()[1]);
    await traceBody(bodies()[1]);
    expect(present().inputs.axes.map((a) => a.body)).toEqual(['B2']);
    expect(mainView.getState().bodyView.B2).toBe('faded');
    valid();
  });

  it('refused: nothing changes, and why is told', async () => {
    answer = { type: 'failed', message: 'It has no volume.', remedy: 'Close it first.' };
    await mendBodies([bodies()[0]]);
    expect(bodies()).toEqual(inputs.bodies);
    expect(toast.error).toHaveBeenCalledWith('It has no volume.', { description: 'Close it first.' });
  });
});
