import { useRef } from 'react';
import { format } from '@/core/units/reader';
import { useView } from '../study/view';
import { FLAG_ROW, placedFlags, type Flag } from './stripFlags';
import type { Area } from './StripMarks';
import type { StripScale } from './stripScale';

/** The moment that is shown, moved by pointer or keys, between the flags of the cycle. */
export function PlayHead({ area, scale, flags }: { area: Area; scale: StripScale; flags: Flag[] }) {
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
  const placed = placedFlags(flags, scale, width);
  return (
    <>
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
        {placed.map((flag) => (
          <div
            key={flag.label}
            className="border-soft pointer-events-none absolute bottom-0 border-l border-dotted"
            style={{ left: flag.at, top: FLAGS_AT + FLAG_ROW - 1 }}
          />
        ))}
        <div
          className="bg-ink absolute top-3 bottom-0 w-[1.5px]"
          style={{ left: `calc(${100 * scale.placeOf(now)}% - 0.75px)` }}
        >
          <div className="bg-ink absolute -top-1 -left-[4px] size-[9px] rotate-45 rounded-[2px]" />
        </div>
      </div>
      <div
        role="group"
        aria-label="Instants of the shot"
        className="absolute"
        style={{ left: area.left, top: FLAGS_AT }}
      >
        {placed.map((flag) => (
          <button
            key={flag.label}
            type="button"
            title={`${format(flag.time, 's')}: go there`}
            aria-pressed={Math.abs(now - flag.time) < 1e-9}
            className="text-soft hover:text-petrol aria-pressed:text-petrol absolute text-center text-[11px] leading-[14px] whitespace-nowrap aria-pressed:font-medium"
            style={{ left: flag.left, width: flag.width, height: FLAG_ROW }}
            onClick={() => goTo(flag.time)}
          >
            {flag.label}
          </button>
        ))}
      </div>
    </>
  );
}

/** Top of the row of names, below that of the traces and phases, px. */
const FLAGS_AT = 17;
