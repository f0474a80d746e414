'use client';

import type { ChartOptions } from 'chart.js';
import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import { formatNumber } from '@/core/units/units';
import { shownUnit } from '@/core/units/reader';
import type { RunView } from '@/runtime/wire';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { DRAWN, useRunData } from '../study/runData';
import { usePacedTime } from '../study/view';
import { chartStyle, PLAIN_CHART, sideLegend } from '../ui/chartStyle';
import { drawnWith, linesOf, WALL_QUANTITIES, type WallQuantity } from './wallLines';
import { useNamedProbes } from '../study/names';

/** What the layers at the probes have, from wall to wall; a temperature at the instant that is shown. */
export function WallProfile({ run, quantity }: { run: RunView; quantity: WallQuantity }) {
  const time = usePacedTime(quantity === 'profile');
  const probes = useNamedProbes();
  const drawn = useMemo(() => drawnWith(quantity), [quantity]);
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

/** Style of the chart, as wide as the thickest wall in it (half of it, mm). */
export function optionsOf(halfWall: number): ChartOptions<'line'> {
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
        ticks: { ...ticks, includeBounds: false, callback: (v) => `${formatNumber(Number(v), 2)} ${shownUnit('mm')}` },
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
