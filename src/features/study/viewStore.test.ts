import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { recallView, useView } from './viewStore';

let kept: Map<string, string>;
const fresh = useView.getInitialState();
beforeEach(() => {
  kept = new Map();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
    removeItem: (key: string) => kept.delete(key),
  });
  useView.setState(fresh, true);
});
afterEach(() => vi.unstubAllGlobals());

describe('how things are looked at', () => {
  it('comes back at the next visit: layers, preview and feed, and nothing else', () => {
    const { set, layers } = useView.getState();
    set({ layers: { ...layers, isochrones: true, weldLines: false }, preview: false, time: 0.5, station: 'cycle' });
    set({ feedShown: 'hidden' as never });
    useView.setState(fresh, true);
    recallView();
    expect(useView.getState().layers).toMatchObject({ isochrones: true, weldLines: false, places: layers.places });
    expect(useView.getState()).toMatchObject({ preview: false, time: fresh.time, station: fresh.station });
  });

  it.each([
    ['no text of ours', '{broken'],
    ['nothing', 'null'],
    ['other kinds of values', '{"layers":{"isochrones":"yes","other":true},"preview":3,"feedShown":"sideways"}'],
  ])('is as it was where the browser kept %s', (_name, text) => {
    kept.set('bellows.view', text);
    recallView();
    expect(useView.getState()).toMatchObject({ layers: fresh.layers, preview: fresh.preview, feedShown: 'full' });
    expect(Object.keys(useView.getState().layers)).toEqual(Object.keys(fresh.layers));
  });

  it('flies to a place and marks it; the same place again is another flight', () => {
    const { flyTo, look } = useView.getState();
    flyTo([1, 2, 3], 'Largest deviation');
    const first = useView.getState().cameraRequest;
    flyTo([1, 2, 3], 'Largest deviation');
    expect(useView.getState().cameraRequest.n).toBe(first.n + 1);
    expect(useView.getState().place).toEqual({ position: [1, 2, 3], label: 'Largest deviation' });
    look('fit');
    expect(useView.getState().cameraRequest).toEqual({ n: first.n + 2, view: 'fit', target: null });
  });
});
