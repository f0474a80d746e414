import { describe, expect, it } from 'vitest';
import { box } from '../../verification/shapes';
import { TURNS } from '../../verification/solids';
import { mapVertices, type Vec3 } from '../core/geometry/mesh';
import { refine } from '../core/geometry/refine';
import { facesAt } from './pieces';
import { NO_VALUE } from './results';

/** A plate of 60 x 40 x 2 mm with a value that grows along x. */
function plate(turn: (v: Vec3) => Vec3) {
  const drawn = mapVertices(refine(box(0.06, 0.04, 0.002), 0.004), ([x, y, z]) => [1000 * x, 1000 * y, 1000 * z]);
  const n = drawn.positions.length / 3;
  const x = (v: number) => drawn.positions[3 * v];
  const { positions, triangles } = mapVertices(drawn, turn);
  return {
    positions,
    triangles,
    values: Float32Array.from({ length: n }, (_, v) => 100 + x(v)),
    walls: new Float32Array(n).fill(2),
    // Grows along the plate.
    offsets: Float32Array.from({ length: 3 * n }, (_, k) => (k % 3 === 0 ? 0.01 * x((k / 3) | 0) : 0)),
  };
}
const least = (a: ArrayLike<number>) => Math.min(...Array.from(a));

describe('faces that close a piece', () => {
  it.each(Object.entries(TURNS))('lie on the value and fill the cut through the wall, %s', (_name, turn) => {
    const surface = plate(turn);
    const level = 100 + least(surface.values.map((v) => v - 100)) + 22.2;
    const { positions, offsets } = facesAt(surface, level);
    const [origin, along, wide, high] = [
      [level - 100, 0, 0],
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ].map((v) => turn(v as Vec3));
    const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    const zero = turn([0, 0, 0]);
    const dir = [along, wide, high].map((v) => v.map((c, d) => c - zero[d]));
    // Which places of the cut are covered, on a lattice through it.
    const covered = new Set<string>();
    const flat: [number, number][] = [];
    for (let k = 0; k < positions.length; k += 3) {
      const at = [0, 1, 2].map((d) => positions[k + d] - origin[d]);
      expect(Math.abs(dot(at, dir[0]))).toBeLessThan(1e-4);
      flat.push([dot(at, dir[1]), dot(at, dir[2])]);
      expect(offsets[k]).toBeCloseTo(0.01 * (level - 100), 5);
    }
    const [y0, z0] = [Math.min(...flat.map((f) => f[0])), Math.min(...flat.map((f) => f[1]))];
    const [Y, Z] = [40, 10];
    for (let t = 0; t < flat.length; t += 3) {
      const [a, b, c] = [flat[t], flat[t + 1], flat[t + 2]];
      const side = (p: number[], q: number[], r: number[]) =>
        (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
      for (let i = 0; i < Y; i++)
        for (let j = 0; j < Z; j++) {
          const p = [y0 + (40 * (i + 0.37)) / Y, z0 + (2 * (j + 0.41)) / Z];
          const s = [side(a, b, p), side(b, c, p), side(c, a, p)];
          if (s.every((x) => x >= 0) || s.every((x) => x <= 0)) covered.add(`${i} ${j}`);
        }
    }
    expect(covered.size).toBe(Y * Z);
  });

  it('are none where the value is not met, or beyond the front', () => {
    const surface = plate((v) => v);
    expect(facesAt(surface, 1e3).positions).toHaveLength(0);
    const empty = { ...surface, values: surface.values.map(() => NO_VALUE) };
    expect(facesAt(empty, 101).positions).toHaveLength(0);
  });
});
