import { describe, expect, it } from 'vitest';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { ball, prismOf, revolve, slab, TURNS } from '../../../verification/solids';
import { mapSurface } from './surface';
import { wallThickness } from './thickness';

/** Wanted: within 3 % everywhere. */
const TOLERANCE = 0.03;

/** Area-weighted share of facets off by more than the tolerance, and the mean error. */
function judge(mesh: TriangleMesh, maxEdge: number, expected: (centroid: Vec3, normal: Vec3) => number | null) {
  const surface = mapSurface(mesh, maxEdge);
  const { value } = wallThickness(surface);
  let [bad, all, sum] = [0, 0, 0];
  for (let i = 0; i < surface.n; i++) {
    const at = (a: Float64Array) => Array.from(a.subarray(3 * i, 3 * i + 3)) as Vec3;
    const want = expected(at(surface.centroids), at(surface.normals));
    if (want === null) continue;
    const error = Math.abs(value[i] / want - 1);
    all += surface.areas[i];
    sum += surface.areas[i] * error;
    if (!(error <= TOLERANCE)) bad += surface.areas[i];
  }
  expect(all).toBeGreaterThan(0);
  return { bad: bad / all, mean: sum / all };
}

describe.each(Object.entries(TURNS))('wall thickness, %s', (_, turn) => {
  const turned = (mesh: TriangleMesh) => mapVertices(mesh, turn);
  /** Shapes are described unturned: back to there with the transpose. */
  const back = (v: Vec3): Vec3 => {
    const axes = [turn([1, 0, 0]), turn([0, 1, 0]), turn([0, 0, 1])];
    return axes.map((a) => a[0] * v[0] + a[1] * v[1] + a[2] * v[2]) as Vec3;
  };

  it('of a plate is its drawn thickness right up to the rim', () => {
    const plate = slab(0.06, 0.04, () => 0.002);
    const { bad } = judge(turned(plate), 0.002, (_c, n) => (Math.abs(back(n)[2]) > 0.9 ? 0.002 : null));
    expect(bad).toBe(0);
  });

  it('of a tube is outer minus inner radius', () => {
    const tube = revolve([
      [0.01, 0],
      [0.012, 0],
      [0.012, 0.04],
      [0.01, 0.04],
    ]);
    const { bad } = judge(turned(tube), 0.002, (_c, n) => (Math.abs(back(n)[2]) < 0.1 ? 0.002 : null));
    expect(bad).toBe(0);
  });

  it('of a taper is measured across its middle plane', () => {
    const [thin, thick, length] = [0.001, 0.004, 0.06];
    const taper = slab(length, 0.03, (x) => thin + ((thick - thin) * x) / length);
    const { bad } = judge(turned(taper), 0.0015, (c, n) => {
      const x = back(c)[0];
      // At the ends the ball leans over the end face.
      return Math.abs(back(n)[2]) < 0.9 || x < 0.004 || x > length - 0.004
        ? null
        : thin + ((thick - thin) * x) / length;
    });
    expect(bad).toBe(0);
  });

  it('of a sphere is its diameter', () => {
    const { bad, mean } = judge(turned(ball(0.01, 48)), 0.002, () => 0.02);
    expect(bad).toBe(0);
    // The facets lie within the sphere: their mean distance is 0.2 % short at 48 steps around.
    expect(mean).toBeLessThan(0.01);
  });

  it('grows where a rib stands on a wall, as the inscribed circle does', () => {
    const [wall, rib] = [0.003, 0.0018];
    const outline: [number, number][] = [
      [-0.02, 0],
      [0.02, 0],
      [0.02, wall],
      [rib / 2, wall],
      [rib / 2, 0.013],
      [-rib / 2, 0.013],
      [-rib / 2, wall],
      [-0.02, wall],
    ];
    const surface = mapSurface(turned(prismOf(outline, 0.012)), 0.0008);
    const { value } = wallThickness(surface);
    // Circle touching the underside below the rib and both inner corners: r = wall/2 + rib^2/(8 wall).
    const expected = wall + (rib * rib) / (4 * wall);
    let best = 0;
    for (let i = 0; i < surface.n; i++) {
      const c = back([surface.centroids[3 * i], surface.centroids[3 * i + 1], surface.centroids[3 * i + 2]]);
      if (Math.abs(c[2]) < 1e-9 && Math.abs(c[0]) < 0.0003) best = Math.max(best, value[i]);
    }
    expect(Math.abs(best / expected - 1)).toBeLessThan(TOLERANCE);
  });
});
