import { formatNumber } from '@/core/units/units';
import type { chartStyle } from '../ui/chartStyle';
import type { StripScale } from './stripScale';

/** What a tick with its time takes, px. */
const TICK_ROOM = 52;

/** The time axis of the strip for a chart: every phase of the cycle has its room, ticks stand at times worth telling. */
export const timeAxis = (scale: StripScale, { soft, line, font }: ReturnType<typeof chartStyle>) =>
  ({
    type: 'linear',
    min: 0,
    max: 1,
    afterBuildTicks: (axis: { ticks: { value: number }[]; maxWidth?: number }) => {
      axis.ticks = scale
        .ticks(Math.max(0.09, TICK_ROOM / (axis.maxWidth || 1)))
        .map((t) => ({ value: scale.placeOf(t) }));
    },
    grid: { color: line },
    ticks: {
      color: soft,
      font,
      maxTicksLimit: 14,
      autoSkip: true,
      autoSkipPadding: 6,
      maxRotation: 0,
      callback: (v: string | number) => (Number(v) === 0 ? '0' : `${formatNumber(scale.timeAt(Number(v)), 2)} s`),
    },
  }) as const;
