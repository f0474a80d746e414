import { describe, expect, it } from 'vitest';
import type { Vec3 } from '@/core/geometry/mesh';
import { refine } from '@/core/geometry/refine';
import { dot, vertexAt } from '@/core/geometry/vec';
import { WEIGHTS, type SurfaceMap } from '@/core/grid/surfaceMap';
import { slab, TURNS } from '../../../verification/solids';
import { alignedShape, alongOf, deviationOfOther, movedAlong, stressAlong } from './shapeField';

const LENGTH = 0.1;
const HEIGHT = 0.01;
const BOW = 2e-4;
const LOOK: Parameters<typeof alignedShape>[2] & Parameters<typeof alongOf>[2] = {
  cause: 'all',
  along: 'total',
  align: 'best-fit',
  points: [],
  frame: 'drawing',
};
const bowed = ([x]: Vec3): Vec3 => [0, 0, BOW * (2 * (x / LENGTH) - 1) ** 2];
/** Even, about the middle of the plate. */
const shrunk =
  (share: number) =>
  ([x, y, z]: Vec3): Vec3 => [-share * (x - LENGTH / 2), -share * y, -share * z];

describe.each(Object.entries(TURNS))('the shape that a page shows, %s', (_, turn) => {
  /** The surface of a plate and what it is moved by, told of the plate as it lies flat. */
  function plate(move: (v: Vec3) => Vec3, edge = 0.02, beside = 0) {
    const { positions, triangles } = refine(
      slab(LENGTH, 0.06, () => HEIGHT),
      edge,
    );
    const n = positions.length / 3;
    const turned = (of: (v: Vec3) => Vec3) =>
      Float32Array.from(Array.from({ length: n }, (_, v) => turn(of(vertexAt(positions, v)))).flat());
    const surface: SurfaceMap = {
      positions: turned(([x, y, z]) => [x, y, z + beside]),
      triangles: Uint32Array.from(triangles),
      nodes: new Int32Array(WEIGHTS * n),
      weights: new Uint8Array(WEIGHTS * n),
    };
    return { surface, displacement: turned(move), growth: 0, flat: positions };
  }
  const picks = (
    [
      [0, -0.03, HEIGHT / 2],
      [LENGTH, -0.03, HEIGHT / 2],
      [0, 0.03, HEIGHT / 2],
    ] as Vec3[]
  ).map(turn);
  const atPick = (surface: SurfaceMap, p: Vec3) => {
    const n = surface.positions.length / 3;
    return Array.from({ length: n }, (_, v) => v).find(
      (v) => Math.hypot(...vertexAt(surface.positions, v).map((x, d) => x - p[d])) < 1e-7,
    ) as number;
  };
  const largest = (values: ArrayLike<number>) => Array.from(values).reduce((m, x) => Math.max(m, Math.abs(x)), 0);

  it('has no deviation where it shrank as the tool was cut larger, and the causes take nothing off', () => {
    const { surface, displacement } = plate(shrunk(0.01));
    expect(largest(alignedShape(surface, displacement, LOOK, 0.01))).toBeLessThan(1e-8);
    const cause = alignedShape(surface, displacement, { ...LOOK, cause: 'cooling' }, 0.01);
    expect(largest(alongOf(surface, cause, LOOK))).toBeCloseTo(0.01 * Math.hypot(LENGTH / 2, 0.03, HEIGHT / 2), 6);
  });

  it('keeps a bow, seen outwards on one face and inwards on the other', () => {
    const { surface, displacement, flat } = plate(bowed);
    const offset = alignedShape(surface, displacement, LOOK, 0);
    const outwards = alongOf(surface, offset, { ...LOOK, along: 'normal' });
    const middle = (z: number) =>
      Array.from(outwards).filter(
        (_, v) =>
          Math.abs(flat[3 * v] - LENGTH / 2) < 1e-6 && Math.abs(flat[3 * v + 1]) < 0.02 && flat[3 * v + 2] === z,
      );
    expect(middle(HEIGHT / 2).length).toBeGreaterThan(0);
    middle(HEIGHT / 2).forEach((x) => expect(x).toBeLessThan(-0.2 * BOW));
    middle(-HEIGHT / 2).forEach((x) => expect(x).toBeGreaterThan(0.2 * BOW));
  });

  it('laid on by three places, touches at the first and moves only as it may at the others', () => {
    const { surface, displacement } = plate((v) => {
      const [a, b] = [bowed(v), shrunk(0.004)(v)];
      return [a[0] + b[0] + 1e-3, b[1] - 2e-3, a[2] + b[2] + 0.02 * v[0]];
    });
    const offset = alignedShape(surface, displacement, { ...LOOK, align: 'three-points', points: picks }, 0);
    const [a, b, c] = picks.map((p) => vertexAt(offset, atPick(surface, p)));
    expect(Math.hypot(...a)).toBeLessThan(1e-8);
    const [y, z] = [turn([0, 1, 0]), turn([0, 0, 1])];
    expect(Math.abs(dot(b, y)) + Math.abs(dot(b, z))).toBeLessThan(1e-8);
    expect(dot(b, turn([1, 0, 0]))).toBeCloseTo(-0.004 * LENGTH, 6);
    expect(Math.abs(dot(c, z))).toBeLessThan(1e-8);
  });

  it('with fewer than three places, or three in a row, falls back to the best fit', () => {
    const { surface, displacement } = plate(bowed);
    const fit = alignedShape(surface, displacement, LOOK, 0);
    const row = [picks[0], picks[1], picks[0].map((x, d) => (x + picks[1][d]) / 2) as Vec3];
    for (const points of [picks.slice(0, 2), row])
      expect(alignedShape(surface, displacement, { ...LOOK, align: 'three-points', points }, 0)).toEqual(fit);
  });

  it.each(['best-fit', 'three-points'] as const)(
    'carries other places along by the motion of the part: %s',
    (align) => {
      const { surface, displacement } = plate(bowed);
      const look = { ...LOOK, align, points: picks };
      const offset = alignedShape(surface, displacement, look, 0.003);
      const along = movedAlong(surface, displacement, look, 0.003, surface.positions, displacement);
      offset.forEach((x, k) => expect(along[k]).toBeCloseTo(x, 8));
    },
  );

  it('in axes of picked places is the same however the part lies', () => {
    const { surface, displacement, flat } = plate(bowed);
    const frame = { ...LOOK, frame: 'points', points: picks } as const;
    const across = alongOf(surface, displacement, { ...frame, along: 'z' });
    for (let v = 0; v < across.length; v++) expect(across[v]).toBeCloseTo(bowed(vertexAt(flat, v))[2], 8);
    expect(largest(alongOf(surface, displacement, { ...frame, along: 'x' }))).toBeLessThan(1e-9);
  });

  it('is taken off another run, whose surface has other triangles', () => {
    const own = plate(bowed, 0.01);
    const offset = alignedShape(own.surface, own.displacement, LOOK, 0);
    const theirs = deviationOfOther(own.surface, plate(bowed, 0.007), LOOK);
    expect(largest(offset.map((x, k) => x - theirs[k]))).toBeLessThan(0.05 * BOW);
  });

  it('says nothing where the other part is not', () => {
    const own = plate(bowed);
    expect([...deviationOfOther(own.surface, plate(bowed, 0.02, 0.05), LOOK)].every(Number.isNaN)).toBe(true);
  });

  it('shows a pull along one axis whole there, not at all across, and half of it in the mean', () => {
    const x = turn([1, 0, 0]);
    const pull = Float32Array.of(x[0] * x[0], x[1] * x[1], x[2] * x[2], x[0] * x[1], x[1] * x[2], x[0] * x[2]);
    const tensors = pull.map((s) => 5e6 * s);
    const frame = { frame: 'points', points: picks } as const;
    expect(stressAlong(tensors, { ...frame, along: 'x' })[0] / 5e6).toBeCloseTo(1, 5);
    expect(Math.abs(stressAlong(tensors, { ...frame, along: 'y' })[0])).toBeLessThan(1);
    expect(stressAlong(tensors, { ...frame, along: 'total' })[0] / 2.5e6).toBeCloseTo(1, 5);
  });
});
