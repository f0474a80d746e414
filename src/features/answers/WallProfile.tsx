'use client';

import type { ChartOptions } from 'chart.js';
import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import { PROFILE_PLACES } from '@/core/solvers/melt/profilePlaces';
import { formatNumber, fromSi, type Unit } from '@/core/units/units';
import type { RunView } from '@/runtime/wire';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { DRAWN, useRunData, type RunData } from '../study/runData';
import { presentInputs, useStudy } from '../study/store';
import { usePacedTime } from '../study/view';
import { chartStyle, PLAIN_CHART, sideLegend } from '../ui/chartStyle';

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

type Probe = { id: string; position: readonly number[] };

/** What the layers at the probes have, from wall to wall; a temperature at the instant that is shown. */
export function WallProfile({ run, quantity }: { run: RunView; quantity: WallQuantity }) {
  const time = usePacedTime(quantity === 'profile');
  const probes = useStudy((s) => presentInputs(s).probes);
  const drawn = useMemo(() => WITH[quantity] ?? [{ field: quantity as string, label: '' }], [quantity]);
  const data = useRunData(run.id, DRAWN, [...drawn.map((d) => d.field), 'thickness']);
  const { unit } = WALL_QUANTITIES.find((q) => q.value === quantity)!;
  const lines = useMemo(
    () => (data ? drawn.flatMap((d) => linesOf(data, d, probes, unit, time) ?? []) : null),
    [data, drawn, probes, unit, time],
  );
  const chart = useMemo(
    () => ({
      datasets: (lines ?? []).map(({ label, points }, k) => ({
        label,
        data: points,
        borderColor: GATE_COLOURS[k % GATE_COLOURS.length],
        backgroundColor: GATE_COLOURS[k % GATE_COLOURS.length],
        borderWidth: 1.7,
      })),
    }),
    [lines],
  );
  const halfWall = Math.max(0, ...(lines ?? []).flatMap((l) => l.points.map(({ x }) => x)));
  const options = useMemo(() => optionsOf(halfWall), [halfWall]);
  if (!lines?.length)
    return (
      <p className="text-soft grid h-full place-items-center">
        {!probes.length
          ? 'No probe yet: press P, then click on the part where you want to look into the wall.'
          : lines
            ? 'This run has none at the probes.'
            : ''}
      </p>
    );
  return <Line key={quantity} data={chart} options={options} aria-label="Profiles through the wall at the probes" />;
}

/** Values of a node (`components` of a profile) from wall to wall against the distance from the middle, mm. */
export function acrossWall(values: ArrayLike<number>, thickness: number): { x: number; y: number }[] {
  const n = PROFILE_PLACES.length;
  const half = fromSi(thickness / 2, 'mm');
  const whole = values.length > n;
  const outer = PROFILE_PLACES.map((place, k) => ({ x: half * place, y: values[whole ? n + k : k] }));
  const inner = PROFILE_PLACES.map((place, k) => ({ x: -half * place, y: values[whole ? n - 1 - k : k] })).reverse();
  return [...inner, ...outer].filter(({ y }) => y === y);
}

function linesOf(
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
    const own = values.subarray(from, from + meta.components).map((v) => fromSi(v, unit));
    const points = acrossWall(own, thickness[node]);
    return points.length ? [{ label: label ? `${id} ${label}` : id, points }] : [];
  });
}

/** Style of the chart, as wide as the thickest wall in it (half of it, mm). */
function optionsOf(halfWall: number): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  const ticks = { color: soft, font, maxTicksLimit: 7 };
  return {
    ...PLAIN_CHART,
    events: ['click'],
    elements: { point: { radius: 0 }, line: { tension: 0 } },
    scales: {
      x: {
        type: 'linear',
        min: -halfWall,
        max: halfWall,
        grid: { color: line },
        ticks: { ...ticks, includeBounds: false, callback: (v) => `${formatNumber(Number(v), 2)} mm` },
        title: { display: true, text: 'from the middle of the wall', color: soft, font },
      },
      y: { type: 'linear', grid: { color: line }, border: { display: false }, ticks },
    },
    plugins: {
      ...PLAIN_CHART.plugins,
      legend: sideLegend({ soft, font }),
    },
  };
}
