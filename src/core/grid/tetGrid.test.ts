import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { ball, TURNS } from '../../../verification/solids';
import { mapVertices, measure, type TriangleMesh } from '../geometry/mesh';
import { quadratic, stuffed, type TetGrid } from './tetGrid';

const FACES = [
  [0, 2, 1],
  [0, 1, 3],
  [1, 2, 3],
  [0, 3, 2],
];

/** Volume of each tetrahedron, and how often each face (by its vertices in order) is there. */
function looked({ positions, tets }: TetGrid) {
  const faces = new Map<string, number[][]>();
  const volumes: number[] = [];
  const sharpest: number[] = [];
  for (let t = 0; t < tets.length; t += 4) {
    const v = [0, 1, 2, 3].map((c) => [0, 1, 2].map((d) => positions[3 * tets[t + c] + d]));
    const e = [1, 2, 3].map((c) => v[c].map((x, d) => x - v[0][d]));
    const volume =
      (e[0][0] * (e[1][1] * e[2][2] - e[1][2] * e[2][1]) -
        e[0][1] * (e[1][0] * e[2][2] - e[1][2] * e[2][0]) +
        e[0][2] * (e[1][0] * e[2][1] - e[1][1] * e[2][0])) /
      6;
    volumes.push(volume);
    const edges = [];
    for (let a = 0; a < 4; a++) for (let b = 0; b < a; b++) edges.push(Math.hypot(...v[a].map((x, d) => x - v[b][d])));
    // 1 for a regular tetrahedron, 0 for a flat one.
    sharpest.push((6 * Math.SQRT2 * volume) / Math.max(...edges) ** 3);
    for (const face of FACES) {
      const corners = face.map((c) => tets[t + c]);
      const key = [...corners].sort((a, b) => a - b).join();
      faces.set(key, [...(faces.get(key) ?? []), corners]);
    }
  }
  const outside = [...faces.values()].filter((f) => f.length === 1).map(([f]) => f);
  const skin: TriangleMesh = { positions, triangles: Uint32Array.from(outside.flat()) };
  return {
    volumes,
    most: Math.max(...[...faces.values()].map((f) => f.length)),
    skin,
    flattest: Math.min(...sharpest),
  };
}

const SHAPES: Record<string, [TriangleMesh, number]> = {
  plate: [box(0.02, 0.012, 0.002), 0.0015],
  'turned plate': [mapVertices(box(0.02, 0.012, 0.002), TURNS[Object.keys(TURNS).at(-1)!]), 0.0015],
  ball: [ball(0.008), 0.002],
};

describe('tetrahedra', () => {
  for (const [name, [mesh, edge]] of Object.entries(SHAPES))
    it(`fill a ${name} without gaps`, () => {
      const grid = stuffed([mesh], edge);
      const { volumes, most, skin, flattest } = looked(grid);
      expect(Math.min(...volumes)).toBeGreaterThan(0);
      expect(most).toBe(2);
      const total = volumes.reduce((a, b) => a + b);
      // The outside faces close and hold what the elements hold.
      expect(measure(skin).volume / total).toBeCloseTo(1, 9);
      expect(flattest).toBeGreaterThan(0.02);
      const short = 1 - total / measure(mesh).volume;
      expect(short).toBeLessThan(0.08);
      // Only sharp edges are cut off, the less the finer.
      const half = 1 - looked(stuffed([mesh], edge / 2)).volumes.reduce((a, b) => a + b) / measure(mesh).volume;
      expect(Math.abs(half)).toBeLessThan(Math.abs(short) / 1.5);
    });

  it('take bodies that touch as one, with no face between them', () => {
    const low = box(0.01, 0.01, 0.003);
    const { most, skin } = looked(stuffed([low, mapVertices(low, ([x, y, z]) => [x, y, z + 0.003])], 0.0015));
    expect(most).toBe(2);
    const inner = Array.from({ length: skin.triangles.length / 3 }, (_, i) =>
      [0, 1, 2].every((k) => Math.abs(skin.positions[3 * skin.triangles[3 * i + k] + 2] - 0.003) < 1e-4),
    );
    expect(inner.some(Boolean)).toBe(false);
  });

  it('have their middles shared by all elements at an edge', () => {
    const grid = stuffed([ball(0.005)], 0.002);
    const { positions, nodes } = quadratic(grid);
    const edges = new Set<string>();
    for (let t = 0; t < grid.tets.length; t += 4)
      for (let a = 0; a < 4; a++)
        for (let b = 0; b < a; b++) edges.add([grid.tets[t + a], grid.tets[t + b]].sort((x, y) => x - y).join());
    expect(positions.length / 3).toBe(grid.positions.length / 3 + edges.size);
    expect(nodes.length).toBe((10 * grid.tets.length) / 4);
  });
});
