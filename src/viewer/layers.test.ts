import { afterEach, describe, expect, it, vi } from 'vitest';
import { WEIGHTS } from '@/core/grid/surfaceMap';
import { FrameTexture, nodeFrames, onPoints } from './frames';
import type { LayerMade, LayerTask } from './layers';
import { workerHere } from './testWorker';

/** Points that show one node each. */
const map = (nodes: number[]) => ({
  nodes: Int32Array.from(nodes.flatMap((node) => Array.from({ length: WEIGHTS }, () => node))),
  weights: Uint8Array.from(nodes.flatMap(() => [255, ...new Array<number>(WEIGHTS - 1).fill(0)])),
});
const nodes = nodeFrames(
  Float32Array.from({ length: 12 }, (_, k) => (k * 7) % 5),
  3,
  [0, 1, 2, 3],
);

/** The thread in the page, its answers given when asked for. */
async function threadHere() {
  const give = await workerHere<LayerTask, LayerMade>(() => import('./layers.worker'));
  const { makeLayers } = await import('./layers');
  return { makeLayers, give };
}

afterEach(() => {
  vi.unstubAllGlobals();
  vi.resetModules();
});

describe('layers that another thread makes', () => {
  it('are those the page would make, from the play head on and round', async () => {
    const { makeLayers, give } = await threadHere();
    const frames = onPoints(map([2, 0, 1, 1]), nodes, 4);
    const here = new FrameTexture(frames);
    const written: number[] = [];
    const texture = new FrameTexture({ ...frames, write: (frame) => void written.push(frame) });
    texture.show(2);
    const taken: number[] = [];
    makeLayers(frames.of!, 4, {
      next: () => texture.missing(),
      take: (frame, layer) => (taken.push(frame), texture.take(frame, layer)),
    });
    while (give());
    expect(taken).toEqual([3, 0, 1]);
    expect(texture.missing()).toBeNull();
    for (const t of [0, 0.4, 1, 3]) {
      texture.show(t);
      here.show(t);
      for (const p of [0, 1, 2, 3]) expect(texture.at(p)).toBe(here.at(p));
    }
    // Only what was shown before was made in the page.
    expect(written).toEqual([2]);
  });

  it('come no more once they are not wanted, and do not go over what stands', async () => {
    const { makeLayers, give } = await threadHere();
    const frames = onPoints(map([0, 1]), nodes, 2);
    const texture = new FrameTexture(frames);
    texture.show(0);
    const end = makeLayers(frames.of!, 2, {
      next: () => texture.missing(),
      take: (frame, layer) => texture.take(frame, layer.fill(99)),
    });
    // Shown by now: what comes late is left.
    texture.show(1);
    give();
    expect(texture.at(0)).not.toBe(99);
    end();
    while (give());
    expect(texture.missing()).toBe(2);
  });
});
