import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

import { defaultFeed } from '@/core/model/feed';
import { cavityBody, emptyInputs, type Inputs } from '@/core/model/study';
import { useBench } from '../study/bench';
import { problemsOf, useStudy } from '../study/store';
import { openStudy, present, settle, type TestServer } from '../study/testServer';
import { mainView } from '../study/view';
import { onKey, SHORTCUTS } from './useKeyboard';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

/** As much of an element as the keyboard asks for. */
class FakeElement {
  isContentEditable = false;
  dataset: Record<string, string> = {};
  constructor(private readonly kind: string) {}
  matches = (list: string) => list.split(', ').includes(this.kind);
  closest = (list: string) => (list.split(', ').includes(this.kind) ? this : null);
}

const heard: string[] = [];
let server: TestServer;
const mesh = 'a'.repeat(64);
const inputs: Inputs = {
  ...emptyInputs(),
  bodies: [cavityBody(mesh), { ...cavityBody('b'.repeat(64)), id: 'B2', role: 'insert' }],
  gates: [
    { id: 'G1', position: [0, 0, 0], diameter: 0.002 },
    { id: 'G2', position: [0.01, 0, 0], diameter: 0.002 },
  ],
  probes: [{ id: 'P1', position: [0, 0, 0] }],
  feed: { ...defaultFeed(0.002, 0.01, false), lines: [] },
};

beforeEach(() => {
  heard.length = 0;
  vi.stubGlobal('HTMLElement', FakeElement);
  vi.stubGlobal('window', { dispatchEvent: (event: Event) => heard.push(event.type) });
  server = openStudy(inputs);
  useBench.setState(useBench.getInitialState(), true);
  mainView.setState(mainView.getInitialState(), true);
});
afterEach(() => vi.unstubAllGlobals());

/** Presses a key; says whether the page took it. */
function press(key: string, more: Partial<KeyboardEvent> = {}, on = 'body'): boolean {
  let taken = false;
  const target = new FakeElement(on) as unknown as HTMLElement;
  const defaults = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false };
  onKey({ ...defaults, key, target, preventDefault: () => (taken = true), ...more } as KeyboardEvent);
  return taken;
}
const bench = () => useBench.getState();

describe('keys', () => {
  it.each([
    ['1', 'part'],
    ['3', 'feed'],
    ['6', 'answers'],
  ])('%s goes to %s, and nothing waits for a click any more', (key, station) => {
    bench().set({ aim: { for: 'gate' } });
    expect(press(key)).toBe(true);
    expect(bench()).toMatchObject({ station, aim: null });
  });

  it('G and P aim; P again lets go, and another aim takes the place of the first', () => {
    press('g');
    expect(bench()).toMatchObject({ station: 'feed', aim: { for: 'gate' } });
    press('p');
    expect(bench()).toMatchObject({ station: 'answers', aim: { for: 'probe' } });
    press('P');
    expect(bench().aim).toBeNull();
  });

  it('S cuts and F frames what is seen', () => {
    press('s');
    expect(mainView.getState().section.on).toBe(true);
    press('s');
    expect(mainView.getState().section.on).toBe(false);
    press('f');
    expect(mainView.getState().cameraRequest).toMatchObject({ n: 1, view: 'fit' });
  });

  it('Escape lets go of everything', () => {
    bench().set({ aim: { for: 'support' }, selectedGate: 'G1', selectedBodies: ['B1'], selectedOutlet: 'V1' });
    mainView.getState().flyTo([0, 0, 0], 'Trap');
    press('Escape');
    expect(bench()).toMatchObject({ aim: null, selectedGate: null, selectedBodies: [], selectedOutlet: null });
    expect(mainView.getState().place).toBeNull();
  });

  it.each([
    ['a gate', 'feed', { selectedGate: 'G2' }, (now: Inputs) => now.gates.map((g) => g.id), ['G1']],
    ['bodies', 'part', { selectedBodies: ['B2'] }, (now: Inputs) => now.bodies.map((b) => b.id), ['B1']],
    ['a probe', 'answers', { selectedProbe: 'P1' }, (now: Inputs) => now.probes, []],
  ] as const)(
    'Delete takes away %s that is chosen, and undo brings it back',
    async (_what, station, chosen, of, left) => {
      bench().set({ station, ...(chosen as object) });
      const before = of(present().inputs);
      press('Delete');
      expect(of(present().inputs)).toEqual(left);
      press('z', { ctrlKey: true });
      await settle();
      expect(of(present().inputs)).toEqual(before);
      press('Z', { ctrlKey: true, shiftKey: true });
      await settle();
      expect(of(present().inputs)).toEqual(left);
    },
  );

  it('Delete with nothing chosen changes nothing', () => {
    press('Backspace');
    expect(useStudy.getState().done).toHaveLength(0);
  });

  it('H hides, I isolates and shows again', () => {
    bench().set({ selectedBodies: ['B2'] });
    press('h');
    expect(mainView.getState().bodyView).toEqual({ B2: 'hidden' });
    press('i');
    expect(mainView.getState().bodyView).toEqual({ B1: 'hidden' });
    press('i');
    expect(mainView.getState().bodyView).toEqual({});
  });

  it('B branches under a name that no other variant has', async () => {
    press('b');
    await settle();
    press('b');
    await settle();
    expect([...server.variants.values()].map((v) => v.name)).toEqual(['First', 'Variant', 'Variant 2']);
  });

  it('Ctrl Enter goes where something is missing, and does not run', async () => {
    useStudy.getState().change('No gates', { ...inputs, gates: [], feed: null });
    bench().set({ station: 'cycle' });
    press('Enter', { ctrlKey: true });
    await settle();
    expect(bench().station).toBe(problemsOf(useStudy.getState())[0].station);
    expect(bench().station).not.toBe('cycle');
    expect(server.requests.some((r) => r.includes('/api/runs'))).toBe(false);
  });

  it.each([
    [' ', {}, 'bellows:play'],
    ['?', { shiftKey: true }, 'bellows:help'],
    ['k', { ctrlKey: true }, 'bellows:menu'],
  ])('“%s” asks for what belongs to it', (key, more, event) => {
    press(key, more);
    expect(heard).toEqual([event]);
  });

  it('a field that is typed in keeps its keys, and its own undo while it differs', async () => {
    expect(['1', 'g', 'Delete', '?'].map((key) => press(key, {}, 'input'))).toEqual([false, false, false, false]);
    useStudy.getState().change('Detail', { ...inputs, detail: 'fine' });
    await settle();
    expect(press('z', { ctrlKey: true }, 'input')).toBe(false);
    const clean = new FakeElement('input');
    clean.dataset.clean = 'true';
    expect(press('z', { ctrlKey: true, target: clean as unknown as HTMLElement })).toBe(true);
    await settle();
    expect(present().inputs.detail).toBe('normal');
  });

  it('a focused button keeps its Space; what the browser has with Ctrl or Alt stays its own', () => {
    expect(press(' ', {}, 'button')).toBe(false);
    expect(press('s', { ctrlKey: true })).toBe(false);
    expect(press('1', { altKey: true })).toBe(false);
  });

  it('every key of the list does something', () => {
    expect(new Set(SHORTCUTS.map(([keys]) => keys)).size).toBe(SHORTCUTS.length);
    for (const key of ['f', 's', 'g', 'p', 'h', 'i', 'b', 'Escape', '?', 'Delete', ' ']) expect(press(key)).toBe(true);
  });
});
