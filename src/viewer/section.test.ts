import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import type { SectionView } from './fieldView';
import { placeOnPlane, sectionPlane, sectionThrough } from './section';

const box = new THREE.Box3(new THREE.Vector3(0, -10, 5), new THREE.Vector3(40, 10, 25));
const at = (more: Partial<SectionView>) =>
  sectionPlane({ axis: 'x', at: 0.5, flipped: false, tilt: 0, swing: 0, ...more }, box);
/** Height of a point over the plane, mm: what lies above is cut away. */
const over = (plane: THREE.Vector4, x: number, y: number, z: number) =>
  plane.x * x + plane.y * y + plane.z * z + plane.w;

describe('the cutting plane', () => {
  it.each([
    ['x', [20, 0, 15]],
    ['y', [20, 0, 15]],
    ['z', [20, 0, 15]],
  ] as const)('halfway along %s goes through the middle, and takes away what lies ahead', (axis, [x, y, z]) => {
    const plane = at({ axis });
    expect(over(plane, x, y, z)).toBeCloseTo(0, 9);
    const ahead = new THREE.Vector3(x, y, z).setComponent('xyz'.indexOf(axis), 99);
    expect(over(plane, ahead.x, ahead.y, ahead.z)).toBeGreaterThan(0);
    const flipped = at({ axis, flipped: true });
    expect(over(flipped, ahead.x, ahead.y, ahead.z)).toBeLessThan(0);
  });

  it('moves from end to end, and never lies on an end face', () => {
    const place = (share: number) => -at({ at: share }).w;
    expect(place(0.25)).toBeCloseTo(10, 9);
    expect(place(0)).toBeGreaterThan(0);
    expect(place(0)).toBeLessThan(0.1);
    expect(place(1)).toBeLessThan(40);
    expect(place(1)).toBeGreaterThan(39.9);
  });

  it.each([
    // An edge is the first to go where the plane is turned once, a corner where twice.
    [30, 0, 2],
    [0, -40, 2],
    [25, 70, 1],
  ])('tilted by %d and swung by %d degrees it reaches every corner', (tilt, swing, first) => {
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => [k & 1 ? 40 : 0, k & 2 ? 10 : -10, k & 4 ? 25 : 5] as const);
    const cut = (share: number) => {
      const plane = at({ tilt, swing, at: share });
      expect(Math.hypot(plane.x, plane.y, plane.z)).toBeCloseTo(1, 9);
      return corners.filter(([x, y, z]) => over(plane, x, y, z) > 0).length;
    };
    expect([cut(0), cut(1)]).toEqual([8 - first, first]);
    expect(cut(0.5)).toBe(4);
  });

  it('turned about the next axis by a quarter is the plane across the one after', () => {
    const plane = at({ tilt: 90 });
    expect([plane.x, plane.y, plane.z].map((n) => Math.abs(n))).toEqual([
      expect.closeTo(0, 9),
      expect.closeTo(0, 9),
      expect.closeTo(1, 9),
    ]);
  });
});

describe('a section that is laid along a face', () => {
  it('goes through the point, square to the direction, and takes away what lies along it', () => {
    let seed = 7;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647 - 0.5;
    for (let k = 0; k < 200; k++) {
      const direction = new THREE.Vector3(random(), random(), random()).normalize();
      const point = new THREE.Vector3(20 + 20 * random(), 10 * random(), 15 + 10 * random());
      const plane = sectionPlane(sectionThrough(point, direction, box), box);
      expect(over(plane, point.x, point.y, point.z)).toBeCloseTo(0, 6);
      expect(new THREE.Vector3(plane.x, plane.y, plane.z).dot(direction)).toBeCloseTo(1, 9);
    }
  });

  it('along an axis has no tilt and no swing', () => {
    const section = sectionThrough(new THREE.Vector3(10, 0, 10), new THREE.Vector3(0, -1, 0), box);
    expect(section).toMatchObject({ axis: 'y', flipped: true, at: 0.5 });
    expect(Math.abs(section.tilt) + Math.abs(section.swing)).toBeLessThan(1e-9);
  });

  it('has its grip where it is', () => {
    const plane = at({ axis: 'z', at: 0.25 });
    const grip = placeOnPlane(plane, box.getCenter(new THREE.Vector3()));
    expect(grip.toArray().map((x) => Math.round(1e6 * x) / 1e6)).toEqual([20, 0, 10]);
  });
});
