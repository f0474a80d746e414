import type { Vec3 } from '../geometry/mesh';
import type { SurfaceTree } from '../geometry/surfaceTree';

/** Steel a well leaves before the part, in bores. */
const BEFORE_PART = 1.2;
const STEP = 1e-3;
const FARTHEST = 0.3;

/** How high a well of this bore may stand on a foot before the part is too near, m. `way`: 1 up, -1 down. */
export function wellRoom(tree: SurfaceTree, foot: Vec3, way: 1 | -1, bore: number): number {
  const margin = BEFORE_PART * bore + bore / 2;
  let height = 0;
  for (; height < FARTHEST; height += STEP) {
    const [x, y, z] = [foot[0], foot[1], foot[2] + way * (height + STEP)];
    tree.closest(x, y, z);
    if (tree.distance < margin || tree.inside(x, y, z)) break;
  }
  return height;
}
