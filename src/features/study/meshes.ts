import { queryOptions, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { TriangleMesh } from '@/core/geometry/mesh';
import { joined } from '@/core/geometry/shells';
import { cavities, type Inputs } from '@/core/model/study';
import { queries, storedMesh } from './queries';

/** Stored surfaces by hash, as far as they are there yet. The map changes when they have arrived. */
export function useMeshes(hashes: readonly string[]): ReadonlyMap<string, TriangleMesh> {
  const asked = [...new Set(hashes)].join();
  const options = useMemo(() => {
    const wanted = asked ? asked.split(',') : [];
    return queryOptions({
      queryKey: ['meshes', ...wanted],
      // One picture when all are there: hundreds of small bodies would otherwise redraw hundreds of times.
      queryFn: () =>
        Promise.all(wanted.map((hash) => queries.ensureQueryData(storedMesh(hash)))).then((all) => byHash(wanted, all)),
      // The same one until then: another would draw the page anew without end.
      placeholderData: byHash(
        wanted,
        wanted.map((hash) => queries.getQueryData(storedMesh(hash).queryKey)),
      ),
    });
  }, [asked]);
  return useQuery(options).data ?? NO_MESHES;
}

const NO_MESHES: ReadonlyMap<string, TriangleMesh> = new Map();

const byHash = (
  hashes: readonly string[],
  meshes: readonly (TriangleMesh | undefined)[],
): ReadonlyMap<string, TriangleMesh> =>
  new Map(hashes.flatMap((hash, k) => (meshes[k] ? [[hash, meshes[k]] as const] : [])));

/**
 * Surfaces of the cavities joined to one, without their copies, with the key that names them; null while
 * they are coming.
 */
export function useCavity(inputs: Inputs): { key: string | null; mesh: TriangleMesh | null } {
  const hashes = cavities(inputs).map((b) => b.mesh);
  const key = hashes.length ? hashes.join('+') : null;
  const present = useMeshes(hashes);
  return { key, mesh: useJoined(present, hashes) };
}

/** Surfaces of these hashes in one; null while any of them is coming, or without one. */
export function useJoined(meshes: ReadonlyMap<string, TriangleMesh>, hashes: readonly string[]): TriangleMesh | null {
  const asked = hashes.join();
  return useMemo(() => {
    const list = (asked ? asked.split(',') : []).map((hash) => meshes.get(hash));
    if (!list.length || !list.every((m) => m !== undefined)) return null;
    // The stored one itself where there is one: what is drawn of it is made once, in however many views.
    return list.length > 1 ? joined(list) : list[0];
  }, [meshes, asked]);
}
