'use client';

import { CategoryScale, Chart, LinearScale, LineElement, PointElement, type ChartOptions, type Plugin } from 'chart.js';
import { useMemo, useRef, useState } from 'react';
import { Line } from 'react-chartjs-2';
import type { Manifest } from '@/runtime/manifest';
import { useColours } from '../ui/useColours';
import { PlayHead } from './PlayHead';
import { FLAG_ROW, flagsOf } from './stripFlags';
import { bandOf, Phases, PinBars, type Area } from './StripMarks';
import type { StripScale } from './stripScale';
import { timeAxis } from './timeAxis';
import { chartStyle, PLAIN_CHART } from '../ui/chartStyle';
import { shownUnit, told } from '@/core/units/reader';

/** Width of the traces from which instants and phases are named, px. */
const LEAST_NAMED = 300;
const NO_FLAGS: ReturnType<typeof flagsOf> = [];

Chart.register(LineElement, PointElement, LinearScale, CategoryScale);

/** Pressure and flow rate over the cycle, with its phases, the bars of the pins, flags and play head. */
export function ShotTraces({ manifest, scale }: { manifest: Manifest; scale: StripScale }) {
  const colours = useColours();
  const chart = useRef<Chart<'line'> | null>(null);
  const [area, setArea] = useState<Area | null>(null);
  const { history } = manifest;
  const withFeed = manifest.summary.feed !== undefined;
  const withCore = manifest.summary.core?.melt === false;
  const { press } = manifest.summary;
  const [ofPress, showPress] = useState(true);
  const pressed = press !== undefined && (ofPress || press.by === 'charge');
  const data = useMemo(() => {
    const x = history.time.map((t) => scale.placeOf(t));
    if (pressed)
      return {
        datasets: [
          {
            label: 'Closing force',
            data: x.map((at, i) => ({ x: at, y: told(history.clampForce[i], 'kN') })),
            borderColor: colours.accent,
            yAxisID: 'y',
          },
          {
            label: 'Gap',
            data: x.map((at, i) => ({ x: at, y: told(history.gap[i], 'mm') })),
            borderColor: colours.select,
            borderDash: [4, 3],
            yAxisID: 'y2',
          },
        ],
      };
    return {
      datasets: [
        {
          label: 'Nozzle pressure',
          data: x.map((at, i) => ({ x: at, y: told((history.nozzlePressure ?? history.pressure)[i], 'MPa') })),
          borderColor: colours.accent,
          yAxisID: 'y',
        },
        ...(withFeed
          ? [
              {
                label: 'Highest gate pressure',
                data: x.map((at, i) => ({ x: at, y: told(history.pressure[i], 'MPa') })),
                borderColor: colours.accent,
                borderDash: [1.5, 2.5],
                yAxisID: 'y',
              },
            ]
          : []),
        ...(withCore
          ? [
              {
                label: 'Pressure in the core',
                data: x.map((at, i) => ({ x: at, y: told(history.corePressure[i], 'MPa') })),
                borderColor: colours.ink,
                borderDash: [6, 2, 1.5, 2],
                yAxisID: 'y',
              },
            ]
          : []),
        {
          label: 'Flow rate',
          data: x.map((at, i) => ({ x: at, y: told(history.flowRate[i], 'cm³/s') })),
          borderColor: colours.select,
          borderDash: [4, 3],
          yAxisID: 'y2',
        },
      ],
    };
  }, [history, colours, withFeed, withCore, pressed, scale]);
  const flags = useMemo(() => flagsOf(manifest, scale), [manifest, scale]);
  const options = useMemo(() => chartOptions(scale, colours), [scale, colours]);
  const measure = useMemo<Plugin<'line'>>(
    () => ({
      id: 'measure',
      afterLayout: (c) => {
        const { left, right, top, bottom } = c.chartArea;
        setArea((a) =>
          a && a.left === left && a.right === right && a.bottom === bottom ? a : { left, right, top, bottom },
        );
      },
    }),
    [],
  );
  const pins = manifest.summary.feed?.pins ?? [];
  // Pins have a band of their own above the traces.
  const band = bandOf(pins);
  // Names would lie over each other: the traces say enough, and where the head stands is told beside them.
  const narrow = area !== null && area.right - area.left < LEAST_NAMED;
  const below = area && { ...area, top: area.top + band, bottom: area.bottom + band };
  return (
    <>
      <div className="absolute inset-0 pt-1 pr-1" style={{ top: band }}>
        <Line
          ref={chart}
          data={data}
          options={options}
          plugins={[measure]}
          aria-label={pressed ? 'Closing force and gap over time' : 'Pressure and flow rate over time'}
        />
      </div>
      <div className="pointer-events-none absolute top-0.5 left-9 z-10 flex gap-2.5 text-[11px] whitespace-nowrap">
        <span className="text-copper">
          {pressed ? '— force, kN' : `${withFeed ? '— nozzle, ┈ gate' : '— pressure'}, ${shownUnit('MPa')}`}
        </span>
        {withCore && <span className="text-ink">–· core, {shownUnit('MPa')}</span>}
        <span className="text-petrol">{pressed ? `┄ gap, ${shownUnit('mm')}` : `┄ flow, ${shownUnit('cm³/s')}`}</span>
        {press?.by === 'gates' && (
          <button
            type="button"
            className="text-soft hover:text-ink pointer-events-auto underline"
            onClick={() => showPress(!ofPress)}
          >
            {ofPress ? 'Show the injection' : 'Show the press'}
          </button>
        )}
      </div>
      {below && !narrow && scale.phases.length > 1 && <Phases area={below} scale={scale} />}
      {area && <PinBars area={area} scale={scale} pins={pins} />}
      {below && <PlayHead area={below} scale={scale} flags={narrow ? NO_FLAGS : flags} />}
    </>
  );
}

function chartOptions(scale: StripScale, colours: { edge: string }): ChartOptions<'line'> {
  const { soft = colours.edge, line = colours.edge, font } = chartStyle();
  return {
    ...PLAIN_CHART,
    // Rows of names: traces and phases, then flags.
    layout: { padding: { top: 14 + FLAG_ROW } },
    elements: { point: { radius: 0 }, line: { borderWidth: 1.6, tension: 0 } },
    scales: {
      x: { ...timeAxis(scale, { soft, line, font }), border: { color: line } },
      y: {
        type: 'linear',
        beginAtZero: true,
        grid: { color: line },
        border: { display: false },
        ticks: { color: soft, font, maxTicksLimit: 4 },
      },
      y2: {
        type: 'linear',
        position: 'right',
        // What flows back out is told, not drawn: it would lift the zero off the axis.
        min: 0,
        grid: { display: false },
        border: { display: false },
        ticks: { color: soft, font, maxTicksLimit: 4 },
      },
    },
  };
}
