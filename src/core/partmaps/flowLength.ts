import FlatQueue from 'flatqueue';
import type { Vec3 } from '../geometry/mesh';
import type { MapSurface } from './surface';
import type { Thickness } from './thickness';

/**
 * Ratio of flow length to wall thickness from the nearest gate to each facet: the shortest way of
 * ∫ ds / thickness over the surface, where crossing to the opposite side of the wall costs nothing
 * (melt fills a wall through its thickness at once). Steps go to all facets around a facet's corners,
 * which keeps the ways within a few per cent of straight ones. NaN where no way leads.
 */
export function flowRatio(surface: MapSurface, thickness: Thickness, gates: readonly Vec3[]): Float64Array {
  const { n, centroids: c, smoothNormals: m, mesh, tree } = surface;
  const t = mesh.triangles;
  const ratio = new Float64Array(n).fill(NaN);
  if (!gates.length) return ratio;
  const { start, corner } = surface.corners;
  const best = new Float64Array(n).fill(Infinity);
  const done = new Uint8Array(n);
  const queue = new FlatQueue<number>();
  const offer = (i: number, value: number) => {
    if (value >= best[i]) return;
    best[i] = value;
    queue.push(i, value);
  };
  const wallAt = (i: number) => (thickness.value[i] > 0 ? thickness.value[i] : NaN);
  for (const gate of gates) {
    const i = tree.closest(...gate);
    if (i >= 0) offer(i, 0);
  }
  while (queue.length) {
    const i = queue.pop()!;
    if (done[i]) continue;
    done[i] = 1;
    const opposite = thickness.opposite[i];
    // Through the wall only where it is one: not along a rim.
    if (opposite >= 0) {
      const step = [0, 1, 2].map((d) => c[3 * opposite + d] - c[3 * i + d]);
      const across = step.reduce((s, x, d) => s + x * m[3 * i + d], 0);
      // The middle of the facet there lies aside: that way counts, or it would be won at every crossing.
      const aside = Math.sqrt(Math.max(0, step.reduce((s, x) => s + x * x, 0) - across * across));
      if (Math.abs(across) < 2 * wallAt(i)) offer(opposite, best[i] + aside / wallAt(i));
    }
    for (let k = 3 * i; k < 3 * i + 3; k++) {
      for (let a = start[t[k]]; a < start[t[k] + 1]; a++) {
        const j = Math.floor(corner[a] / 3);
        if (done[j]) continue;
        const ds = Math.sqrt(
          (c[3 * i] - c[3 * j]) ** 2 + (c[3 * i + 1] - c[3 * j + 1]) ** 2 + (c[3 * i + 2] - c[3 * j + 2]) ** 2,
        );
        const wall = (wallAt(i) + wallAt(j)) / 2;
        if (wall > 0) offer(j, best[i] + ds / wall);
      }
    }
  }
  for (let i = 0; i < n; i++) if (done[i]) ratio[i] = best[i];
  return ratio;
}
