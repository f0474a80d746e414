'use client';

import { CategoryScale, Chart, LinearScale, LineElement, PointElement, type ChartOptions, type Plugin } from 'chart.js';
import { Pause, Play, SkipBack } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Line } from 'react-chartjs-2';
import { format, formatNumber } from '@/core/units/units';
import type { Manifest } from '@/runtime/protocol';
import type { FeedFacts } from '@/core/results/feedFacts';
import { useColours } from '../ui/useColours';
import { useRunData } from '../study/runData';
import { useShownRun } from '../study/useShown';
import { useView } from '../study/viewStore';
import { Button } from '../ui/controls';
import { StartUpTraces } from './StartUpTraces';
import { StripScale } from './stripScale';

Chart.register(LineElement, PointElement, LinearScale, CategoryScale);

/** One pass of the filling takes this long on screen, one of a whole cycle the longer time. */
const PLAY_SECONDS = { filling: 6, cycle: 11 };

/** The cycle's time axis: traces at the gate, flags, and the play head that drives the part. */
export function ShotStrip() {
  const { run, live } = useShownRun();
  const data = useRunData(run?.id ?? null);
  const manifest = live ? null : (data?.manifest ?? null);
  const scale = useMemo(() => new StripScale(manifest), [manifest]);
  const { end } = scale;
  usePlayback(scale);
  const startUpShown = useView((s) => s.startUpShown);
  const cool = manifest?.summary.cool;
  const startUp = cool?.startUp ?? null;
  return (
    <section aria-label="Shot strip" className="bg-sheet flex border-t">
      <Transport end={end} enabled={manifest !== null} cooling={coolingShare(manifest)} startUp={startUp !== null} />
      <div className="relative min-w-0 flex-1">
        {manifest && startUp && cool && startUpShown ? (
          <StartUpTraces startUp={startUp} settled={cool.surface_K.mean} />
        ) : manifest ? (
          <Traces manifest={manifest} scale={scale} />
        ) : (
          <p className="text-soft grid h-full place-items-center text-[12px]">
            {live ? 'Traces appear when the run is done.' : 'The time axis of the shot appears with the first result.'}
          </p>
        )}
      </div>
    </section>
  );
}

/** Share of the cycle from the end of packing to the opening; null where it was not calculated. */
function coolingShare(manifest: Manifest | null): number | null {
  const pack = manifest?.summary.pack;
  return pack ? Math.max(0, pack.openTime_s - pack.packingEnd_s) / pack.cycleTime_s : null;
}

function usePlayback(scale: StripScale): void {
  const { end } = scale;
  const playing = useView((s) => s.playing);
  useEffect(() => {
    const toggle = () => {
      const { playing: now, time, set } = useView.getState();
      if (end <= 0) return;
      set({ playing: !now, ...(!now && time >= end ? { time: 0 } : {}) });
    };
    window.addEventListener('bellows:play', toggle);
    return () => window.removeEventListener('bellows:play', toggle);
  }, [end]);
  useEffect(() => {
    if (!playing || end <= 0) return;
    let frame = 0;
    let last = performance.now();
    const tick = (now: number) => {
      const { time, set } = useView.getState();
      const whole = scale.phases.length > 1 ? PLAY_SECONDS.cycle : PLAY_SECONDS.filling;
      const place = scale.placeOf(Math.min(time, end)) + (now - last) / 1000 / whole;
      const next = place >= 1 ? end : scale.timeAt(place);
      last = now;
      if (next >= end) set({ time: Infinity, playing: false });
      else {
        set({ time: next });
        frame = requestAnimationFrame(tick);
      }
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [playing, end, scale]);
}

function Transport({
  end,
  enabled,
  cooling,
  startUp,
}: {
  end: number;
  enabled: boolean;
  cooling: number | null;
  startUp: boolean;
}) {
  const startUpShown = useView((s) => s.startUpShown);
  const playing = useView((s) => s.playing);
  const time = useView((s) => s.time);
  const set = useView((s) => s.set);
  return (
    <div className="flex w-[138px] shrink-0 flex-col justify-center gap-2 border-r px-3">
      <div className="flex gap-1">
        <Button
          className="px-1.5"
          disabled={!enabled}
          aria-label="To the start"
          title="To the start"
          onClick={() => set({ time: 0, playing: false })}
        >
          <SkipBack size={13} />
        </Button>
        <Button
          className="flex-1"
          disabled={!enabled}
          aria-label={playing ? 'Pause' : 'Play'}
          title="Play or pause (Space)"
          onClick={() => window.dispatchEvent(new Event('bellows:play'))}
        >
          {playing ? <Pause size={13} /> : <Play size={13} />} {playing ? 'Pause' : 'Play'}
        </Button>
      </div>
      <div className="num" data-testid="clock">
        <span className="text-[15px] font-semibold">{enabled ? formatNumber(Math.min(time, end), 3) : '–'}</span>
        {enabled && <span className="text-soft"> of {format(end, 's')}</span>}
      </div>
      {cooling !== null && (
        <div className="num text-soft -mt-1.5 text-[11px]" data-testid="cooling-share">
          {startUp ? (
            <button
              type="button"
              aria-pressed={startUpShown}
              className="text-petrol underline-offset-2 hover:underline"
              onClick={() => set({ startUpShown: !startUpShown })}
            >
              {startUpShown ? 'Show the shot' : 'Show the start-up'}
            </button>
          ) : (
            `${Math.round(100 * cooling)} % is cooling`
          )}
        </div>
      )}
    </div>
  );
}

function Traces({ manifest, scale }: { manifest: Manifest; scale: StripScale }) {
  const colours = useColours();
  const chart = useRef<Chart<'line'> | null>(null);
  const [area, setArea] = useState<{ left: number; right: number; top: number; bottom: number } | null>(null);
  const { history } = manifest;
  const withFeed = manifest.summary.feed !== undefined;
  const data = useMemo(() => {
    const x = history.time.map((t) => scale.placeOf(t));
    return {
      datasets: [
        {
          label: 'Nozzle pressure',
          data: x.map((at, i) => ({ x: at, y: (history.nozzlePressure ?? history.pressure)[i] / 1e6 })),
          borderColor: colours.accent,
          yAxisID: 'y',
        },
        ...(withFeed
          ? [
              {
                label: 'Highest gate pressure',
                data: x.map((at, i) => ({ x: at, y: history.pressure[i] / 1e6 })),
                borderColor: colours.accent,
                borderDash: [1.5, 2.5],
                yAxisID: 'y',
              },
            ]
          : []),
        {
          label: 'Flow rate',
          data: x.map((at, i) => ({ x: at, y: history.flowRate[i] * 1e6 })),
          borderColor: colours.select,
          borderDash: [4, 3],
          yAxisID: 'y2',
        },
      ],
    };
  }, [history, colours, withFeed, scale]);
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
  const band = pins.length ? BAR_ROW * pins.length + 5 : 0;
  return (
    <>
      <div className="absolute inset-0 pt-1 pr-1" style={{ top: band }}>
        <Line
          ref={chart}
          data={data}
          options={options}
          plugins={[measure]}
          aria-label="Pressure and flow rate over time"
        />
      </div>
      <div className="pointer-events-none absolute top-0.5 left-14 flex gap-4 text-[11px]">
        <span className="text-copper">
          {withFeed ? '— nozzle and ┈ gate pressure, MPa' : '— nozzle and gate pressure, MPa'}
        </span>
        <span className="text-petrol">┄ flow rate, cm³/s</span>
      </div>
      {area && scale.phases.length > 1 && (
        <Phases area={{ ...area, top: area.top + band, bottom: area.bottom + band }} scale={scale} />
      )}
      {area && <PinBars area={area} scale={scale} pins={pins} />}
      {area && (
        <PlayHead area={{ ...area, top: area.top + band, bottom: area.bottom + band }} scale={scale} flags={flags} />
      )}
    </>
  );
}

/** The phases of the cycle as bands behind the traces, with their names at the top. */
function Phases({
  area,
  scale,
}: {
  area: { left: number; right: number; top: number; bottom: number };
  scale: StripScale;
}) {
  const width = area.right - area.left;
  return scale.phases.map((p, k) => (
    <div
      key={p.label}
      className={`pointer-events-none absolute overflow-hidden ${k % 2 ? 'bg-well/60' : ''}`}
      style={{
        left: area.left + p.left * width,
        width: (p.right - p.left) * width,
        top: area.top,
        height: area.bottom - area.top + 4,
      }}
    >
      {(k > 0 || scale.phases.length < 2) && (
        <span className="text-soft absolute top-0 right-0 left-0 truncate text-center text-[11px]">{p.label}</span>
      )}
    </div>
  ));
}

/** Height of a pin's bar and of its row, px, and where the first one stands. */
const BAR = 5;
const BAR_ROW = 9;
const BAR_TOP = 16;

/** One bar a valve pin, from opening to closing, above the traces. */
function PinBars({
  area,
  scale,
  pins,
}: {
  area: { left: number; right: number; bottom: number };
  scale: StripScale;
  pins: FeedFacts['pins'];
}) {
  const width = area.right - area.left;
  const { end } = scale;
  const at = (t: number) => scale.placeOf(t) * width;
  return pins.map((pin, k) => {
    const top = BAR_TOP + BAR_ROW * k;
    const { openedAt_s: open, closedAt_s: close } = pin;
    const spans = pin.moves_s.flatMap((from, m) => (m % 2 ? [] : [[from, pin.moves_s[m + 1] ?? end]]));
    const said =
      open === null
        ? `Pin ${pin.gate} stays shut`
        : `Pin ${pin.gate} opens at ${format(open, 's')}${close === null ? '' : `, closes at ${format(close, 's')}`}`;
    return (
      <div
        key={pin.gate}
        role="img"
        aria-label={said}
        className="pointer-events-none absolute flex items-center"
        style={{ left: area.left, width, top, height: BAR }}
      >
        <span className="bg-well absolute inset-0 rounded-full opacity-70" />
        {spans.map(([from, to]) => (
          <span
            key={from}
            className="bg-petrol absolute inset-y-0 rounded-full opacity-80"
            style={{ left: at(from), width: Math.max(2, at(to) - at(from)) }}
          />
        ))}
        <span className="text-ink absolute right-full mr-1 text-[10px] leading-none">{pin.gate}</span>
      </div>
    );
  });
}

interface Flag {
  time: number;
  label: string;
}

function flagsOf(manifest: Manifest, scale: StripScale): Flag[] {
  const flags: Flag[] = [];
  const { limitReachedAt_s, switchoverTime_s, fillTime_s, pack } = manifest.summary;
  if (switchoverTime_s != null) flags.push({ time: switchoverTime_s, label: 'switchover' });
  if (limitReachedAt_s !== null) flags.push({ time: limitReachedAt_s, label: 'pressure limit' });
  flags.push({
    time: pack ? fillTime_s : scale.end,
    label: manifest.status === 'filled' ? 'full' : 'stopped',
  });
  if (pack?.lastGateFrozenAt_s != null) flags.push({ time: pack.lastGateFrozenAt_s, label: 'gate frozen' });
  if (pack?.ejectableTime_s != null) flags.push({ time: pack.ejectableTime_s, label: 'ejectable' });
  return flags.sort((a, b) => a.time - b.time);
}

function PlayHead({
  area,
  scale,
  flags,
}: {
  area: { left: number; right: number; top: number; bottom: number };
  scale: StripScale;
  flags: Flag[];
}) {
  const time = useView((s) => s.time);
  const set = useView((s) => s.set);
  const scrub = useRef(false);
  const width = area.right - area.left;
  const { end } = scale;
  const now = Math.min(time, end);
  const goTo = (t: number) => set({ time: t >= end ? Infinity : Math.max(0, t), playing: false });
  const fromEvent = (e: React.PointerEvent<HTMLDivElement>) => {
    const frame = e.currentTarget.getBoundingClientRect();
    const place = (e.clientX - frame.left) / frame.width;
    goTo(place >= 1 ? end : scale.timeAt(place));
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Play head"
      aria-valuemin={0}
      aria-valuemax={end}
      aria-valuenow={now}
      aria-valuetext={format(now, 's')}
      className="absolute touch-none"
      style={{ left: area.left, width, top: 4, height: area.bottom }}
      onPointerDown={(e) => {
        scrub.current = true;
        e.currentTarget.setPointerCapture(e.pointerId);
        fromEvent(e);
      }}
      onPointerMove={(e) => scrub.current && fromEvent(e)}
      onPointerUp={() => (scrub.current = false)}
      onKeyDown={(e) => {
        const step = e.shiftKey ? 0.1 : 0.02;
        const place = scale.placeOf(now);
        if (e.key === 'ArrowLeft') goTo(scale.timeAt(place - step));
        if (e.key === 'ArrowRight') goTo(place + step >= 1 ? end : scale.timeAt(place + step));
        if (e.key === 'Home') goTo(0);
        if (e.key === 'End') goTo(end);
      }}
    >
      {flags.map((flag, k) => (
        <div
          key={flag.label}
          className="border-soft absolute top-4 bottom-0 border-l border-dotted"
          style={{ left: `${100 * scale.placeOf(flag.time)}%` }}
        >
          <span
            className={`text-soft absolute text-[11px] whitespace-nowrap ${toTheLeft(flag, scale) ? 'right-1' : 'left-1'}`}
            // Flags that come close stand above one another.
            style={{ bottom: 2 + 13 * flags.slice(k + 1).filter((f) => close(f, flag, scale)).length }}
          >
            {flag.label}
          </span>
        </div>
      ))}
      <div
        className="bg-ink absolute top-3 bottom-0 w-[1.5px]"
        style={{ left: `calc(${100 * scale.placeOf(now)}% - 0.75px)` }}
      >
        <div className="bg-ink absolute -top-1 -left-[4px] size-[9px] rotate-45 rounded-[2px]" />
      </div>
    </div>
  );
}

/** Names stand before their line where the filling ends and at the end of the strip. */
const toTheLeft = (flag: Flag, scale: StripScale): boolean => {
  const place = scale.placeOf(flag.time);
  return scale.phases.length > 1 ? place > 0.86 || (place > 0.2 && place < 0.41) : place > 0.6;
};

const close = (a: Flag, b: Flag, scale: StripScale): boolean => scale.placeOf(a.time) - scale.placeOf(b.time) < 0.22;

function chartOptions(scale: StripScale, colours: { edge: string }): ChartOptions<'line'> {
  const style = typeof document === 'undefined' ? null : getComputedStyle(document.documentElement);
  const soft = style?.getPropertyValue('--ink-soft').trim() ?? colours.edge;
  const line = style?.getPropertyValue('--line').trim() ?? colours.edge;
  const font = { family: "'Inter Variable', sans-serif", size: 11 };
  return {
    responsive: true,
    maintainAspectRatio: false,
    animation: false,
    parsing: false,
    events: [],
    layout: { padding: { top: 14 } },
    elements: { point: { radius: 0 }, line: { borderWidth: 1.6, tension: 0 } },
    scales: {
      x: {
        type: 'linear',
        min: 0,
        max: 1,
        afterBuildTicks: (axis) => {
          axis.ticks = scale.ticks().map((t) => ({ value: scale.placeOf(t) }));
        },
        grid: { color: line },
        border: { color: line },
        ticks: {
          color: soft,
          font,
          autoSkip: true,
          autoSkipPadding: 6,
          maxRotation: 0,
          callback: (v) => (Number(v) === 0 ? '0' : `${formatNumber(scale.timeAt(Number(v)), 2)} s`),
        },
      },
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
    plugins: { legend: { display: false }, tooltip: { enabled: false } },
  };
}
