import { useEffect } from 'react';
import { mainView, useView } from '../study/view';
import type { StripScale } from './stripScale';

/** One pass of the filling takes this long on screen, one of a whole cycle the longer time. */
const PLAY_SECONDS = { filling: 6, cycle: 11 };

/** Moves the play head while the shot is played, and starts or stops it when asked. */
export function usePlayback(scale: StripScale): void {
  const { end } = scale;
  const playing = useView((s) => s.playing);
  useEffect(() => {
    const toggle = () => {
      const { playing: now, time, set } = mainView.getState();
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
      const { time, set } = mainView.getState();
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
