import { describe, expect, it } from 'vitest';
import { addDyad, cross, dot, normalised } from '../../geometry/vec';
import type { Vec3 } from '../../geometry/mesh';
import { eigenOf, frame } from '../../numerics/eigen';
import { intoStream } from './streamFrame';

const map = new Float64Array(36);
/** A tensor with different values along three directions at a right angle. */
const around = (along: Vec3, beside: Vec3): Float64Array => {
  const tensor = new Float64Array(6);
  addDyad(tensor, 0, 0.7, along);
  addDyad(tensor, 0, 0.25, beside);
  addDyad(tensor, 0, 0.05, cross(along, beside));
  return tensor;
};
const apply = (tensor: Float64Array) =>
  Float64Array.from({ length: 6 }, (_, row) => tensor.reduce((s, x, c) => s + map[6 * row + c] * x, 0));
/** Two streams, so many degrees apart, and what stands at a right angle to both. */
const apart = (degrees: number): { from: Vec3; to: Vec3; normal: Vec3 } => {
  const [a, b] = [normalised([1, 2, -0.5]), normalised([0.3, -1, 2])];
  const normal = normalised(cross(a, b));
  const side = cross(normal, a);
  const angle = (degrees * Math.PI) / 180;
  return { from: a, to: a.map((x, d) => x * Math.cos(angle) + side[d] * Math.sin(angle)) as Vec3, normal };
};

describe('tensors between the frames of streams', () => {
  it.each([0.1, 12, 29.9])('lie to the other stream as they lay to their own, %s degrees apart', (degrees) => {
    const { from, to, normal } = apart(degrees);
    const speed = 0.37;
    expect(intoStream(map, Float64Array.from([9, ...from.map((x) => speed * x)]), 1, to)).toBe(true);
    const turned = apply(around(from, normal));
    around(to, normal).forEach((x, c) => expect(turned[c]).toBeCloseTo(x, 12));
  });

  it('are turned less and less where streams meet, and stay tensors of directions', () => {
    const own = frame();
    let before = 1;
    for (const degrees of [30, 40, 50, 59]) {
      const { from, to, normal } = apart(degrees);
      expect(intoStream(map, Float64Array.from(from), 0, to)).toBe(true);
      const turned = apply(around(from, normal));
      expect(turned[0] + turned[1] + turned[2]).toBeCloseTo(1, 12);
      const { values, vectors } = eigenOf(turned, own);
      expect(Math.min(...values)).toBeGreaterThan(0);
      const most = values.indexOf(Math.max(...values));
      const main = [0, 1, 2].map((d) => vectors[3 * d + most]) as Vec3;
      const share = Math.acos(Math.abs(dot(main, from))) / ((degrees * Math.PI) / 180);
      expect(share).toBeLessThan(before + 1e-9);
      before = share;
    }
    expect(before).toBeLessThan(0.05);
  });

  it('stay as they are along one stream, across a weld line and where nothing flows', () => {
    const straight = apart(0);
    expect(intoStream(map, Float64Array.from(straight.from), 0, straight.from)).toBe(false);
    for (const degrees of [60.1, 90, 180]) {
      const { from, to } = apart(degrees);
      expect(intoStream(map, Float64Array.from(from), 0, to)).toBe(false);
    }
    expect(intoStream(map, new Float64Array(3), 0, [1, 0, 0])).toBe(false);
    expect(intoStream(map, Float64Array.of(1, 0, 0), 0, [0, 0, 0])).toBe(false);
  });
});
