import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import type { Unit } from '../units/units';
import type { Rules } from './rules';

export const MAP_IDS = ['thickness', 'step', 'rib', 'draft', 'side', 'flowRatio'] as const;
export type MapId = (typeof MAP_IDS)[number];

export const MAPS: Record<MapId, { label: string; unit: Unit }> = {
  thickness: { label: 'Wall thickness', unit: 'mm' },
  step: { label: 'Thickness step', unit: '×' },
  rib: { label: 'Rib to wall', unit: '%' },
  draft: { label: 'Draft', unit: '°' },
  side: { label: 'Mould half', unit: '' },
  flowRatio: { label: 'Flow length to thickness', unit: '×' },
};

/** What the maps of a part are made from. */
export interface MapInput {
  mesh: TriangleMesh;
  opening: Vec3;
  partingHeight: number | null;
  gates: readonly Vec3[];
  rules: Rules;
}
