import { PROFILE_PLACES } from '@/core/solvers/melt/profilePlaces';
import { told } from '@/core/units/reader';
import { type Unit } from '@/core/units/units';
import type { RunData } from '../study/runData';

/** Fields that have values all through the wall. */
export const WALL_QUANTITIES = [
  { value: 'stressInMould', label: 'Layer stress, mould opens', unit: 'MPa' },
  { value: 'stressInRoom', label: 'Layer stress in the room', unit: 'MPa' },
  { value: 'profile', label: 'Temperature through the wall', unit: '°C' },
  { value: 'fibreOn', label: 'Fibres through the wall', unit: '%' },
  { value: 'fibreWeight', label: 'How many fibres, by weight', unit: '%' },
] as const satisfies readonly { value: string; label: string; unit: Unit }[];
export type WallQuantity = (typeof WALL_QUANTITIES)[number]['value'];
export const isThroughWall = (quantity: string): quantity is WallQuantity =>
  WALL_QUANTITIES.some((q) => q.value === quantity);

/** What is drawn of a quantity beside it, and what each is called. */
const WITH: Partial<Record<WallQuantity, readonly { field: string; label: string }[]>> = {
  fibreOn: [
    { field: 'fibreOn', label: 'along' },
    { field: 'fibreSquare', label: 'square' },
    { field: 'fibreThrough', label: 'across the wall' },
  ],
};

export type Probe = { id: string; position: readonly number[] };

export const drawnWith = (quantity: WallQuantity): readonly { field: string; label: string }[] =>
  WITH[quantity] ?? [{ field: quantity, label: '' }];

/** Values of a node (`components` of a profile) from wall to wall against the distance from the middle, mm. */
export function acrossWall(values: ArrayLike<number>, thickness: number): { x: number; y: number }[] {
  const n = PROFILE_PLACES.length;
  const half = told(thickness / 2, 'mm');
  const whole = values.length > n;
  const outer = PROFILE_PLACES.map((place, k) => ({ x: half * place, y: values[whole ? n + k : k] }));
  const inner = PROFILE_PLACES.map((place, k) => ({ x: -half * place, y: values[whole ? n - 1 - k : k] })).reverse();
  return [...inner, ...outer].filter(({ y }) => y === y);
}

/** Profiles of a field at the probes at an instant, wall to wall [mm]; null while the run is coming. */
export function linesOf(
  { grid, manifest, fields }: RunData,
  { field, label }: { field: string; label: string },
  probes: readonly Probe[],
  unit: Unit,
  time: number,
): { label: string; points: { x: number; y: number }[] }[] | null {
  const values = fields.get(field);
  const thickness = fields.get('thickness');
  const meta = manifest?.fields.find((f) => f.id === field);
  if (!grid || !manifest) return null;
  if (!values || !meta || !thickness) return [];
  const later = meta.times.findIndex((t) => t > time + 1e-9);
  const frame = later < 0 ? Math.max(0, meta.times.length - 1) : Math.max(0, later - 1);
  return probes.flatMap(({ id, position: [x, y, z] }) => {
    const node = grid.mapper.nodeAt(x, y, z);
    if (node < 0) return [];
    const from = (frame * grid.nNodes + node) * meta.components;
    const own = values.subarray(from, from + meta.components).map((v) => told(v, unit));
    const points = acrossWall(own, thickness[node]);
    return points.length ? [{ label: label ? `${id} ${label}` : id, points }] : [];
  });
}
