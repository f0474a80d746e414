import { describe, expect, it } from 'vitest';
import { revolve, slab, TURNS } from '../../../verification/solids';
import { moulding, partingEdges } from '../partmaps/moulding';
import { mapSurface } from '../partmaps/surface';
import { mapVertices, type Vec3 } from './mesh';
import { chained } from './polyline';
import { SurfaceTree } from './surfaceTree';
import { throughWall } from './throughWall';

describe.each(Object.entries(TURNS))('measured on the part, %s', (_, turn) => {
  it('the wall below a place of a tube and of a plate is that of the drawing', () => {
    const tube = new SurfaceTree(
      mapVertices(
        revolve([
          [0.01, 0],
          [0.012, 0],
          [0.012, 0.04],
          [0.01, 0.04],
        ]),
        turn,
      ),
    );
    expect(throughWall(tube, turn([0.012, 0, 0.02]), turn([3, 0, 0]))).toBeCloseTo(0.002, 4);
    expect(throughWall(tube, turn([0.01, 0, 0.02]), turn([-1, 0, 0]))).toBeCloseTo(0.002, 4);
    const plate = new SurfaceTree(
      mapVertices(
        slab(0.06, 0.04, () => 0.0025),
        turn,
      ),
    );
    expect(throughWall(plate, turn([0.021, 0.013, 0.00125]), turn([0, 0, 1]))).toBeCloseTo(0.0025, 9);
    // Out of the part nothing is met.
    expect(throughWall(plate, turn([0.021, 0.013, 0.00125]), turn([0, 0, -1]))).toBeNull();
  });

  it('the line at which the halves meet goes once around a plate', () => {
    const opening = turn([0, 0, 1]);
    const surface = mapSurface(
      mapVertices(
        slab(0.06, 0.04, () => 0.0025),
        turn,
      ),
      0.004,
    );
    const edges = partingEdges(surface, moulding(surface, opening, null));
    const paths = chained(edges);
    expect(paths).toHaveLength(1);
    expect(paths[0][0]).toBe(paths[0].at(-1));
    const place = (k: number) => Array.from(surface.mesh.positions.subarray(k, k + 3)) as Vec3;
    const length = paths[0]
      .slice(1)
      .reduce((sum, k, i) => sum + Math.hypot(...place(k).map((x, d) => x - place(paths[0][i])[d])), 0);
    expect(length).toBeCloseTo(0.2, 6);
  });
});

describe('edges in polylines', () => {
  it('each edge once, open ones whole, closed ones back to where they began', () => {
    const paths = chained([
      [2, 1],
      [2, 3],
      [7, 8],
      [8, 9],
      [9, 7],
      [3, 4],
    ]);
    expect(paths).toHaveLength(2);
    expect(paths[0]).toHaveLength(4);
    expect([paths[0][0], paths[0][3]].sort()).toEqual([1, 4]);
    expect(paths[1][0]).toBe(paths[1][3]);
  });

  it('nothing of nothing, and a star of three in two pieces', () => {
    expect(chained([])).toEqual([]);
    const star = chained([
      [0, 1],
      [0, 2],
      [0, 3],
    ]);
    expect(star.reduce((n, path) => n + path.length - 1, 0)).toBe(3);
    expect(star).toHaveLength(2);
  });
});
