import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { TURNS } from '../../../verification/solids';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { dot } from '../geometry/vec';
import { tabPlaces } from './tabPlaces';

const [LENGTH, WIDTH, WALL] = [0.06, 0.04, 0.002];

describe.each(Object.entries(TURNS))('places for a tab, %s', (_, turn) => {
  const axes = ([0, 1, 2] as const).map((m) => turn([0, 1, 2].map((d) => Number(d === m)) as Vec3));
  const places = tabPlaces(mapVertices(box(LENGTH, WIDTH, WALL), turn), axes[2], WALL);
  const own = (v: Vec3) => axes.map((e) => dot(e, v)) as Vec3;
  const middle = own(
    [0, 1, 2].map(
      (d) => (Math.min(...places.map((p) => p.position[d])) + Math.max(...places.map((p) => p.position[d]))) / 2,
    ) as Vec3,
  );

  it('lie all round the sides, in the middle of their height, and look outwards', () => {
    expect(places.length).toBeGreaterThan(20);
    for (const { position, direction } of places) {
      const [x, y, z] = own(position).map((v, d) => v - middle[d]);
      const [nx, ny, nz] = own(direction);
      expect(Math.abs(nz)).toBeLessThan(1e-9);
      expect(Math.abs(z)).toBeLessThan(1e-6);
      expect(nx * x + ny * y).toBeGreaterThan(0);
      expect(
        Math.max(Math.abs(Math.abs(x) - LENGTH / 2) * Math.abs(nx), Math.abs(Math.abs(y) - WIDTH / 2) * Math.abs(ny)),
      ).toBeLessThan(1e-9);
    }
    for (const side of [0, 1, 2, 3]) {
      const [d, sign] = [side >> 1, side % 2 ? 1 : -1];
      expect(places.filter((p) => own(p.direction)[d] * sign > 0.9).length).toBeGreaterThan(3);
    }
  });

  it('are none where another side is in the way', () => {
    // Two plates that look at each other across less than a tab needs.
    const gap = 0.006;
    const other = mapVertices(
      mapVertices(box(LENGTH, WIDTH, WALL), ([x, y, z]) => [x, y + WIDTH + gap, z]),
      turn,
    );
    const one = mapVertices(box(LENGTH, WIDTH, WALL), turn);
    const positions = Float64Array.from([...one.positions, ...other.positions]);
    const triangles = Uint32Array.from([
      ...one.triangles,
      ...Array.from(other.triangles, (v) => v + one.positions.length / 3),
    ]);
    const both = tabPlaces({ positions, triangles }, axes[2], WALL);
    const along = (sign: number) => both.filter((p) => own(p.direction)[1] * sign > 0.9).length;
    const before = places.filter((p) => own(p.direction)[1] > 0.9).length;
    expect([along(1), along(-1)]).toEqual([before, before]);
  });
});
