import type { TriangleMesh, Vec3 } from '../../geometry/mesh';
import { vertexAreas } from '../../geometry/alignment';
import { distance, dot, SYMMETRIC, vertexAt } from '../../geometry/vec';

/** What the face bears at a vertex off its edges, Pa, and the length that it is a mean over, m. */
export interface Bonded {
  v: number;
  reach: number;
  pull: number;
  along: Vec3;
}

/** Pull and shear of a stress on a face. */
export function traction(stress: ArrayLike<number>, normal: Vec3): Pick<Bonded, 'pull' | 'along'> {
  const t: Vec3 = [0, 0, 0];
  SYMMETRIC.forEach(([a, b], k) => {
    t[a] += stress[k] * normal[b];
    if (a !== b) t[b] += stress[k] * normal[a];
  });
  const pull = dot(t, normal);
  return { pull, along: t.map((x, d) => x - pull * normal[d]) as Vec3 };
}

/**
 * Means over a wall's thickness around: at the edge of a bond the stress itself has no bound, and what soft plastic that
 * hardly yields in volume bears square to it is rough from point to point.
 */
export function spreadBond(bonded: readonly Bonded[], { positions, triangles }: TriangleMesh, out: Float32Array): void {
  if (!bonded.length) return;
  const areas = vertexAreas(positions, triangles);
  const cell = Math.max(...bonded.map((b) => b.reach));
  const key = (p: Vec3) => p.map((x) => Math.floor(x / cell));
  const cells = new Map<string, Bonded[]>();
  for (const b of bonded) {
    const name = key(vertexAt(positions, b.v)).join();
    (cells.get(name) ?? cells.set(name, []).get(name)!).push(b);
  }
  for (const { v, reach } of bonded) {
    const p = vertexAt(positions, v);
    const [i, j, k] = key(p);
    let [pull, area] = [0, 0];
    const along: Vec3 = [0, 0, 0];
    for (let n = 0; n < 27; n++) {
      const there = cells.get([i + (n % 3) - 1, j + (Math.floor(n / 3) % 3) - 1, k + Math.floor(n / 9) - 1].join());
      for (const b of there ?? []) {
        if (distance(p, vertexAt(positions, b.v)) > reach) continue;
        area += areas[b.v];
        pull += areas[b.v] * b.pull;
        for (let d = 0; d < 3; d++) along[d] += areas[b.v] * b.along[d];
      }
    }
    out[2 * v] = Math.max(0, pull / area);
    out[2 * v + 1] = Math.hypot(...along) / area;
  }
}
