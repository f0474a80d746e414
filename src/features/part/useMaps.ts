import { skipToken, useQuery } from '@tanstack/react-query';
import { unpackArrays } from '@/core/formats/arrays';
import type { MapsManifest } from '@/core/model/geometryTask';
import { cavities, type Inputs } from '@/core/model/study';
import type { MapId } from '@/core/partmaps/mapKinds';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import { api } from '../study/api';
import { presentInputs, useStudy } from '../study/store';
import { create } from 'zustand';
import { perform } from './task';

/** Part maps computed in this session, by what they were made from. Arrays live outside the store. */
interface MapsState {
  manifests: Record<string, MapsManifest>;
}

const useManifests = create<MapsState>(() => ({ manifests: {} }));

/** Text that is equal exactly when the maps would be. */
export function mapsKey(inputs: Inputs): string {
  return JSON.stringify([
    cavities(inputs).map((b) => b.mesh),
    inputs.tool.partingHeight,
    inputs.tool.opening,
    inputs.gates.map((g) => g.position),
    inputs.rules,
  ]);
}

export function useMapsManifest(): MapsManifest | null {
  const key = useStudy((s) => mapsKey(presentInputs(s)));
  return useManifests((s) => s.manifests[key] ?? null);
}

export async function computeMaps(): Promise<MapsManifest | null> {
  const inputs = presentInputs(useStudy.getState());
  const key = mapsKey(inputs);
  const known = useManifests.getState().manifests[key];
  if (known) return known;
  const manifest = await perform('Part maps', {
    do: 'maps',
    bodies: cavities(inputs).map((b) => ({ id: b.id, mesh: b.mesh })),
    partingHeight: inputs.tool.partingHeight,
    ...(inputs.tool.opening ? { opening: inputs.tool.opening } : {}),
    gates: inputs.gates.map((g) => g.position),
    rules: inputs.rules,
  });
  if (manifest) useManifests.setState((s) => ({ manifests: { ...s.manifests, [key]: manifest } }));
  return manifest;
}

export interface MapArrays {
  mesh: DrawMesh;
  areas: Float32Array;
  /** Per drawn vertex, three a facet. */
  corner(id: MapId): Float32Array;
  /** Per facet. */
  facets(id: MapId): Float32Array;
}

function readMaps(buffer: ArrayBuffer): MapArrays {
  const { arrays } = unpackArrays(buffer);
  const positions = arrays.positions as Float32Array;
  return {
    mesh: { positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) },
    areas: arrays.areas as Float32Array,
    corner: (id) => arrays[id] as Float32Array,
    facets: (id) => arrays[`${id}.facets`] as Float32Array,
  };
}

export const useMapArrays = (key: string | null): MapArrays | null =>
  useQuery({
    queryKey: ['maps', key],
    queryFn: key ? async () => readMaps(await api.binary(`/api/maps/${key}`)) : skipToken,
  }).data ?? null;
