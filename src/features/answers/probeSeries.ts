import { told } from '@/core/units/reader';
import { type Unit } from '@/core/units/units';
import type { Manifest } from '@/runtime/manifest';
import type { RunData } from '../study/runData';
import { WALL_QUANTITIES } from './wallLines';

export const QUANTITIES = [
  { value: 'pressure', label: 'Pressure', unit: 'MPa' },
  { value: 'temperature', label: 'Temperature', unit: '°C' },
  { value: 'frozen', label: 'Frozen share', unit: '%' },
  { value: 'faceTemperature', label: 'Temperature of the face', unit: '°C' },
  { value: 'clampForce', label: 'Clamp force', unit: 'kN' },
  { value: 'insertForce', label: 'Force on inserts', unit: 'N' },
  { value: 'mass', label: 'Mass in the cavities', unit: 'g' },
  { value: 'solidShare', label: 'Solid share', unit: '%' },
  { value: 'gatePressure', label: 'Gate pressure', unit: 'MPa' },
  { value: 'gateFlow', label: 'Gate flow', unit: 'cm³/s' },
  { value: 'airPressure', label: 'Trapped air, pressure', unit: 'MPa' },
  { value: 'airTemperature', label: 'Trapped air, not cooled', unit: '°C' },
] as const satisfies readonly { value: string; label: string; unit: Unit }[];
export type Quantity = (typeof QUANTITIES)[number]['value'];
export const ALL_QUANTITIES = [...QUANTITIES, ...WALL_QUANTITIES];
/** Read from the history of the run, not from a field at the probes. */
export const HISTORIES: readonly Quantity[] = [
  'clampForce',
  'insertForce',
  'mass',
  'solidShare',
  'gatePressure',
  'gateFlow',
  'airPressure',
  'airTemperature',
];

const NOT_ALWAYS: ReadonlySet<string> = new Set(['faceTemperature', 'holdReach', 'fibreOn', 'fibreWeight']);

/** Whether a run has a quantity: not every one has faces where bodies touch, or was packed. */
export const isThere = (manifest: Manifest | null | undefined, id: string): boolean =>
  NOT_ALWAYS.has(id)
    ? Boolean(manifest?.fields.some((f) => f.id === id))
    : id !== 'insertForce' || Boolean(manifest?.summary.hold?.loads.length);

/** One line of a chart over time, s. */
export interface Series {
  label: string;
  points: { x: number; y: number }[];
}

/** Histories of a quantity: at the probes, at the gates, or of the whole shot. */
export function seriesOf(
  data: RunData,
  quantity: Quantity,
  probes: readonly { id: string; position: readonly number[] }[],
  unit: Unit,
): Series[] {
  const { grid, manifest } = data;
  if (!grid || !manifest) return [];
  if (quantity === 'clampForce') {
    const { time, clampForce } = manifest.history;
    if (!clampForce) return [];
    return [{ label: 'Clamp force', points: time.map((x, i) => ({ x, y: told(clampForce[i], unit) })) }];
  }
  if (quantity === 'insertForce')
    return (manifest.summary.hold?.loads ?? []).map(({ name, course }) => ({
      label: name,
      points: course.map((c) => ({ x: c.time_s, y: told(c.force_N, unit) })),
    }));
  if (quantity === 'mass' || quantity === 'solidShare') {
    const { course } = manifest;
    if (!course) return [];
    const label = quantity === 'mass' ? 'Mass' : 'Solid';
    return [{ label, points: course.time.map((x, i) => ({ x, y: told(course[quantity][i], unit) })) }];
  }
  if (quantity === 'airPressure' || quantity === 'airTemperature')
    return (manifest.findings?.airTraps ?? []).map((trap) => ({
      label: trap.id,
      points: (trap.history ?? []).map((h) => ({
        x: h.time,
        y: told(quantity === 'airPressure' ? h.isothermal : h.temperature, unit),
      })),
    }));
  if (quantity === 'gatePressure' || quantity === 'gateFlow') {
    const { time } = manifest.history;
    // Runs without a feed knew one pressure for all gates.
    const all = manifest.history[quantity] ?? [];
    return manifest.gateIds.map((label, g) => ({
      label,
      points: time.flatMap((x, i) => (all[i] ? [{ x, y: told(all[i][g], unit) }] : [])),
    }));
  }
  const values = data.fields.get(quantity);
  const meta = manifest.fields.find((f) => f.id === quantity);
  if (!values || !meta) return [];
  return probes.flatMap((p) => {
    const node = grid.mapper.nodeAt(p.position[0], p.position[1], p.position[2]);
    if (node < 0) return [];
    const points = meta.times.flatMap((x, f) => {
      const v = values[f * grid.nNodes + node];
      return v === v ? [{ x, y: told(v, unit) }] : [];
    });
    return [{ label: p.id, points }];
  });
}
