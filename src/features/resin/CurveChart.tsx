'use client';

import {
  Chart,
  Legend,
  LinearScale,
  LineElement,
  LogarithmicScale,
  PointElement,
  type ChartOptions,
  type ScaleOptionsByType,
} from 'chart.js';
import { useMemo, useRef } from 'react';
import { Line } from 'react-chartjs-2';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { chartStyle, sideLegend } from '../ui/chartStyle';
import { useColours } from '../ui/useColours';
import type { CurveSet } from './curves';

Chart.register(LineElement, PointElement, LinearScale, LogarithmicScale, Legend);

export interface MeasuredPoint {
  x: number;
  y: number;
  /** Group whose colour it has. */
  group: number;
  left: boolean;
}

/** Curves in one chart; measured points can be drawn over them and clicked. */
export function CurveChart({
  set,
  points = [],
  onPoint,
}: {
  set: CurveSet;
  points?: readonly MeasuredPoint[];
  onPoint?: (k: number) => void;
}) {
  const colours = useColours();
  const chart = useRef<Chart<'line'> | null>(null);
  const half = set.lines.findIndex((l) => l.dashed);
  const data = useMemo(() => {
    const colourOf = (k: number) => GATE_COLOURS[(half > 0 ? k % half : k) % GATE_COLOURS.length];
    return {
      datasets: [
        ...set.lines.map((line, k) => ({
          label: line.label,
          data: line.points,
          borderColor: colourOf(k),
          backgroundColor: colourOf(k),
          borderWidth: 1.8,
          borderDash: line.dashed ? [5, 3] : [],
          pointRadius: 0,
          pointHitRadius: 0,
        })),
        ...(points.length
          ? [
              {
                label: 'Measured',
                data: points.map(({ x, y }) => ({ x, y })),
                showLine: false,
                pointRadius: 4,
                pointHitRadius: 6,
                pointStyle: points.map((p) => (p.left ? ('crossRot' as const) : ('circle' as const))),
                pointBorderColor: points.map((p) => (p.left ? colours.edge : colourOf(p.group))),
                pointBackgroundColor: points.map((p) => (p.left ? 'transparent' : colourOf(p.group))),
                borderColor: colours.edge,
                backgroundColor: 'transparent',
              },
            ]
          : []),
      ],
    };
  }, [set, points, colours, half]);
  const options = useMemo(() => chartOptions(set), [set]);
  return (
    <Line
      ref={chart}
      data={data}
      options={{
        ...options,
        onClick: (_event, elements) => {
          const hit = elements.find((e) => e.datasetIndex === set.lines.length);
          if (hit && onPoint) onPoint(hit.index);
        },
      }}
      aria-label={set.title}
    />
  );
}

function chartOptions({ x, y }: CurveSet): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  const axis = (label: string, log: boolean) => ({
    type: log ? ('logarithmic' as const) : ('linear' as const),
    title: { display: true, text: label, color: soft, font },
    grid: { color: line },
    border: { color: line },
    ticks: {
      color: soft,
      font,
      maxTicksLimit: 8,
      callback: (v: string | number) => nameOf(Number(v), log),
    },
  });
  return {
    responsive: true,
    maintainAspectRatio: false,
    animation: false,
    parsing: false,
    elements: { line: { tension: 0 } },
    interaction: { mode: 'nearest', intersect: true },
    scales: { x: axis(x.label, x.log), y: axis(y.label, y.log) } as unknown as Record<
      string,
      ScaleOptionsByType<'linear' | 'logarithmic'>
    >,
    plugins: {
      legend: sideLegend({ soft, font }),
      tooltip: { enabled: false },
    },
  };
}

/** On a logarithmic axis only the powers of ten are named. */
function nameOf(value: number, log: boolean): string {
  if (!log) return String(Number(value.toPrecision(6)));
  const power = Math.log10(value);
  return Math.abs(power - Math.round(power)) < 1e-6 ? value.toLocaleString('en-GB') : '';
}
