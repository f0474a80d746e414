import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '@/core/geometry/mesh';
import { slab, TURNS } from '../../../verification/solids';
import { rulerEnd, rulerSaid } from './ruler';

describe.each(Object.entries(TURNS))('distances on the part, %s', (_, turn) => {
  const plate = mapVertices(
    slab(0.06, 0.04, () => 0.0025),
    turn,
  );
  const up = turn([0, 0, 1]);
  // The slab begins at x = 0 and lies about the middle of its width and thickness.
  const on = (x: number, y: number): Vec3 => turn([x, y, 0.00125]);

  it('tell the wall below a face, and catch the edge beside a click', () => {
    expect(rulerEnd(plate, on(0.03, 0.001), up).wall).toBeCloseTo(0.0025, 9);
    const caught = rulerEnd(plate, on(0.03, 0.0197), up);
    expect(caught.wall).toBeNull();
    const edge = on(0.03, 0.02);
    expect(Math.hypot(...caught.at.map((x, d) => x - edge[d]))).toBeLessThan(1e-9);
  });

  it('of a place off the surface have no wall', () => {
    expect(rulerEnd(plate, turn([0.03, 0.001, 0.01]), up).wall).toBeNull();
  });
});

describe('what has been measured', () => {
  it('is said as far as it goes, and rounding leaves nothing behind', () => {
    expect(rulerSaid([])).toContain('Click a place');
    expect(rulerSaid([{ at: [0, 0, 0], wall: 0.002 }])).toBe('wall 2.00 mm; click a second place for the distance');
    expect(rulerSaid([{ at: [0, 0, 0], wall: null }])).toBe('On an edge; click a second place for the distance');
    expect(
      rulerSaid([
        { at: [0, 0, 0], wall: 0.002 },
        { at: [0.03, -0.04, 5e-18], wall: 0.0015 },
      ]),
    ).toBe('50.00 mm; X 30.0 mm, Y 40.0 mm, Z 0 mm; wall 2.00 mm, wall 1.50 mm');
  });
});
