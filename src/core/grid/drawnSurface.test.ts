import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { openBox, TURNS } from '../../../verification/solids';
import { mapVertices, measure, type TriangleMesh } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { dot, sub, vertexAt } from '../geometry/vec';
import { drawnSurface, SURFACE_EDGE } from './drawnSurface';

const H = 0.002;
const tray = openBox(0.08, 0.06, 0.03, 0.002);

/** Lengths of the edges, m, with their middles. */
function edgesOf({ positions, triangles }: TriangleMesh) {
  return Array.from(triangles, (_, k) => {
    const [a, b] = [k, 3 * Math.floor(k / 3) + ((k + 1) % 3)].map((c) => vertexAt(positions, triangles[c]));
    return { length: Math.hypot(...sub(b, a)), middle: a.map((x, d) => (x + b[d]) / 2) };
  });
}

describe('the surface that results are drawn on', () => {
  it.each(Object.entries(TURNS))('is fine where walls meet, and nowhere too coarse, %s', (_name, turn) => {
    const drawn = drawnSurface(mapVertices(tray, turn), H);
    expect(measure(drawn).volume).toBeCloseTo(measure(tray).volume, 12);
    // The foot of a long wall, inside the box.
    const [from, along] = [turn([-0.03, 0.028, 0.002]), turn([0.03, 0.028, 0.002])];
    const way = sub(along, from);
    const edges = edgesOf(drawn);
    const beside: number[] = [];
    for (const { length, middle } of edges) {
      const off = sub(middle as [number, number, number], from);
      const s = dot(off, way) / dot(way, way);
      const far = Math.hypot(...off.map((x, d) => x - s * way[d]));
      if (s < 0 || s > 1 || far > 1.5 * H) continue;
      beside.push(length);
    }
    expect(beside.length).toBeGreaterThan(100);
    expect(Math.max(...beside)).toBeLessThanOrEqual(1.1 * H * (1 + 1e-9));
    const longest = edges.reduce((most, e) => Math.max(most, e.length), 0);
    expect(longest).toBeLessThanOrEqual(SURFACE_EDGE * H * (1 + 1e-9));
    // In the middle of the floor nothing is gained by more.
    expect(longest).toBeGreaterThan(1.2 * H);
  });

  it('of a part without joints is even', () => {
    const drawn = drawnSurface(box(0.08, 0.06, 0.002), H);
    expect(drawn.triangles.length).toBeLessThan(0.3 * drawnSurface(tray, H).triangles.length);
  });

  it('of very many triangles is left even: its teeth are small', () => {
    const h = 2e-4;
    const even = refine(tray, SURFACE_EDGE * h);
    expect(even.triangles.length / 3).toBeGreaterThan(200_000);
    // Compared as bytes: lists of this length take seconds to compare.
    expect(Buffer.from(drawnSurface(tray, h).triangles.buffer).equals(Buffer.from(even.triangles.buffer))).toBe(true);
  });
});
