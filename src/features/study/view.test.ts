import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { aimOf, recallBench, useBench } from './bench';
import { createView, linkViews, mainView, recallView } from './view';

let kept: Map<string, string>;
const fresh = mainView.getInitialState();
const freshBench = useBench.getInitialState();
beforeEach(() => {
  kept = new Map();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
  mainView.setState(fresh, true);
  useBench.setState(freshBench, true);
});
afterEach(() => vi.unstubAllGlobals());

describe('how things are looked at', () => {
  it('comes back at the next visit: layers, runners, preview, and nothing else', () => {
    const { set, layers } = mainView.getState();
    set({ layers: { ...layers, isochrones: true, weldLines: false }, feedShown: 'faded', time: 0.5 });
    useBench.getState().set({ preview: false, station: 'cycle' });
    const stored = new Map(kept);
    mainView.setState(fresh, true);
    useBench.setState(freshBench, true);
    kept = stored;
    recallView();
    recallBench();
    expect(mainView.getState().layers).toMatchObject({ isochrones: true, weldLines: false, places: layers.places });
    expect(mainView.getState()).toMatchObject({ time: fresh.time, feedShown: 'faded' });
    expect(useBench.getState()).toMatchObject({ preview: false, station: freshBench.station });
  });

  it.each([
    ['no text of ours', '{broken'],
    ['nothing', 'null'],
    ['other kinds of values', '{"layers":{"isochrones":"yes","other":true},"preview":3,"feedShown":"sideways"}'],
  ])('is as it was where the browser kept %s', (_name, text) => {
    kept.set('bellows.view', text);
    kept.set('bellows.bench', text);
    recallView();
    recallBench();
    expect(mainView.getState()).toMatchObject({ layers: fresh.layers, feedShown: 'full' });
    expect(useBench.getState().preview).toBe(freshBench.preview);
    expect(Object.keys(mainView.getState().layers)).toEqual(Object.keys(fresh.layers));
  });

  it('flies to a place and marks it; the same place again is another flight', () => {
    const { flyTo, look } = mainView.getState();
    flyTo([1, 2, 3], 'Largest deviation');
    const first = mainView.getState().cameraRequest;
    flyTo([1, 2, 3], 'Largest deviation');
    expect(mainView.getState().cameraRequest.n).toBe(first.n + 1);
    expect(mainView.getState().place).toEqual({ position: [1, 2, 3], label: 'Largest deviation' });
    look('fit');
    expect(mainView.getState().cameraRequest).toEqual({ n: first.n + 2, view: 'fit', target: null });
  });

  it('a station that is left waits for no click any more', () => {
    const { set, goTo } = useBench.getState();
    set({ aim: { for: 'measure', kind: 'distance', places: [[0, 0, 0]] } });
    expect(aimOf(useBench.getState().aim, 'probe')).toBeNull();
    expect(aimOf(useBench.getState().aim, 'measure')?.places).toHaveLength(1);
    goTo('feed');
    expect(useBench.getState()).toMatchObject({ station: 'feed', aim: null });
  });
});

describe('several views', () => {
  it('each have field, instant, section and eye of their own', () => {
    const [a, b] = [createView(), createView()];
    a.getState().set({ field: 'pressure', time: 0.4, brush: [1, 2] });
    a.getState().flyTo([1, 0, 0], 'Trap');
    expect(b.getState()).toMatchObject({ field: 'fillTime', time: Infinity, brush: null, place: null });
    expect(b.getState().cameraRequest.n).toBe(0);
  });

  it('share what links them, from the first one on, and nothing besides', () => {
    const views = [createView(), createView(), createView()];
    views[0].getState().set({ time: 0.3, field: 'pressure' });
    const unlink = linkViews(views, ['clock', 'camera']);
    expect(views.map((v) => v.getState().time)).toEqual([0.3, 0.3, 0.3]);
    views[2].getState().set({ time: 0.7, playing: true, field: 'temperature' });
    expect(views.map((v) => v.getState().time)).toEqual([0.7, 0.7, 0.7]);
    expect(views.map((v) => v.getState().field)).toEqual(['pressure', 'fillTime', 'temperature']);
    const pose = { position: [0, 0, 100], target: [0, 0, 0] } as const;
    views[1].getState().set({ pose });
    expect(views.every((v) => v.getState().pose === pose)).toBe(true);
    unlink();
    views[0].getState().set({ time: 0.1 });
    expect(views.map((v) => v.getState().time)).toEqual([0.1, 0.7, 0.7]);
  });

  it('a link tells each of them once', () => {
    const views = [createView(), createView()];
    linkViews(views, ['clock', 'section']);
    const told = [0, 0];
    views.forEach((v, k) => v.subscribe(() => told[k]++));
    views[0].getState().set({ time: 0.2 });
    expect(told).toEqual([1, 1]);
    views[1].getState().set({ section: { ...fresh.section, on: true } });
    expect(told).toEqual([2, 2]);
    expect(views[0].getState().section.on).toBe(true);
  });
});
