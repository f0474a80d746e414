'use client';

import { Wand } from 'lucide-react';
import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import type { ChartOptions } from 'chart.js';
import type { CycleReport } from '@/core/pipeline/cycleStudy';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { useColours } from '../ui/useColours';
import { api } from '../study/api';
import { freshName, presentInputs, useStudy } from '../study/store';
import { Button, Fact, SectionTitle } from '../ui/controls';
import { chartStyle, PLAIN_CHART } from '../ui/chartStyle';
import { TrialProgress, useTrials } from '../study/useTrials';

/** A cycle from trials: injection time, packing and cooling, taken over as a variant. */
export function SuggestPanel() {
  const inputs = useStudy((s) => presentInputs(s));
  const trials = useTrials<CycleReport, typeof inputs>();
  const { running, found, problem } = trials;
  const start = () => trials.start(inputs, (onProgress, signal) => api.cycle(inputs, onProgress, signal));
  // A tool that closes packs by itself: there is no pressure of the nozzle to find.
  if (!inputs.gates.length || inputs.compression) return null;
  return (
    <>
      <SectionTitle>Suggested cycle</SectionTitle>
      {running ? (
        <TrialProgress {...running} onStop={trials.stop} />
      ) : (
        <Button className="w-full" onClick={() => void start()}>
          <Wand size={13} /> {found ? 'Try again' : 'Find a cycle by trials'}
        </Button>
      )}
      {problem && (
        <p role="alert" className="text-problem mt-1.5 text-[12px]">
          {problem}
        </p>
      )}
      {found && !running && <Found report={found.report} stale={found.of !== inputs} />}
    </>
  );
}

function Found({ report, stale }: { report: CycleReport; stale: boolean }) {
  const branch = useStudy((s) => s.branch);
  const variants = useStudy((s) => s.variants);
  return (
    <div className="mt-2" data-testid="suggested">
      <Sweep report={report} />
      <dl className="num mt-1 grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Injection time" value={format(report.injectionTime, 's', 2)} />
        {report.packing && (
          <>
            <Fact label="Packing pressure" value={format(report.packing.pressure, 'MPa')} />
            <Fact label="Packing time" value={format(report.packing.time, 's')} />
          </>
        )}
        <Fact label="Cooling time" value={format(report.coolingTime, 's')} />
        <Fact label="Cycle" value={format(report.cycleTime, 's')} />
      </dl>
      <p className="text-soft mt-1 text-[12px]">
        {!report.packing
          ? 'The fluid in the core packs the part, with its pressure over time as it is set; cooling counts from its release.'
          : report.gateFrozenAt === null
            ? 'A gate stays open longer than the part must cool: packing lasts until it can be ejected.'
            : `Packing lasts until the gate has frozen, ${format(report.gateFrozenAt, 's')} after the start.`}
      </p>
      {stale && <p className="text-copper mt-1 text-[12px]">Inputs have changed since these trials.</p>}
      <Button
        className="mt-2 w-full"
        onClick={() => void branch(freshName(variants, 'Suggested cycle'), report.inputs)}
      >
        Take it over as a variant
      </Button>
    </div>
  );
}

/** Pressure against injection time, with the time that was chosen. */
function Sweep({ report }: { report: CycleReport }) {
  const colours = useColours();
  const data = useMemo(() => {
    const rows = report.sweep.filter((r) => r.pressure !== null);
    return {
      datasets: [
        {
          data: rows.map((r) => ({ x: r.injectionTime, y: (r.pressure ?? 0) / 1e6 })),
          borderColor: colours.accent,
          borderWidth: 1.8,
          pointRadius: rows.map((r) => (r.injectionTime === report.injectionTime ? 5 : 2.5)),
          pointBackgroundColor: rows.map((r) =>
            r.injectionTime === report.injectionTime ? colours.select : colours.accent,
          ),
        },
      ],
    };
  }, [report, colours]);
  const options = useMemo(() => sweepOptions(), []);
  return (
    <div className="h-28">
      <Line data={data} options={options} aria-label="Pressure needed against injection time" />
    </div>
  );
}

function sweepOptions(): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  return {
    ...PLAIN_CHART,
    elements: { line: { tension: 0 } },
    scales: {
      x: {
        type: 'linear',
        grid: { color: line },
        ticks: { color: soft, font, maxTicksLimit: 5, callback: (v) => `${formatNumber(Number(v), 2)} s` },
      },
      y: {
        type: 'linear',
        beginAtZero: true,
        grid: { color: line },
        border: { display: false },
        title: { display: true, text: 'MPa', color: soft, font },
        ticks: { color: soft, font, maxTicksLimit: 4 },
      },
    },
  };
}
