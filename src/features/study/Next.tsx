'use client';

import { ArrowRight, CircleAlert } from 'lucide-react';
import { byDefault, type InputStation } from '@/core/setup/byDefault';
import { STATION_NAMES, STATIONS, useBench, type Station } from './bench';
import { presentInputs, presentPart, problemsOf, useStudy, type StudyState } from './store';
import { Button, SectionTitle } from '../ui/controls';

const INPUT_STATIONS: readonly InputStation[] = ['part', 'resin', 'feed', 'cooling', 'cycle'];
export const takesInputs = (station: Station): station is InputStation =>
  INPUT_STATIONS.includes(station as InputStation);

/** Where to go on from a station: to what is missing before it, else to the next one. */
export function nextStation(s: StudyState, station: Station): { to: Station; missing: boolean } {
  const problems = problemsOf(s);
  const at = (id: Station) => problems.some((p) => p.station === id);
  const here = STATIONS.indexOf(station);
  // What is missing here is told at the head of the bench: the way leads back to nothing else.
  const before = STATIONS.slice(0, here).find(at);
  return before ? { to: before, missing: true } : { to: STATIONS[here + 1], missing: false };
}

/** Foot of a bench: what stands at its default there, and the way on. */
export function Next({ station }: { station: InputStation }) {
  const defaults = useStudy((s) => byDefault(presentInputs(s), station, presentPart(s)?.size ?? null).join('\n'));
  const next = useStudy((s) => {
    const { to, missing } = nextStation(s, station);
    return `${to} ${missing}`;
  });
  const [to, missing] = next.split(' ') as [Station, string];
  const goTo = useBench((s) => s.goTo);
  return (
    <footer className="mt-6 border-t pt-1 pb-2">
      {defaults && (
        <section aria-label="By default">
          <SectionTitle>By default</SectionTitle>
          <ul className="text-soft space-y-0.5 text-[12px] italic">
            {defaults.split('\n').map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </section>
      )}
      <Button className="mt-3 w-full" onClick={() => goTo(to)}>
        {missing === 'true' ? (
          <>
            <CircleAlert size={13} className="text-problem" /> Missing: {STATION_NAMES[to]}
          </>
        ) : (
          <>
            Next: {STATION_NAMES[to]} <ArrowRight size={13} />
          </>
        )}
      </Button>
    </footer>
  );
}
