import { expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { snapToEdge } from './snap';

it('finds the sharp edge nearest to a place and the middle of its run', () => {
  const found = snapToEdge(box(0.06, 0.03, 0.002), [0.02, 0.013, 0.001])!;
  expect(found.point.map((x) => Number(x.toFixed(6)))).toEqual([0.02, 0.015, 0.001]);
  expect(found.middle.map((x) => Number(x.toFixed(6)))).toEqual([0.03, 0.015, 0.001]);
  expect(found.distance).toBeCloseTo(0.002, 9);
});
