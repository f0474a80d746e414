'use client';

import { Slider } from 'radix-ui';
import { useMemo, useState, type ReactNode } from 'react';
import { format, formatShown, shownUnit, told, typedQuantity } from '@/core/units/reader';
import { digitsApart, formatNumber } from '@/core/units/units';
import { cssBar, cssColour, type ColourMap } from '@/viewer/colour';
import type { Unit } from '@/core/units/units';
import { HelpButton } from '../ui/HelpButton';
import { useView } from './view';

const BINS = 36;
/** Less where the window is low: the answers above it need room, too. */
const HEIGHT = 'min(208px, 26vh)';
const TICKS = 5;

/** A tick that is nothing beside the range is 0. */
const tick = (value: number, span: number): number => (Math.abs(value) < 0.01 * span ? 0 : value);

interface Props {
  label: string;
  unit: Unit;
  range: readonly [number, number];
  values: ArrayLike<number>;
  /** What the bars add up, one a value. */
  weights: ArrayLike<number>;
  weightName: string;
  /** Values whose time is later than `until` are not there yet. */
  times?: ArrayLike<number>;
  until?: number;
  disabled?: boolean;
  map?: ColourMap;
  /** Takes ends that are typed in, SI; without it they are what they are. */
  onRange?: (ends: [number, number]) => void;
  /** Entry of the help that explains it. */
  help?: string;
  /** Said of how the field is drawn. */
  note?: string;
  /** Below the bars. */
  children?: ReactNode;
}

/**
 * Histogram of the shown field, low values at the foot. The two grips are a brush: what lies outside is
 * hidden on the part.
 */
export function Legend(props: Props) {
  const {
    label,
    unit,
    range,
    values,
    weights,
    weightName,
    times,
    until,
    disabled,
    map,
    onRange,
    help,
    note,
    children,
  } = props;
  const brush = useView((s) => s.brush);
  const set = useView((s) => s.set);
  const [low, high] = range;
  const bins = useMemo(
    () => histogram(values, weights, low, high, times, until),
    [values, weights, low, high, times, until],
  );
  const top = Math.max(...bins, 1e-30);
  const span = high - low || 1;
  const at = (v: number) => Math.round((1000 * (v - low)) / span);
  const value = brush ? [at(brush[0]), at(brush[1])] : [0, 1000];
  const change = ([a, b]: number[]) => {
    const back = (x: number, open: number) => (x <= 0 || x >= 1000 ? open : low + (x / 1000) * span);
    const next: [number, number] = [back(a, -Infinity), back(b, Infinity)];
    set({ brush: a <= 0 && b >= 1000 ? null : [Math.max(next[0], -1e29), Math.min(next[1], 1e29)] });
  };
  const shown = value.map((v) => Math.min(1000, Math.max(0, v)));
  const digits = digitsApart(told(low, unit), told(high, unit), TICKS - 1);
  const texts = Array.from({ length: TICKS }, (_, i) =>
    formatNumber(told(tick(low + (span * i) / (TICKS - 1), span), unit), digits),
  );
  return (
    <section
      aria-label={`Legend: ${label}`}
      data-legend-range={`${low},${high}`}
      data-legend={JSON.stringify({ label, note, map })}
      className="border-t px-4 pt-2.5 pb-3"
    >
      <div className="flex items-baseline justify-between gap-2">
        <h3 className="font-semibold">
          {label} {/* One piece: a mark alone on a line of its own would look lost. */}
          <span className="whitespace-nowrap">
            <span className="text-soft font-normal">{shownUnit(unit)}</span>
            {help && <HelpButton of={label} id={help} className="ml-1 align-[-1px]" />}
          </span>
        </h3>
        {brush ? (
          <button type="button" className="text-petrol text-[12px] underline" onClick={() => set({ brush: null })}>
            Show all
          </button>
        ) : (
          <span className="text-soft shrink-0 text-[11.5px] whitespace-nowrap">{weightName}</span>
        )}
      </div>
      <div className="mt-2 flex" style={{ height: HEIGHT }}>
        <div
          className="num text-soft relative shrink-0 text-right text-[11.5px]"
          style={{ width: Math.max(52, 14 + 7.2 * Math.max(...texts.map((t) => t.length))) }}
        >
          {texts.map((text, i) => {
            const end = i === 0 ? 0 : i === TICKS - 1 ? 1 : null;
            return (
              <span
                key={i}
                className="absolute right-2 translate-y-1/2 leading-none"
                style={{ bottom: `${(100 * i) / (TICKS - 1)}%` }}
              >
                {end !== null && onRange ? (
                  <ScaleEnd
                    name={end ? 'Upper end of the scale' : 'Lower end of the scale'}
                    text={text}
                    onValue={(typed) => {
                      const ends: [number, number] = [low, high];
                      ends[end] = typedQuantity(typed, unit);
                      if (ends[0] < ends[1]) onRange(ends);
                      return ends[0] < ends[1];
                    }}
                  />
                ) : (
                  text
                )}
              </span>
            );
          })}
        </div>
        <Slider.Root
          orientation="vertical"
          min={0}
          max={1000}
          step={5}
          minStepsBetweenThumbs={2}
          value={shown}
          onValueChange={change}
          disabled={disabled}
          className="relative h-full w-4 touch-none select-none"
        >
          <Slider.Track
            className="absolute inset-y-0 left-1 w-3 rounded-sm"
            style={{ background: cssBar('to top', map) }}
          />
          {['Lowest shown', 'Highest shown'].map((name, i) => (
            <Slider.Thumb
              key={name}
              aria-label={name}
              aria-valuetext={format(low + (shown[i] / 1000) * span, unit)}
              className={`bg-ink block h-[5px] w-5 rounded-full ${disabled ? 'opacity-0' : ''}`}
            />
          ))}
        </Slider.Root>
        <div className="relative ml-1.5 flex flex-1 flex-col-reverse">
          {bins.map((share, b) => {
            const middle = ((b + 0.5) / BINS) * 1000;
            const hidden = middle < shown[0] || middle > shown[1];
            return (
              <div key={b} className="flex flex-1 items-center">
                <div
                  style={{
                    width: `${(100 * share) / top}%`,
                    height: '82%',
                    background: cssColour((b + 0.5) / BINS, map),
                    opacity: hidden ? 0.18 : 1,
                  }}
                />
              </div>
            );
          })}
        </div>
      </div>
      {onRange && (
        <div className="num text-soft mt-2 flex items-center justify-between gap-2 text-[12px]">
          <span>Only values</span>
          <span className="flex items-center gap-1.5">
            {([0, 1] as const).map((end) => (
              <span key={end} className="contents">
                {end === 1 && 'to'}
                <ScaleEnd
                  name={end ? 'Highest value shown' : 'Lowest value shown'}
                  hint="Type what is shown and what is left away; nothing for all"
                  text={brush && Math.abs(brush[end]) < 1e29 ? formatShown(brush[end], unit) : 'all'}
                  onValue={(typed) => {
                    const open = end ? 1e29 : -1e29;
                    const next: [number, number] = [...(brush ?? [-1e29, 1e29])];
                    next[end] = typed.trim() === '' || typed === 'all' ? open : typedQuantity(typed, unit);
                    if (!(next[0] < next[1])) return false;
                    set({ brush: next[0] <= -1e29 && next[1] >= 1e29 ? null : next });
                    return true;
                  }}
                />
              </span>
            ))}
          </span>
        </div>
      )}
      {note && <p className="text-soft num mt-1.5 text-right text-[11.5px]">{note}</p>}
      {children}
    </section>
  );
}

/** An end of the scale that is typed over: Enter takes it, Escape leaves it; one past the other end is not taken. */
function ScaleEnd({
  name,
  text,
  hint = 'Type another end of the scale',
  onValue,
}: {
  name: string;
  text: string;
  hint?: string;
  onValue: (typed: string) => boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  if (typed === null)
    return (
      <button
        type="button"
        aria-label={`${name}: ${text}`}
        title={hint}
        className="hover:text-petrol underline decoration-dotted underline-offset-2"
        onClick={() => setTyped(text)}
      >
        {text}
      </button>
    );
  const take = () => {
    if (onValue(typed)) setTyped(null);
    else setWrong(true);
  };
  return (
    <input
      aria-label={name}
      aria-invalid={wrong}
      title={wrong ? 'A number on the right side of the other end' : undefined}
      value={typed}
      autoFocus
      inputMode="decimal"
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => {
        setTyped(e.target.value);
        setWrong(false);
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take();
        if (e.key !== 'Escape') return;
        e.stopPropagation();
        setTyped(null);
      }}
      onBlur={() => setTyped(null)}
      className="bg-sheet aria-invalid:border-problem text-ink h-5 w-11 rounded border px-0.5 text-right"
    />
  );
}

/** Weight in each bin among what is there at the time. */
function histogram(
  values: ArrayLike<number>,
  weights: ArrayLike<number>,
  low: number,
  high: number,
  times?: ArrayLike<number>,
  until = Infinity,
): number[] {
  const bins = new Array<number>(BINS).fill(0);
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (!(v === v) || (times && !(times[i] <= until))) continue;
    const b = Math.floor(((v - low) / (high - low || 1)) * BINS);
    bins[Math.min(BINS - 1, Math.max(0, b))] += weights[i];
  }
  return bins;
}
