import { describe, expect, it } from 'vitest';
import { box, disc, ORIENTATIONS } from '../../../verification/shapes';
import { random } from '../../../verification/random';
import { checkEdges, inspect } from './check';
import { closestOnTriangle, closestPoint } from './closestPoint';
import { boundsOf, flipped, mapVertices, measure, weld, type Vec3 } from './mesh';

const next = random(21);
const point = (): Vec3 => [next() * 2 - 1, next() * 2 - 1, next() * 2 - 1];
const distance = (a: Vec3, b: Vec3) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

describe('closest point', () => {
  it('on a triangle: none of the points sampled on it lies nearer, for seeded random triangles', () => {
    for (let trial = 0; trial < 200; trial++) {
      const [a, b, c, p] = [point(), point(), point(), point()];
      const found = closestOnTriangle(p, a, b, c);
      let best = Infinity;
      for (let i = 0; i <= 40; i++) {
        for (let j = 0; i + j <= 40; j++) {
          const [u, v] = [i / 40, j / 40];
          const q = a.map((x, d) => x + u * (b[d] - x) + v * (c[d] - x)) as Vec3;
          best = Math.min(best, distance(p, q));
        }
      }
      expect(distance(p, found)).toBeLessThanOrEqual(best + 1e-12);
      // And not nearer than the sampling can miss.
      expect(distance(p, found)).toBeGreaterThan(best - 0.1);
    }
  });

  it.each(Object.entries(ORIENTATIONS))('on a plate is straight below, with its normal (%s)', (_name, turn) => {
    const plate = mapVertices(box(0.04, 0.03, 0.002), turn);
    const found = closestPoint(plate, turn([0.01, 0.005, 0.004]));
    expect(found.distance).toBeCloseTo(0.003, 12);
    expect(distance(found.point, turn([0.01, 0.005, 0.001]))).toBeLessThan(1e-12);
    expect(distance(found.normal, turn([0, 0, 1]))).toBeLessThan(1e-12);
  });

  it('needs a mesh', () => {
    expect(() => closestPoint({ positions: new Float64Array(0), triangles: new Uint32Array(0) }, [0, 0, 0])).toThrow();
  });
});

describe('measures', () => {
  it.each(Object.entries(ORIENTATIONS))('volume and area do not feel %s nor a shift', (_name, turn) => {
    const body = disc(0.03, 0.002, 30);
    const moved = mapVertices(body, (v) => turn(v).map((x) => x + 12.5) as Vec3);
    expect(measure(moved).volume / measure(body).volume).toBeCloseTo(1, 8);
    expect(measure(moved).area / measure(body).area).toBeCloseTo(1, 8);
  });

  it('inside out has negative volume and is told', () => {
    const plate = box(0.04, 0.03, 0.002);
    expect(measure(flipped(plate)).volume).toBeCloseTo(-measure(plate).volume, 15);
    expect(inspect(flipped(plate))).toMatchObject({ watertight: true, insideOut: true });
    expect(inspect(flipped(plate)).volume).toBeGreaterThan(0);
  });

  it('bounds', () => {
    expect(boundsOf(box(4, 2, 1).positions)).toEqual({ min: [0, -1, -0.5], max: [4, 1, 0.5] });
  });
});

describe('edges', () => {
  const plate = box(0.04, 0.03, 0.002);
  it('a closed body has none to report', () => {
    expect(checkEdges(plate)).toEqual({ nOpen: 0, nNonManifold: 0, nMisoriented: 0 });
  });
  it('a missing triangle opens three', () => {
    expect(checkEdges({ ...plate, triangles: plate.triangles.slice(3) }).nOpen).toBe(3);
  });
  it('a fin stands on an edge of three triangles', () => {
    const positions = Float64Array.from([...plate.positions, 0, 0, 0.1]);
    const triangles = Uint32Array.from([
      ...plate.triangles,
      plate.triangles[0],
      plate.triangles[1],
      positions.length / 3 - 1,
    ]);
    expect(checkEdges({ positions, triangles })).toMatchObject({ nNonManifold: 1, nOpen: 2 });
  });
  it('two bodies that touch along an edge are two closed bodies', () => {
    const soup: number[] = [];
    for (const shift of [0, 1]) {
      const b = mapVertices(box(1, 1, 1), ([x, y, z]) => [x + shift, y, z + shift]);
      for (const v of b.triangles) soup.push(...b.positions.slice(3 * v, 3 * v + 3));
    }
    expect(inspect(weld(soup).mesh).watertight).toBe(true);
  });
});

describe('welding', () => {
  it('joins equal corners and counts what collapsed', () => {
    const corner = [0, 0, 0];
    const { mesh, nDropped } = weld([...corner, 1, 0, 0, 0, 1, 0, ...corner, -0, 0, 0, 0, 1, 0]);
    expect(mesh.positions.length / 3).toBe(3);
    expect([mesh.triangles.length / 3, nDropped]).toEqual([1, 1]);
  });

  it('keeps thousands of vertices apart (seeded fuzz)', () => {
    const soup = Array.from({ length: 9 * 2000 }, () => next());
    const { mesh } = weld([...soup, ...soup]);
    expect(mesh.positions.length / 3).toBe(6000);
    expect(mesh.triangles.length / 3).toBe(4000);
  });
});
