import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyInputs, type Inputs } from '@/core/model/study';
import { keepSteps, recallSteps, type KeptStep } from './keptSteps';
import { useStudy } from './store';
import { openStudy, present, settle, type TestServer } from './testServer';

const inputs: Inputs = { ...emptyInputs('a'.repeat(64)), gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.002 }] };
const step = (label: string, variantId = 'v1'): KeptStep => ({ label, variantId, from: inputs, to: inputs });
const labels = (steps: readonly KeptStep[]) => steps.map((s) => s.label);
const HERE = [{ id: 'v1' }];

let server: TestServer;
let kept: Map<string, string>;
beforeEach(() => {
  kept = new Map();
  vi.stubGlobal('sessionStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
  });
  server = openStudy(inputs);
});
afterEach(() => vi.unstubAllGlobals());

/** What a reload of the page does. */
function reload() {
  const { projectId, variants } = useStudy.getState();
  useStudy.getState().load({
    project: { id: projectId, name: 'Project' },
    variants: variants.map((v) => server.variants.get(v.id) ?? v),
    runs: [],
    geometries: [],
  });
}

describe('undo after a reload', () => {
  it('goes on where it was, back and forth', async () => {
    const { change, undo } = useStudy.getState();
    change('Fine', { ...present().inputs, detail: 'fine' });
    change('Quick', { ...present().inputs, detail: 'quick' });
    undo();
    await settle();
    reload();
    expect(useStudy.getState().done.map((s) => s.label)).toEqual(['Fine']);
    expect(useStudy.getState().undone.map((s) => s.label)).toEqual(['Quick']);
    useStudy.getState().redo();
    await settle();
    expect(server.variants.get('v1')?.inputs.detail).toBe('quick');
    useStudy.getState().undo();
    useStudy.getState().undo();
    await settle();
    expect(present().inputs.detail).toBe('normal');
    expect(server.variants.get('v1')?.inputs.detail).toBe('normal');
  });
});

describe('steps that are kept', () => {
  it('end at a step that is no change of inputs, and at those of variants that are gone', () => {
    keepSteps('p', [step('a'), null, step('b'), step('c', 'v2')], [step('d')]);
    expect(labels(recallSteps('p', HERE).done)).toEqual(['b']);
    expect(labels(recallSteps('p', HERE).undone)).toEqual(['d']);
    expect(recallSteps('q', HERE)).toEqual({ done: [], undone: [] });
  });

  it('are the latest, as many as there is room for', () => {
    const many = Array.from({ length: 200 }, (_, k) => step(`s${k}`));
    keepSteps('p', many, []);
    const done = labels(recallSteps('p', HERE).done);
    expect(done.at(-1)).toBe('s199');
    expect(done).toHaveLength(30);
    const large: Inputs = {
      ...inputs,
      noGate: Array.from({ length: 3000 }, () => ({ position: [0.0123456789, 0.0123456789, 0.01], radius: 0.001 })),
    };
    keepSteps('p', [...many, { ...step('large'), from: large, to: large }], []);
    expect(kept.get('bellows.undo.p')!.length).toBeLessThan(1_500_000);
    expect(labels(recallSteps('p', HERE).done).at(-1)).toBe('large');
  });

  it('nonsense and a full storage are no steps', () => {
    kept.set('bellows.undo.p', '{"done":[{"label":1}]}');
    expect(recallSteps('p', HERE)).toEqual({ done: [], undone: [] });
    vi.stubGlobal('sessionStorage', {
      setItem: () => {
        throw new Error('full');
      },
    });
    expect(() => keepSteps('p', [step('a')], [])).not.toThrow();
  });
});
