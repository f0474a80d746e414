import { describe, expect, it } from 'vitest';
import { packArrays } from '../core/formats/arrays';
import { WEIGHTS } from '../core/grid/surfaceMap';
import { mapTexels, sequential } from './colour';
import { readGrid } from '@/core/formats/viewGrid';
import { NO_VALUE, valuesAt } from './results';

/** Relative luminance (WCAG) of an sRGB colour. */
function luminance(rgb: number[]): number {
  const [r, g, b] = rgb.map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

describe('colour map', () => {
  it('gets lighter all the way, in even steps of lightness', () => {
    const lightness = Array.from({ length: 41 }, (_, i) => Math.cbrt(luminance(sequential(i / 40))));
    const steps = lightness.slice(1).map((l, i) => l - lightness[i]);
    const mean = steps.reduce((s, v) => s + v, 0) / steps.length;
    for (const step of steps) {
      expect(step).toBeGreaterThan(0.4 * mean);
      expect(step).toBeLessThan(1.8 * mean);
    }
  });

  it('fills the texture from end to end, opaque', () => {
    const texels = mapTexels(16);
    expect(texels).toHaveLength(64);
    for (let i = 3; i < 64; i += 4) expect(texels[i]).toBe(255);
    expect([...texels.slice(0, 3)]).toEqual(sequential(0).map((c) => Math.round(255 * c)));
  });
});

describe('values at points', () => {
  const map = (pairs: [node: number, weight: number][]) => {
    const nodes = new Int32Array(WEIGHTS);
    const weights = new Uint8Array(WEIGHTS);
    pairs.forEach(([node, weight], i) => {
      nodes[i] = node;
      weights[i] = weight;
    });
    return { nodes, weights };
  };
  const at = (pairs: [number, number][], values: number[]) =>
    valuesAt(map(pairs), Float32Array.from(values), new Float32Array(1))[0];

  it('is the weighted mean', () =>
    expect(
      at(
        [
          [0, 51],
          [1, 204],
        ],
        [10, 20],
      ),
    ).toBeCloseTo(18, 5));
  it('leaves out nodes without a value', () =>
    expect(
      at(
        [
          [0, 155],
          [1, 100],
        ],
        [10, NaN],
      ),
    ).toBe(10));
  it('has none where most have none', () =>
    expect(
      at(
        [
          [0, 100],
          [1, 155],
        ],
        [10, NaN],
      ),
    ).toBe(Math.fround(NO_VALUE)));
  it('has none without weights', () => expect(at([], [1, 2])).toBe(Math.fround(NO_VALUE)));
});

describe('grid of a run', () => {
  it('finds the node at a point and interpolates between linked ones only', () => {
    // Three blocks in a row: the first two linked, the third across a gap.
    const lattice = { origin: [0, 0, 0], spacing: 1, nx: 6, ny: 2, nz: 2 };
    const index = Int32Array.from([0, 2, 4]);
    const buffer = packArrays(
      { gridKey: 'k', lattice, spacing: 2 },
      {
        index,
        volume: Float32Array.of(1, 1, 1),
        nodeOfCell: Int32Array.of(0, 1, 2),
        position: Float32Array.of(1, 1, 1, 3, 1, 1, 5, 1, 1),
        rowStart: Int32Array.of(0, 1, 2, 2),
        rowNode: Int32Array.of(1, 0),
        nodeVolume: Float32Array.of(1, 1, 1),
      },
    ).buffer as ArrayBuffer;
    const { mapper, nNodes } = readGrid(buffer);
    expect(nNodes).toBe(3);
    expect(mapper.nodeAt(0.5, 0.5, 0.5)).toBe(0);
    expect(mapper.nodeAt(4.2, 0.5, 0.5)).toBe(2);
    // No cell there; the nearest one serves.
    expect(mapper.nodeAt(3.4, 0.5, 0.5)).toBeGreaterThan(0);
    const nodes = new Int32Array(WEIGHTS);
    const weights = new Uint8Array(WEIGHTS);
    mapper.weightsAt([2, 1, 1], 0, nodes, weights, 0);
    expect([...nodes.slice(0, 2)].sort()).toEqual([0, 1]);
    expect(Math.abs(weights[0] - weights[1])).toBeLessThanOrEqual(1);
    mapper.weightsAt([4, 1, 1], 2, nodes, weights, 0);
    // Half way to its neighbour across the gap, the third node stands alone.
    expect([nodes[0], weights[0], weights[1]]).toEqual([2, 255, 0]);
  });
});
