import type { Vec3 } from './mesh';
import { add, frameOn, normalised } from './vec';
import type { SurfaceTree } from './surfaceTree';

/** Nearer than this to where it starts, a ray grazes the face that it leaves, m. */
const GRAZE = 1e-7;
/** How far rays stand beside one another, m: one alone may slip through between two triangles. */
const BESIDE = 3e-7;

/**
 * Thickness of the wall below a place of a closed surface, m: the way straight through, square to the face. null where
 * nothing lies below it.
 * @param at On the surface, m.
 * @param normal Of the face there, outwards, of any length.
 */
export function throughWall(tree: SurfaceTree, at: Vec3, normal: Vec3): number | null {
  const outwards = normalised(normal);
  const [dx, dy, dz] = outwards.map((x) => -x);
  const [u, v] = frameOn(outwards);
  const own = tree.closest(...at);
  let least = Infinity;
  for (const [a, b] of [
    [1, 0.3],
    [-0.8, 0.6],
    [0.2, -1],
  ]) {
    const from = add(add(at, u, a * BESIDE), v, b * BESIDE);
    if (tree.ray(...from, dx, dy, dz, GRAZE, Infinity, false, own) >= 0) least = Math.min(least, tree.distance);
  }
  return Number.isFinite(least) ? least : null;
}
