'use client';

import type { ChartOptions } from 'chart.js';
import { useMemo, useState } from 'react';
import { Line } from 'react-chartjs-2';
import { formatNumber, fromSi, type Unit } from '@/core/units/units';
import type { Manifest } from '@/runtime/manifest';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { chartStyle, PLAIN_CHART, sideLegend } from '../ui/chartStyle';
import { Choice } from '../ui/controls';
import type { ComparedRun } from './compared';

type History = Manifest['history'];
interface Quantity {
  label: string;
  unit: Unit;
  of: (h: History) => readonly number[];
}

const QUANTITIES = {
  nozzle: { label: 'Nozzle pressure', unit: 'MPa', of: (h) => h.nozzlePressure ?? h.pressure },
  clamp: { label: 'Clamp force', unit: 'kN', of: (h) => h.clampForce },
  flow: { label: 'Flow rate', unit: 'cm³/s', of: (h) => h.flowRate },
  filled: { label: 'Filled', unit: '%', of: (h) => h.shareFilled },
} as const satisfies Record<string, Quantity>;
type QuantityId = keyof typeof QUANTITIES;

const OPTIONS = (Object.keys(QUANTITIES) as QuantityId[]).map((value) => ({ value, label: QUANTITIES[value].label }));

/** What happens over the shot, a line a run, on one axis of time. */
export function CompareCharts({ runs }: { runs: readonly ComparedRun[] }) {
  const [id, setId] = useState<QuantityId>('nozzle');
  const [span, setSpan] = useState<'filling' | 'all'>('all');
  const { label, unit, of }: Quantity = QUANTITIES[id];
  const data = useMemo(
    () => ({
      datasets: runs.map(({ name, history }, k) => ({
        label: name,
        data: history.time.map((x, i) => ({ x, y: fromSi(of(history)[i], unit) })),
        borderColor: GATE_COLOURS[k % GATE_COLOURS.length],
        backgroundColor: GATE_COLOURS[k % GATE_COLOURS.length],
        borderWidth: 1.8,
        borderDash: k ? [8, 3 * k] : [],
        pointRadius: 0,
      })),
    }),
    [runs, of, unit],
  );
  const end = Math.max(
    0,
    ...runs.map(({ history, summary }) =>
      span === 'filling' ? 1.1 * summary.fillTime_s : history.time[history.time.length - 1],
    ),
  );
  const options = useMemo(() => chartOptions(`${label}, ${unit}`, end), [label, unit, end]);
  return (
    <div className="flex min-h-0 flex-1 flex-col px-5 py-3">
      <div className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          <Choice label="Charted" value={id} options={OPTIONS} onChange={setId} />
        </div>
        <Choice
          label="Span"
          value={span}
          options={[
            { value: 'filling', label: 'Filling' },
            { value: 'all', label: 'Cycle' },
          ]}
          onChange={setSpan}
        />
      </div>
      <div className="relative mt-3 min-h-0 flex-1">
        <Line data={data} options={options} aria-label={`${label} over time of the compared runs`} />
      </div>
    </div>
  );
}

function chartOptions(title: string, end: number): ChartOptions<'line'> {
  const style = chartStyle();
  const { soft, line, font } = style;
  return {
    ...PLAIN_CHART,
    elements: { line: { tension: 0 } },
    plugins: { ...PLAIN_CHART.plugins, legend: sideLegend(style) },
    scales: {
      x: {
        type: 'linear',
        min: 0,
        max: end,
        grid: { color: line },
        ticks: { color: soft, font, maxTicksLimit: 8, callback: (v) => `${formatNumber(Number(v), 2)} s` },
      },
      y: {
        type: 'linear',
        beginAtZero: true,
        grid: { color: line },
        border: { display: false },
        title: { display: true, text: title, color: soft, font },
        ticks: { color: soft, font, maxTicksLimit: 7 },
      },
    },
  };
}
