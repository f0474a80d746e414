import { MeshoptSimplifier } from 'meshoptimizer';
import type { CoarseTask } from './coarse';

/** Fewer triangles on the same vertices: as many as asked for, or as many as an error of a thousandth of the size allows. */
self.onmessage = async ({ data: { positions, triangles, target } }: MessageEvent<CoarseTask>) => {
  await MeshoptSimplifier.ready;
  const [coarse] = MeshoptSimplifier.simplify(triangles, positions, 3, 3 * target, 1e-3, ['Prune']);
  self.postMessage(coarse, { transfer: [coarse.buffer] });
};
