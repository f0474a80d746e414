import { useRef } from 'react';
import { format } from '@/core/units/units';
import { useView } from '../study/view';
import { close, toTheLeft, type Flag } from './stripFlags';
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
