import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { ball, revolve, TURNS } from '../../../verification/solids';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { dot, vertexAt } from '../geometry/vec';
import { edgeDirections, vertexNormals } from './surfaceMap';

describe('sharp edges of a surface', () => {
  it.each(Object.entries(TURNS))('run along the edges of a box, none through its corners, %s', (_name, turn) => {
    const drawn = refine(box(0.03, 0.02, 0.01), 0.004);
    const surface = mapVertices(drawn, turn);
    const edges = edgeDirections(surface, vertexNormals(surface));
    const ends = [
      [0, 0.03],
      [-0.01, 0.01],
      [-0.005, 0.005],
    ];
    const counts = [0, 0, 0, 0];
    for (let v = 0; v < edges.length / 3; v++) {
      const p = vertexAt(drawn.positions, v);
      const free = [0, 1, 2].filter((d) => !ends[d].some((end) => Math.abs(p[d] - end) < 1e-9));
      const along = vertexAt(edges, v);
      counts[free.length]++;
      if (free.length > 1) expect(along.every((x) => Number.isNaN(x))).toBe(true);
      else if (free.length === 0) expect(along).toEqual([0, 0, 0]);
      else {
        const axis = turn([0, 1, 2].map((d) => (d === free[0] ? 1 : 0)) as Vec3);
        expect(Math.abs(dot(along, axis))).toBeCloseTo(1, 9);
      }
    }
    expect(counts[0]).toBe(8);
    expect(counts[1]).toBeGreaterThan(12);
    expect(counts[2]).toBeGreaterThan(12);
  });

  it('follow the rim of a round bar, and are none where a surface is only round', () => {
    const bar = revolve([
      [0, 0],
      [0.004, 0],
      [0.004, 0.02],
      [0, 0.02],
    ]);
    const edges = edgeDirections(bar, vertexNormals(bar));
    let rim = 0;
    for (let v = 0; v < edges.length / 3; v++) {
      const [x, y] = vertexAt(bar.positions, v);
      const along = vertexAt(edges, v);
      if (Math.hypot(x, y) < 0.0039) continue;
      rim++;
      expect(Math.abs(dot(along, [-y / 0.004, x / 0.004, 0]))).toBeGreaterThan(0.98);
    }
    expect(rim).toBe(96);
    const round = ball(0.01);
    expect(edgeDirections(round, vertexNormals(round)).every((x) => Number.isNaN(x))).toBe(true);
  });
});
