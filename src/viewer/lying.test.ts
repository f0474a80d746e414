import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { inverse, placed } from '../core/geometry/placement';
import type { Eye, Pose } from './camera';
import { eyeThrough, inMillimetres, planeMoved } from './lying';

/** Half a right angle about z, then moved. */
const MATRIX = [Math.SQRT1_2, -Math.SQRT1_2, 0, 0.03, Math.SQRT1_2, Math.SQRT1_2, 0, -0.02, 0, 0, 1, 0.01];

/** An eye that is known to several viewers. */
function sharedEye(): Eye {
  let pose: Pose | null = null;
  const told = new Set<(pose: Pose) => void>();
  return {
    now: () => pose,
    moved: (next) => {
      pose = next;
      told.forEach((tell) => tell(next));
    },
    follow: (tell) => {
      told.add(tell);
      return () => void told.delete(tell);
    },
  };
}

describe('a part that lies otherwise than the one that leads', () => {
  const matrix = inMillimetres(MATRIX);

  it('is looked at from the same place of the part, whichever of the two is turned', () => {
    const eye = sharedEye();
    const other = eyeThrough(eye, matrix);
    const seen: Pose[] = [];
    other.follow((pose) => seen.push(pose));
    eye.moved({ position: [100, -50, 80], target: [1, 2, 3] });
    expect(seen[0].position).toEqual(placed(matrix, [100, -50, 80]));
    expect(other.now()?.target).toEqual(placed(matrix, [1, 2, 3]));
    other.moved({ position: placed(matrix, [5, 6, 7]), target: placed(matrix, [0, 0, 0]), framed: 'box' });
    eye.now()!.position.forEach((x, d) => expect(x).toBeCloseTo([5, 6, 7][d], 9));
    expect(eye.now()!.framed).toBe('box');
  });

  it('gets back the very pose that it told of, so that nothing is moved twice', () => {
    const eye = sharedEye();
    const other = eyeThrough(eye, matrix);
    const seen: Pose[] = [];
    other.follow((pose) => seen.push(pose));
    const own: Pose = { position: [1, 2, 3], target: [4, 5, 6] };
    other.moved(own);
    expect(seen[0]).toBe(own);
  });

  it('is cut through the same places', () => {
    const plane = new THREE.Vector4(0.6, 0, 0.8, -4);
    const moved = planeMoved(plane, matrix);
    const off = ([x, y, z]: readonly number[], { x: a, y: b, z: c, w }: THREE.Vector4) => a * x + b * y + c * z + w;
    for (const p of [
      [0, 0, 0],
      [10, -3, 2],
      [-40, 12, 30],
    ] as [number, number, number][])
      expect(off(placed(matrix, p), moved)).toBeCloseTo(off(p, plane), 9);
    const back = planeMoved(moved, inverse(matrix));
    expect(back.toArray()).toEqual(plane.toArray().map((x) => expect.closeTo(x, 9)));
  });
});
