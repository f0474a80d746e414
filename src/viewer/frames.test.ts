import { describe, expect, it } from 'vitest';
import { WEIGHTS } from '../core/grid/surfaceMap';
import { ringsOf } from './FeedDucts';
import {
  between,
  differenceFrames,
  differenceOfNodes,
  FrameTexture,
  nodeFrames,
  nodesAt,
  onPoints,
  placeAmong,
  stillFrames,
  type ValueFrames,
} from './frames';
import { NO_VALUE } from './results';

const NONE = Math.fround(NO_VALUE);

describe('a place among frames', () => {
  const times = [1, 2, 4];
  it.each([
    [-1, 0],
    [0.99, 0],
    [1, 0],
    [1.25, 0.25],
    [2, 1],
    [3.5, 1.75],
    [4, 2],
    [Infinity, 2],
  ])('%f s', (t, place) => expect(placeAmong(times, t)).toBeCloseTo(place, 12));
  it('of a single frame is always it', () =>
    expect([0, 5, Infinity].map((t) => placeAmong([0], t))).toEqual([0, 0, 0]));
});

describe('node values over the shot', () => {
  const frames = nodeFrames(Float32Array.of(0, NaN, 10, 4, 20, 8), 2, [1, 2, 3]);
  it.each([
    [0, [0, NaN]],
    // What fills between two frames takes the value it fills with.
    [1.5, [5, 4]],
    [2, [10, 4]],
    [2.25, [12.5, 5]],
    [9, [20, 8]],
  ])('at %f s', (t, expected) => expect([...nodesAt(frames, t)]).toEqual(expected));

  it('a block of one frame stands for all times, whatever their number', () => {
    const data = Float32Array.of(1, 2, 3, 4);
    expect(nodesAt(nodeFrames(data, 2, [], 2), 7)).toBe(data);
  });

  it('have components of a node side by side', () => {
    const vectors = nodeFrames(Float32Array.of(1, 2, 3, 4, 3, 4, 5, 8), 2, [0, 1], 2);
    expect([...nodesAt(vectors, 0.5)]).toEqual([2, 3, 4, 6]);
  });
});

describe('frames as a texture', () => {
  /** Points that show one node each. */
  const map = (nodes: number[]) => ({
    nodes: Int32Array.from(nodes.flatMap((node) => Array.from({ length: WEIGHTS }, () => node))),
    weights: Uint8Array.from(nodes.flatMap(() => [255, ...new Array<number>(WEIGHTS - 1).fill(0)])),
  });

  it('read what the points show of the nodes, at every moment', () => {
    const times = [0, 0.5, 2];
    const data = Float32Array.from({ length: 9 }, (_, k) => (k * 7) % 5);
    const nodes = nodeFrames(data, 3, times);
    const texture = new FrameTexture(onPoints(map([2, 0, 1, 1]), nodes, 4));
    for (const t of [0, 0.1, 0.5, 0.8, 1.9, 2, 3]) {
      texture.show(t);
      const now = nodesAt(nodes, t);
      const all = texture.now();
      [2, 0, 1, 1].forEach((node, point) => {
        expect(texture.at(point)).toBeCloseTo(now[node], 6);
        expect(all[point]).toBeCloseTo(now[node], 5);
      });
    }
  });

  it('a point that fills between two frames takes the later one; what never fills has none', () => {
    const nodes = nodeFrames(Float32Array.of(3, NaN, NaN, 5, 7, NaN), 3, [0, 1]);
    const texture = new FrameTexture(onPoints(map([0, 1, 2]), nodes, 3));
    texture.show(0.25);
    expect([0, 1, 2].map((p) => Math.fround(texture.at(p)))).toEqual([3.5, 7, NONE]);
    expect([...texture.now()]).toEqual([3.5, 7, NONE]);
    texture.show(0);
    expect([0, 1, 2].map((p) => Math.fround(texture.at(p)))).toEqual([3, NONE, NONE]);
  });

  it('write a frame when it is shown for the first time, and only then', () => {
    const written: number[] = [];
    const texture = new FrameTexture({
      n: 1500,
      times: [0, 1, 2, 3],
      write: (frame, out) => void (written.push(frame), out.fill(frame)),
    });
    texture.show(0);
    expect(written).toEqual([0]);
    for (const t of [1.2, 1.4, 1.9, 1.2]) texture.show(t);
    expect(written).toEqual([0, 1, 2]);
    // Past the first row of texels, too.
    expect(texture.at(1499)).toBeCloseTo(1.2, 6);
    texture.show(Infinity);
    expect(written).toEqual([0, 1, 2, 3]);
    expect(texture.at(1499)).toBe(3);
  });

  it('write the frames that come next ahead of the play head, one at a time, and from the start at the end', () => {
    const written: number[] = [];
    const times = Array.from({ length: 12 }, (_, k) => k);
    const texture = new FrameTexture({ n: 1, times, write: (frame) => void written.push(frame) });
    texture.show(1.5);
    expect(written).toEqual([1, 2]);
    expect(texture.writeAhead()).toBe(true);
    expect(written).toEqual([1, 2, 3]);
    while (texture.writeAhead());
    // Not all of them: they are handed over together.
    expect(written).toEqual([1, 2, 3, 4, 5, 6, 7]);
    texture.show(11);
    while (texture.writeAhead());
    expect(written.slice(7)).toEqual([11, 0]);
  });

  it('of still values are those at all times', () => {
    const texture = new FrameTexture(stillFrames(Float32Array.of(4, 2)));
    for (const t of [0, 5, Infinity]) {
      texture.show(t);
      expect([texture.at(0), texture.at(1)]).toEqual([4, 2]);
    }
  });

  it.each([
    [1, 3, 0.5, 2],
    [1, 3, 0, 1],
    [NO_VALUE, 3, 0.5, 3],
    [1, NO_VALUE, 0.5, NO_VALUE],
    [1, NO_VALUE, 0, 1],
    [NO_VALUE, NO_VALUE, 0.5, NO_VALUE],
  ])('between %d and %d at %d lies %d', (low, high, share, value) => expect(between(low, high, share)).toBe(value));
});

describe('rings of the runners', () => {
  it('stand between the cells, those of every duct in a row', () => {
    const rings = ringsOf({
      cells: nodeFrames(Float32Array.of(1, 3, 10, 20, NaN, 2, 4, 12, 22, 32), 5, [0, 1]),
      fillTimes: Float32Array.of(0.1, 0.2, 0.3, 0.4, NaN),
      ducts: new Map([
        ['sprue', { at: 0, n: 2 }],
        ['none', { at: 2, n: 0 }],
        ['runner', { at: 2, n: 3 }],
      ]),
    });
    expect([...rings.ducts.keys()]).toEqual(['sprue', 'runner']);
    expect(rings.ducts.get('runner')).toEqual({ first: 3, n: 3 });
    const out = new Float32Array(rings.values.n);
    rings.values.write(0, out);
    expect([...out]).toEqual([1, 2, 3, 10, 15, 20, NONE]);
    rings.values.write(1, out);
    expect([...out]).toEqual([2, 3, 4, 12, 17, 27, 32]);
    expect(rings.times[1]).toBeCloseTo(0.15, 6);
    expect(rings.times[6]).toBe(NONE);
  });
});

describe('a difference of frames', () => {
  const linear = (times: number[], slope: number): ValueFrames => ({
    n: 2,
    times,
    write: (frame, out) => out.set([slope * times[frame], times[frame] > 1 ? 1 : NO_VALUE]),
  });

  it('is exact at every instant of either, and none where one has none', () => {
    const frames = differenceFrames(linear([0, 1, 4], 2), linear([0, 2, 3], 5));
    expect(frames.times).toEqual([0, 1, 2, 3, 4]);
    const at = (frame: number) => {
      const out = new Float32Array(2);
      frames.write(frame, out);
      return [...out];
    };
    expect(at(1)[0]).toBeCloseTo(3, 6);
    expect(at(2)[0]).toBeCloseTo(6, 6);
    // The second ends there, and stays what it was.
    expect(at(4)[0]).toBeCloseTo(15 - 8, 6);
    expect(at(1)[1]).toBeGreaterThan(NO_VALUE / 2);
    expect(at(3)[1]).toBe(0);
  });

  it('is 0 of a thing with itself; one frame stands for all times', () => {
    const nodes = nodeFrames(Float32Array.from([1, NaN, 3, 4, 5, 6]), 3, [0, 2]);
    const none = differenceOfNodes(nodes, nodes);
    expect(none.times).toEqual([0, 2]);
    expect([...none.at(0)]).toEqual([0, NaN, 0]);
    expect([...none.at(1)]).toEqual([0, 0, 0]);
    const still = nodeFrames(Float32Array.from([1, 1, 1]), 3, []);
    expect([...differenceOfNodes(still, nodes).at(1)]).toEqual([3, 4, 5]);
  });
});
