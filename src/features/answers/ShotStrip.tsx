'use client';

import { Pause, Play, SkipBack } from 'lucide-react';
import { useMemo } from 'react';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import type { Manifest } from '@/runtime/manifest';
import type { RunView } from '@/runtime/wire';
import { useComparedRuns } from '../compare/compared';
import { MANIFEST, useRunData } from '../study/runData';
import { runAs } from '../study/shots';
import { wholeResult, useStudy } from '../study/store';
import { useShownRun } from '../study/useShown';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { Button } from '../ui/controls';
import { ShotTraces } from './ShotTraces';
import { StartUpTraces } from './StartUpTraces';
import { ShotOverview } from './ShotOverview';
import { bandOf } from './StripMarks';
import { StripScale } from './stripScale';
import { usePlayback } from './usePlayback';

/** px */
const HEIGHT = 126;
const SHOTS_ROW = 24;

/** The cycle's time axis: that of the shown run, or of the first of those that are compared. */
export function ShotStrip() {
  const comparing = useBench((s) => s.station === 'compare');
  return comparing ? <ComparedStrip /> : <OwnStrip />;
}

function OwnStrip() {
  const { run, live } = useShownRun();
  const whole = useStudy(wholeResult);
  return <Strip run={run} whole={live ? null : whole} live={live} />;
}

function ComparedStrip() {
  const [first] = useComparedRuns();
  const shot = useStudy((s) => s.shot);
  const whole = first?.run ?? null;
  return <Strip run={whole && (runAs(whole, shot) ?? whole)} whole={whole} live={false} />;
}

/** Traces at the gate, flags, and the play head that drives the part. */
function Strip({ run, whole, live }: { run: RunView | null; whole: RunView | null; live: boolean }) {
  const manifest = useRunData(live ? null : (run?.id ?? null), MANIFEST)?.manifest ?? null;
  const scale = useMemo(() => new StripScale(manifest), [manifest]);
  const { end } = scale;
  usePlayback(scale);
  const startUpShown = useBench((s) => s.startUpShown);
  const cool = manifest?.summary.cool;
  const startUp = cool?.startUp ?? null;
  return (
    <section
      aria-label="Shot strip"
      className="bg-sheet flex border-t"
      // Pins and shots have rows of their own: the traces keep their height.
      style={{ height: HEIGHT + (whole?.later?.length ? SHOTS_ROW : 0) + bandOf(manifest?.summary.feed?.pins ?? []) }}
    >
      <Transport end={end} enabled={manifest !== null} cooling={coolingShare(manifest)} startUp={startUp !== null} />
      <div className="flex min-w-0 flex-1 flex-col">
        <ShotOverview run={whole} />
        <div className="relative min-h-0 flex-1">
          {manifest && startUp && cool && startUpShown ? (
            <StartUpTraces startUp={startUp} settled={cool.surface_K.mean} />
          ) : manifest ? (
            <ShotTraces manifest={manifest} scale={scale} />
          ) : (
            <p className="text-soft grid h-full place-items-center text-[12px]">
              {live
                ? 'Traces appear when the run is done.'
                : 'The time axis of the shot appears with the first result.'}
            </p>
          )}
        </div>
      </div>
    </section>
  );
}

/** Share of the cycle from the end of packing to the opening; null where it was not calculated. */
function coolingShare(manifest: Manifest | null): number | null {
  const pack = manifest?.summary.pack;
  return pack ? Math.max(0, pack.openTime_s - pack.packingEnd_s) / pack.cycleTime_s : null;
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
  const startUpShown = useBench((s) => s.startUpShown);
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
              onClick={() => useBench.getState().set({ startUpShown: !startUpShown })}
            >
              {startUpShown ? 'Show the shot' : 'Show the start-up'}
            </button>
          ) : (
            `Cooling takes ${Math.round(100 * cooling)} %`
          )}
        </div>
      )}
    </div>
  );
}
