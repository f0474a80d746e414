'use client';

import type { ChartOptions } from 'chart.js';
import { useMemo, useState } from 'react';
import { Line } from 'react-chartjs-2';
import { MOST_COMPARED } from '@/core/results/compare';
import { shownUnit, told } from '@/core/units/reader';
import { formatNumber, type Unit } from '@/core/units/units';
import type { Manifest } from '@/runtime/manifest';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { ALL_QUANTITIES, HISTORIES, isThere, seriesOf, type Quantity, type Series } from '../answers/probeSeries';
import { drawnWith, isThroughWall, linesOf, type WallQuantity } from '../answers/wallLines';
import { optionsOf } from '../answers/WallProfile';
import { DRAWN, useRunData, type RunData } from '../study/runData';
import { presentInputs, useStudy } from '../study/store';
import { usePacedTime } from '../study/view';
import { chartStyle, PLAIN_CHART, sideLegend } from '../ui/chartStyle';
import { Choice, Select } from '../ui/controls';
import type { ComparedRun } from './compared';
import { useNameOf } from '../study/names';

type History = Manifest['history'];

/** Of the machine, from the history of a run. */
const MACHINE = {
  nozzle: { label: 'Nozzle pressure', unit: 'MPa', of: (h) => h.nozzlePressure ?? h.pressure },
  flow: { label: 'Flow rate', unit: 'cm³/s', of: (h) => h.flowRate },
  filled: { label: 'Filled', unit: '%', of: (h) => h.shareFilled },
} as const satisfies Record<string, { label: string; unit: Unit; of: (h: History) => readonly number[] }>;
type MachineId = keyof typeof MACHINE;
type Charted = MachineId | Quantity | WallQuantity;
const isMachine = (id: Charted): id is MachineId => id in MACHINE;

const CHARTED: readonly { value: Charted; label: string; unit: Unit }[] = [
  ...(Object.keys(MACHINE) as MachineId[]).map((value) => ({ value, ...MACHINE[value] })),
  ...ALL_QUANTITIES,
];

const NO_FIELDS: readonly string[] = [];

/** Results of each of the compared runs, as far as they have come. */
function useAllData(runs: readonly ComparedRun[], fields: readonly string[]): readonly (RunData | null)[] {
  const of = (k: number): Parameters<typeof useRunData> => {
    const run = k < runs.length ? runs[k] : null;
    return [run?.run.id ?? null, DRAWN, run ? fields.filter((f) => run.fields.has(f)) : NO_FIELDS];
  };
  // As many as there can be: hooks are called in the same number each time.
  const all = [useRunData(...of(0)), useRunData(...of(1)), useRunData(...of(2)), useRunData(...of(3))];
  if (all.length !== MOST_COMPARED) throw new Error('one set of results for each run that can be compared');
  return all;
}

/** What happens over the shot or through the wall, lines of all compared runs on one axis. */
export function CompareCharts({ runs }: { runs: readonly ComparedRun[] }) {
  const [id, setId] = useState<Charted>('nozzle');
  const [span, setSpan] = useState<'filling' | 'all'>('all');
  const [probeId, setProbe] = useState<string | null>(null);
  const probes = useStudy((s) => presentInputs(s).probes);
  const nameOf = useNameOf();
  const chosen = useMemo(
    () => probes.filter((p, k) => (probeId && probes.some((q) => q.id === probeId) ? p.id === probeId : k === 0)),
    [probes, probeId],
  );
  const { label, unit } = CHARTED.find((c) => c.value === id)!;
  const walls = isThroughWall(id);
  const atProbe = walls || (!isMachine(id) && !HISTORIES.includes(id));
  const fields = useMemo(() => {
    if (isThroughWall(id)) return [...drawnWith(id).map((d) => d.field), 'thickness'];
    return isMachine(id) || HISTORIES.includes(id) ? NO_FIELDS : [id];
  }, [id]);
  const data = useAllData(runs, fields);
  const time = usePacedTime(id === 'profile');
  const lines = useMemo(
    () =>
      runs.flatMap((run, k) => {
        const own = data[k];
        const series: readonly Series[] = isMachine(id)
          ? [{ label: '', points: overTime(run.history, id) }]
          : !own
            ? []
            : isThroughWall(id)
              ? drawnWith(id).flatMap((d) => linesOf(own, d, chosen, unit, time) ?? [])
              : seriesOf(own, id, chosen, unit);
        return series.map((s, n) => ({
          label: series.length > 1 ? `${run.name}, ${s.label}` : run.name,
          data: [...s.points],
          borderColor: GATE_COLOURS[k % GATE_COLOURS.length],
          backgroundColor: GATE_COLOURS[k % GATE_COLOURS.length],
          borderWidth: 1.8,
          // Runs differ in colour and in dash; further lines of a run are thinner ones.
          borderDash: k ? [8, 3 * k] : [],
          ...(n ? { borderWidth: 1 } : {}),
          pointRadius: 0,
        }));
      }),
    [runs, data, id, chosen, unit, time],
  );
  const end = Math.max(
    0,
    ...runs.map(({ history, summary }) =>
      span === 'filling' ? 1.1 * summary.fillTime_s : history.time[history.time.length - 1],
    ),
    ...(span === 'all' && !walls ? lines.map((l) => l.data.at(-1)?.x ?? 0) : []),
  );
  const halfWall = Math.max(0, ...(walls ? lines.flatMap((l) => l.data.map(({ x }) => x)) : []));
  const options = useMemo(
    () => (walls ? optionsOf(halfWall) : chartOptions(`${label}, ${shownUnit(unit)}`, end)),
    [walls, halfWall, label, unit, end],
  );
  const there = CHARTED.filter((c) => isMachine(c.value) || runs.some((r) => isThere(r.manifest, c.value)));
  return (
    <div className="flex min-h-0 flex-1 flex-col px-5 py-3">
      <div className="flex items-center gap-3">
        <div className="w-64">
          <Select label="Charted" value={id} options={there} onChange={(v) => setId(v as Charted)} />
        </div>
        {atProbe && probes.length > 0 && (
          <div className="w-28">
            <Select
              label="Probe"
              value={chosen[0].id}
              options={probes.map((p) => ({ value: p.id, label: nameOf('probe', p.id) }))}
              onChange={setProbe}
            />
          </div>
        )}
        {!walls && (
          <div className="ml-auto">
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
        )}
      </div>
      <div className="relative mt-3 min-h-0 flex-1">
        {lines.length ? (
          <Line
            key={walls ? 'wall' : 'time'}
            data={{ datasets: lines }}
            options={options}
            aria-label={`${label} ${walls ? 'through the wall' : 'over time'} of the compared runs`}
          />
        ) : (
          <p className="text-soft grid h-full place-items-center text-center">
            {atProbe && !probes.length
              ? 'No probe yet: press P, then click on the part where you want to follow the melt.'
              : data.some((d, k) => k < runs.length && !d?.manifest)
                ? ''
                : 'None of these runs has it.'}
          </p>
        )}
      </div>
    </div>
  );
}

const overTime = (history: History, id: MachineId): Series['points'] => {
  const { of, unit } = MACHINE[id];
  const values = of(history);
  return history.time.map((x, i) => ({ x, y: told(values[i], unit) }));
};

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
        beginAtZero: !title.endsWith('°C'),
        grid: { color: line },
        border: { display: false },
        title: { display: true, text: title, color: soft, font },
        ticks: { color: soft, font, maxTicksLimit: 7 },
      },
    },
  };
}
