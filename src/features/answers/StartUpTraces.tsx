import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import type { ChartOptions } from 'chart.js';
import type { CoolFacts } from '@/core/results/coolFacts';
import { shownUnit, told } from '@/core/units/reader';
import { useColours } from '../ui/useColours';
import { chartStyle, PLAIN_CHART } from '../ui/chartStyle';

/** Temperature of the mould's surface over the cycles of a start-up: mean, and the band from cold to hot. */
export function StartUpTraces({ startUp, settled }: { startUp: NonNullable<CoolFacts['startUp']>; settled: number }) {
  const colours = useColours();
  const cycles = startUp.time_s.length > 2 ? startUp.time_s[2] : 1;
  const data = useMemo(() => {
    const line = (values: number[]) => startUp.time_s.map((t, k) => ({ x: t / cycles, y: told(values[k], '°C') }));
    const plain = { pointRadius: 0, borderWidth: 1 };
    return {
      datasets: [
        { ...plain, data: line(startUp.high_K), borderColor: colours.edge, borderDash: [3, 3] },
        { ...plain, data: line(startUp.low_K), borderColor: colours.edge, borderDash: [3, 3] },
        { ...plain, data: line(startUp.mean_K), borderColor: colours.accent, borderWidth: 2 },
      ],
    };
  }, [startUp, cycles, colours]);
  const options = useMemo(() => optionsOf(), []);
  const near = startUp.mean_K.findIndex((T) => Math.abs(T - settled) < 0.05 * Math.abs(settled - startUp.mean_K[0]));
  return (
    <div className="absolute inset-0 px-2 pt-4 pb-1">
      <p className="text-soft num absolute top-1 left-3 text-[11px]">
        Mould surface, {shownUnit('°C')} over cycles from cold: mean and range
        {near > 0 && `; within 5 % of settled after ${Math.ceil(startUp.time_s[near] / cycles)}`}
      </p>
      <Line data={data} options={options} aria-label="Mould temperature over the start-up" />
    </div>
  );
}

function optionsOf(): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  return {
    ...PLAIN_CHART,
    scales: {
      x: { type: 'linear', grid: { color: line }, ticks: { color: soft, font, maxTicksLimit: 12 } },
      y: {
        type: 'linear',
        grid: { color: line },
        border: { display: false },
        ticks: { color: soft, font, maxTicksLimit: 4 },
      },
    },
  };
}
