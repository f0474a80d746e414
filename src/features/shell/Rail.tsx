'use client';

import { Box, Columns3, Droplets, Gauge, MessageCircleQuestionMark, Spline, ThermometerSnowflake } from 'lucide-react';
import {
  isOutOfDate,
  latestResult,
  presentInputs,
  presentVariant,
  problemsOf,
  useStudy,
  type StudyState,
} from '../study/store';
import { STATION_NAMES, STATIONS, useBench, type Station } from '../study/bench';
import { stationKey } from '@/core/model/inputKey';

const ICONS: Record<Station, typeof Box> = {
  part: Box,
  resin: Droplets,
  feed: Spline,
  cooling: ThermometerSnowflake,
  cycle: Gauge,
  answers: MessageCircleQuestionMark,
  compare: Columns3,
};

type Readiness = 'ready' | 'missing' | 'changed';

/** Missing blocks the run; changed means that the last result was made with something else. */
function readiness(s: StudyState, station: Station): Readiness {
  if (problemsOf(s).some((p) => p.station === station)) return 'missing';
  const result = latestResult(s);
  if (!result || station === 'compare') return 'ready';
  const variant = presentVariant(s);
  const same =
    station === 'answers'
      ? !isOutOfDate(result, variant)
      : stationKey(presentInputs(s), station) === stationKey(result.inputs, station);
  return same ? 'ready' : 'changed';
}

const SAID: Record<Readiness, string> = {
  ready: 'ready',
  missing: 'something is missing',
  changed: 'changed since the last run',
};

export function Rail() {
  const station = useBench((s) => s.station);
  const goTo = useBench((s) => s.goTo);
  const states = useStudy((s) => STATIONS.map((id) => readiness(s, id)).join());
  return (
    <nav aria-label="Stations" className="bg-sheet flex flex-col border-r pt-1">
      {STATIONS.map((id, i) => {
        const [label, Icon] = [STATION_NAMES[id], ICONS[id]];
        const state = states.split(',')[i] as Readiness;
        const active = station === id;
        return (
          <button
            key={id}
            type="button"
            aria-current={active ? 'page' : undefined}
            title={`${label} (${i + 1}): ${SAID[state]}`}
            onClick={() => goTo(id)}
            className={`relative flex h-[58px] flex-col items-center justify-center gap-1 text-[11px] ${active ? 'text-petrol font-semibold' : 'text-soft hover:text-ink'}`}
          >
            {active && <span className="bg-petrol absolute top-2 bottom-2 left-0 w-[3px] rounded-r" />}
            <Icon size={18} strokeWidth={1.6} />
            {label}
            {state !== 'ready' && (
              <span
                aria-label={SAID[state]}
                className={`absolute top-2 right-3 size-2 rounded-full ${state === 'missing' ? 'border-problem border-2' : 'bg-copper'}`}
              />
            )}
          </button>
        );
      })}
    </nav>
  );
}
