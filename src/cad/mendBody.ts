import { FormatError } from '../core/formats/formatError';
import { inspect } from '../core/geometry/check';
import { mendSurface } from '../core/geometry/mend';
import type { TriangleMesh } from '../core/geometry/mesh';
import { joinShells } from './solids';

/** A body after mending: what was done, and how many faulty edges are left. */
export interface MendedBody {
  mesh: TriangleMesh;
  done: string[];
  left: number;
}

/**
 * Everything that can be mended in one body: the surface by itself, then its pieces joined by solid booleans. Throws a
 * FormatError when nothing would be left.
 */
export async function mendBody(before: TriangleMesh): Promise<MendedBody> {
  const { mesh, done } = mendSurface(before);
  const skin = await joinShells(mesh);
  if (skin && skin.triangles.length !== mesh.triangles.length) done.push('overlapping pieces joined into one skin');
  const after = skin ?? mesh;
  const { nOpen, nNonManifold, nMisoriented, volume, area } = inspect(after);
  if (!(volume > 1e-9 * Math.pow(area, 1.5)))
    throw new FormatError('Nothing would be left of this body.', 'It encloses no volume: set its role to Left out.');
  return { mesh: after, done, left: nOpen + nNonManifold + nMisoriented };
}
