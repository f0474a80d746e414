'use client';

import {
  Chart,
  Legend as ChartLegend,
  LinearScale,
  LineElement,
  PointElement,
  type ChartOptions,
  type Plugin,
} from 'chart.js';
import { X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Line } from 'react-chartjs-2';
import { shownUnit, told } from '@/core/units/reader';
import { type Unit } from '@/core/units/units';
import { VERDICT_RULES } from '@/core/results/rules';
import type { Manifest } from '@/runtime/manifest';
import type { RunView } from '@/runtime/wire';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { useColours } from '../ui/useColours';
import { DRAWN, MANIFEST, useRunData, type RunData } from '../study/runData';
import { useBench } from '../study/bench';
import { Select } from '../ui/controls';
import { StripScale } from './stripScale';
import { timeAxis } from './timeAxis';
import { ALL_QUANTITIES, HISTORIES, isThere, QUANTITIES, seriesOf, type Quantity } from './probeSeries';
import { isThroughWall, type WallQuantity } from './wallLines';
import { WallProfile } from './WallProfile';
import { chartStyle, PLAIN_CHART, sideLegend } from '../ui/chartStyle';
import { useNamedProbes } from '../study/names';

Chart.register(LineElement, PointElement, LinearScale, ChartLegend);

/** Histories of the probes, with the transition temperature and the switchover as lines to judge by. */
export function ProbeChart({ run }: { run: RunView }) {
  const probes = useNamedProbes();
  const set = useBench((s) => s.set);
  const [chosen, setChosen] = useState<Quantity | WallQuantity>('pressure');
  const quantity: Quantity = isThroughWall(chosen) ? 'clampForce' : chosen;
  const fields = [
    ...(HISTORIES.includes(quantity) ? [] : [quantity]),
    ...(quantity === 'pressure' ? ['holdReach'] : []),
  ];
  const manifest = useRunData(run.id, MANIFEST)?.manifest;
  const there = (id: string) => isThere(manifest, id);
  const data = useRunData(run.id, DRAWN, ['fillTime', ...fields.filter(there)]);
  const colours = useColours();
  const unit = QUANTITIES.find((q) => q.value === quantity)!.unit;
  const chosenUnit = shownUnit(ALL_QUANTITIES.find((q) => q.value === chosen)!.unit);
  const series = useMemo(() => (data ? seriesOf(data, quantity, probes, unit) : []), [data, quantity, probes, unit]);
  const scale = useMemo(() => new StripScale(data?.manifest ?? null), [data?.manifest]);
  const chart = useMemo(
    () => ({
      datasets: series.map((s, k) => ({
        label: s.label,
        // The same time axis as the strip below: every phase of the cycle has its room.
        data: s.points.map(({ x, y }) => ({ x: scale.placeOf(x), y })),
        borderColor: GATE_COLOURS[k % GATE_COLOURS.length],
        backgroundColor: GATE_COLOURS[k % GATE_COLOURS.length],
        borderWidth: 1.7,
      })),
    }),
    [series, scale],
  );
  const marks = useMemo(
    () => (data?.manifest ? [...marksOf(data.manifest, quantity), ...fedUntil(data, quantity, probes)] : []),
    [data, quantity, probes],
  );
  const plugin = useMemo(
    () =>
      referenceLines(
        marks.map((m) => (m.axis === 'x' ? { ...m, at: scale.placeOf(m.at) } : m)),
        colours,
      ),
    [marks, colours, scale],
  );
  const options = useMemo(() => chartOptions(unit, scale), [unit, scale]);
  return (
    <section
      aria-label="Probe chart"
      className="bg-sheet/96 absolute right-3 bottom-3 left-3 z-10 flex h-56 flex-col rounded border p-2 shadow-md"
    >
      <header className="flex items-center gap-3">
        <div className="w-64 shrink-0">
          <Select
            label="Quantity"
            value={chosen}
            options={ALL_QUANTITIES.filter((q) => there(q.value))}
            onChange={(v) => setChosen(v as Quantity)}
          />
        </div>
        <span className="text-soft text-[12px] whitespace-nowrap">{chosenUnit}</span>
        <button
          type="button"
          aria-label="Close the chart"
          className="text-soft hover:text-ink ml-auto"
          onClick={() => set({ chart: false })}
        >
          <X size={15} />
        </button>
      </header>
      <div className="relative min-h-0 flex-1 pt-1">
        {isThroughWall(chosen) ? (
          <WallProfile run={run} quantity={chosen} />
        ) : series.length ? (
          <Line key={quantity} data={chart} options={options} plugins={[plugin]} aria-label="Histories at the probes" />
        ) : (
          <p className="text-soft grid h-full place-items-center">
            {HISTORIES.includes(quantity)
              ? 'This run has none.'
              : 'No probe yet: press P, then click on the part where you want to follow the melt.'}
          </p>
        )}
      </div>
    </section>
  );
}

interface Mark {
  axis: 'x' | 'y';
  at: number;
  label: string;
}

function marksOf(manifest: Manifest, quantity: Quantity): Mark[] {
  const marks: Mark[] = [];
  const { switchoverTime_s } = manifest.summary;
  if (switchoverTime_s != null) marks.push({ axis: 'x', at: switchoverTime_s, label: 'switchover' });
  const { pack, fillTime_s } = manifest.summary;
  if (pack) {
    marks.push({ axis: 'x', at: fillTime_s, label: 'full' });
    if (pack.lastGateFrozenAt_s !== null) marks.push({ axis: 'x', at: pack.lastGateFrozenAt_s, label: 'gate frozen' });
    marks.push({ axis: 'x', at: pack.packingEnd_s, label: 'packing ends' });
    marks.push({ axis: 'x', at: pack.openTime_s, label: 'mould opens' });
  }
  if (HISTORIES.includes(quantity))
    for (const pin of manifest.summary.feed?.pins ?? [])
      if (pin.openedAt_s) marks.push({ axis: 'x', at: pin.openedAt_s, label: `${pin.gate} opens` });
  if (quantity === 'airTemperature')
    marks.push({ axis: 'y', at: told(VERDICT_RULES.burn.problem, '°C'), label: 'burn risk' });
  if (quantity === 'temperature' && manifest.transitionTemperature_K !== undefined)
    marks.push({ axis: 'y', at: told(manifest.transitionTemperature_K, '°C'), label: 'transition temperature' });
  return marks;
}

/** How long packing reached each probe. */
function fedUntil(
  { grid, fields }: RunData,
  quantity: Quantity,
  probes: readonly { id: string; position: readonly number[] }[],
): Mark[] {
  const reach = fields.get('holdReach');
  if (!grid || !reach || quantity !== 'pressure') return [];
  return probes.flatMap(({ id, position: [x, y, z] }) => {
    const node = grid.mapper.nodeAt(x, y, z);
    return node >= 0 && reach[node] > 0 ? [{ axis: 'x' as const, at: reach[node], label: `${id} fed until` }] : [];
  });
}

/** About as wide as the name of a line, px. */
const NAME_WIDTH = 72;

/** Draws reference lines with their names; they are part of the picture, not of the data. */
function referenceLines(marks: Mark[], colours: { ink: string }): Plugin<'line'> {
  return {
    id: 'references',
    afterDatasetsDraw(chart) {
      const { ctx, chartArea: area } = chart;
      ctx.save();
      ctx.strokeStyle = colours.ink;
      ctx.fillStyle = colours.ink;
      ctx.setLineDash([2, 3]);
      ctx.font = "11px 'Inter Variable', sans-serif";
      const passed: number[] = [];
      for (const { axis, at, label } of marks) {
        const p = chart.scales[axis].getPixelForValue(at);
        ctx.beginPath();
        if (axis === 'x') {
          if (p < area.left || p > area.right) continue;
          ctx.moveTo(p, area.top);
          ctx.lineTo(p, area.bottom);
          const fits = p - area.left > NAME_WIDTH + 8;
          ctx.textAlign = fits ? 'right' : 'left';
          // Lines that stand close have their names one below the other.
          const near = passed.filter((x) => Math.abs(x - p) < NAME_WIDTH).length;
          passed.push(p);
          ctx.fillText(label, fits ? p - 4 : p + 4, area.top + 10 + 12 * near);
        } else {
          if (p < area.top || p > area.bottom) continue;
          ctx.moveTo(area.left, p);
          ctx.lineTo(area.right, p);
          ctx.textAlign = 'left';
          ctx.fillText(label, area.left + 6, p - 4);
        }
        ctx.stroke();
      }
      ctx.restore();
    },
  };
}

function chartOptions(unit: Unit, scale: StripScale): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  const ticks = { color: soft, font, maxTicksLimit: 6 };
  return {
    ...PLAIN_CHART,
    // A name in the legend shows and hides its line.
    events: ['click'],
    elements: { point: { radius: 0 }, line: { tension: 0 } },
    scales: {
      x: timeAxis(scale, { soft, line, font }),
      y: {
        type: 'linear',
        grid: { color: line },
        border: { display: false },
        ticks,
        // The transition temperature must stay in the picture.
        ...(unit === '°C' ? { suggestedMin: told(333.15, unit) } : { beginAtZero: true }),
      },
    },
    plugins: {
      ...PLAIN_CHART.plugins,
      legend: sideLegend({ soft, font }),
    },
  };
}
