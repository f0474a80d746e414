import type { FeedFacts } from '@/core/results/feedFacts';
import { format } from '@/core/units/reader';
import { FLAG_ROW } from './stripFlags';
import type { StripScale } from './stripScale';

/** Where the traces are drawn in the strip, px. */
export interface Area {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** The phases of the cycle as bands behind the traces, with their names at the top. */
export function Phases({ area, scale }: { area: Area; scale: StripScale }) {
  const width = area.right - area.left;
  return scale.phases.map((p, k) => (
    <div
      key={p.label}
      className={`pointer-events-none absolute overflow-hidden ${k % 2 ? 'bg-well/60' : ''}`}
      style={{
        left: area.left + p.left * width,
        width: (p.right - p.left) * width,
        top: 2,
        height: area.bottom + 2,
      }}
    >
      {(k > 0 || scale.phases.length < 2) && (
        // At its end: the names of the traces stand at the left.
        <span className="text-soft absolute top-0 right-1.5 left-0 truncate text-right text-[11px]">{p.label}</span>
      )}
    </div>
  ));
}

/** Height of a pin's bar and of its row, px, and where the first one stands. */
const BAR = 5;
const BAR_ROW = 9;
const BAR_TOP = 18 + FLAG_ROW;

/** Height of the band that the pins take above the traces, px. */
export const bandOf = (pins: FeedFacts['pins']): number => (pins.length ? BAR_ROW * pins.length + 9 : 0);

/** One bar a valve pin, from opening to closing, above the traces. */
export function PinBars({ area, scale, pins }: { area: Area; scale: StripScale; pins: FeedFacts['pins'] }) {
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
