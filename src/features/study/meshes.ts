import { useEffect, useMemo, useState } from 'react';
import { unpackMesh } from '@/core/formats/meshBlob';
import type { TriangleMesh } from '@/core/geometry/mesh';
import { joined } from '@/core/geometry/shells';
import { cavities, type Inputs } from '@/core/model/study';
import { api } from './api';
import { tell } from './store';

const meshes = new Map<string, TriangleMesh>();
const underWay = new Map<string, Promise<void>>();
const KEPT_MESHES = 400;

/** Loads a stored surface once, however many ask for it. */
function loadMesh(hash: string): Promise<void> {
  const known = underWay.get(hash);
  if (known) return known;
  const loading = api
    .binary(`/api/geometries/${hash}`)
    .then((buffer) => {
      meshes.set(hash, unpackMesh(new Uint8Array(buffer)));
      for (const old of [...meshes.keys()].slice(0, Math.max(0, meshes.size - KEPT_MESHES))) meshes.delete(old);
    })
    .finally(() => underWay.delete(hash));
  underWay.set(hash, loading);
  return loading;
}

/** Stored surfaces by hash, as far as they are there yet. The map changes when one arrives. */
export function useMeshes(hashes: readonly string[]): ReadonlyMap<string, TriangleMesh> {
  const key = hashes.join();
  const [present, setPresent] = useState<{ key: string; map: ReadonlyMap<string, TriangleMesh> }>(NO_MESHES);
  useEffect(() => {
    let current = true;
    const wanted = [...new Set(key ? key.split(',') : [])];
    const show = () => {
      if (current)
        setPresent({ key, map: new Map(wanted.flatMap((h) => (meshes.has(h) ? [[h, meshes.get(h)!] as const] : []))) });
    };
    const missing = wanted.filter((h) => !meshes.has(h));
    show();
    // One picture when all are there: hundreds of small bodies would otherwise redraw hundreds of times.
    if (missing.length) Promise.all(missing.map(loadMesh)).then(show, tell);
    return () => {
      current = false;
    };
  }, [key]);
  return present.key === key ? present.map : NO_MESHES.map;
}

/**
 * Surfaces of the cavities joined to one, without their copies, with the key that names them; null while
 * they are coming.
 */
export function useCavity(inputs: Inputs): { key: string | null; mesh: TriangleMesh | null } {
  const hashes = cavities(inputs).map((b) => b.mesh);
  const key = hashes.length ? hashes.join('+') : null;
  const present = useMeshes(hashes);
  const mesh = useMemo(() => {
    const list = (key ? key.split('+') : []).map((h) => present.get(h));
    return list.length && list.every((m) => m !== undefined) ? joined(list) : null;
  }, [key, present]);
  return { key, mesh };
}

const NO_MESHES: { key: string; map: ReadonlyMap<string, TriangleMesh> } = { key: '', map: new Map() };
