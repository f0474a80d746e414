import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { add, cross, distance, dot, frameOn, normalised, scale, sub, vertexAt } from '../geometry/vec';
import { SurfaceTree } from '../geometry/surfaceTree';

/** Where a tab can hang: on a side of the part, and the way outwards; the wall that its size goes by, m. */
export interface TabPlace {
  position: Vec3;
  direction: Vec3;
  wall: number;
}

/** A side is no steeper to the opening than this (cosine). */
const SIDEWAYS = 0.3;
/** Room that a tab needs outwards, and distance of the places that are looked at, in walls. */
const ROOM = 7;
const APART = 3;
/** Places of a large triangle along each of its sides, at most. */
const MOST = 40;

/**
 * Places of the sides of a part that have room for a tab, about three walls apart, in the middle of the side's height as the
 * mould opens.
 */
export function tabPlaces(part: TriangleMesh, opening: Vec3, wall: number): TabPlace[] {
  const tree = new SurfaceTree(part);
  const out: TabPlace[] = [];
  // Sides are looked at from above: one place a square of them, however many triangles lie there.
  const [across, along] = frameOn(opening);
  const seen = new Set<string>();
  const square = (on: Vec3, direction: Vec3) =>
    [dot(on, across), dot(on, along), 2 * wall * dot(direction, across), 2 * wall * dot(direction, along)]
      .map((x) => Math.round(x / (0.5 * APART * wall)))
      .join();
  for (let t = 0; t < part.triangles.length / 3; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => vertexAt(part.positions, part.triangles[3 * t + k]));
    const normal = cross(sub(b, a), sub(c, a));
    if (!(Math.hypot(...normal) > 0)) continue;
    const direction = normalised(normal);
    if (Math.abs(dot(direction, opening)) > SIDEWAYS) continue;
    const longest = Math.max(distance(a, b), distance(b, c), distance(c, a));
    const n = Math.min(MOST, Math.max(1, Math.ceil(longest / (APART * wall))));
    for (let i = 0; i < n; i++)
      for (let j = 0; i + j < n; j++) {
        const [u, v] = [(i + 1 / 3) / n, (j + 1 / 3) / n];
        const on = add(add(a, sub(b, a), u), sub(c, a), v);
        const name = square(on, direction);
        if (seen.has(name)) continue;
        seen.add(name);
        const position = midHeight(tree, on, direction, opening, wall);
        if (out.some((p) => distance(p.position, position) < 0.5 * APART * wall)) continue;
        // Out of the part, not into a hole of it.
        const from = add(position, direction, 1e-3 * wall);
        if (tree.ray(...from, ...direction, 0, ROOM * wall) < 0) out.push({ position, direction, wall });
      }
  }
  return out;
}

/** Moves a place of a side along the opening to between where the part begins and ends behind it, if the side is there too. */
function midHeight(tree: SurfaceTree, on: Vec3, direction: Vec3, opening: Vec3, wall: number): Vec3 {
  const inside = add(on, direction, -0.2 * wall);
  const way = (from: Vec3, along: Vec3, far: number) => (tree.ray(...from, ...along, 0, far) < 0 ? NaN : tree.distance);
  const lift = (way(inside, opening, Infinity) - way(inside, scale(opening, -1), Infinity)) / 2;
  const back = add(add(on, opening, lift), direction, wall);
  const to = way(back, scale(direction, -1), 2 * wall);
  return to === to ? add(back, direction, -to) : on;
}
