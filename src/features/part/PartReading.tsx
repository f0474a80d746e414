'use client';

import { ChevronLeft, ChevronRight, CircleAlert, CircleCheck } from 'lucide-react';
import { useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { SEVERITIES, type Finding, type Place } from '@/core/geometry/finding';
import { MAPS } from '@/core/partmaps/mapKinds';
import { SIDE } from '@/core/partmaps/moulding';
import { format, reworded } from '@/core/units/reader';
import { cssColour } from '@/viewer/colour';
import { FirstAnswer } from '../study/FirstAnswer';
import { Legend } from '../study/Legend';
import { presentInputs, useStudy } from '../study/store';
import { mainView, useView } from '../study/view';
import { SectionTitle } from '../ui/controls';
import { SEVERITY_LOOK } from './findings';
import { useMapArrays, useMapsManifest } from './useMaps';
import { useOverlapFindings } from './useOverlaps';
import { Terms } from '../ui/Terms';

interface BodyFinding {
  body: string;
  finding: Finding;
}

/** What is known of the part before any run: the surface check, the design rules, the legend of the map. */
export function PartReading() {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const geometries = useStudy(useShallow((s) => s.geometries));
  const manifest = useMapsManifest();
  const map = useView((s) => s.map);
  const arrays = useMapArrays(map && manifest ? manifest.key : null);
  const used = bodies.filter((b) => b.role !== 'left-out');
  const overlaps = useOverlapFindings(bodies);
  const own: BodyFinding[] = used.flatMap((b) =>
    (geometries.find((g) => g.hash === b.mesh)?.findings ?? []).map((finding) => ({ body: b.name, finding })),
  );
  const findings = [...own, ...overlaps];
  if (!bodies.length)
    return (
      <aside aria-label="Reading" className="bg-sheet h-full px-4 py-3.5">
        <h2 className="text-[15px] font-semibold">Surface check</h2>
        <p className="text-soft mt-1.5">It shows once a part is there.</p>
      </aside>
    );
  const range = manifest?.ranges.find((r) => r.id === map)?.range;
  return (
    <aside aria-label="Reading" className="bg-sheet flex h-full flex-col overflow-hidden">
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3.5">
        <FirstAnswer />
        <h2 className="text-[15px] font-semibold">Surface check</h2>
        {findings.length === 0 && (
          <p className="text-good mt-1.5 flex items-center gap-1.5">
            <CircleCheck size={14} /> {used.length ? 'Nothing to report.' : 'All bodies are left out.'}
          </p>
        )}
        {SEVERITIES.map((severity) => {
          const list = findings.filter((f) => f.finding.severity === severity);
          if (!list.length) return null;
          const { label, Icon, colour } = SEVERITY_LOOK[severity];
          return (
            <section key={severity} aria-label={label} className="mt-2.5">
              <h3 className={`flex items-center gap-1.5 font-semibold ${colour}`}>
                <Icon size={14} /> {label} <span className="num font-normal">{list.length}</span>
              </h3>
              <ul className="mt-1 space-y-2.5">
                {list.map((f, i) => (
                  <li key={i} className="border-l-2 pl-2.5">
                    {used.length > 1 && <p className="text-soft text-[12px]">{f.body}</p>}
                    <p>{reworded(f.finding.message)}</p>
                    <p className="text-soft text-[12px]">
                      <Terms>{reworded(f.finding.remedy)}</Terms>
                    </p>
                    <Places places={f.finding.places} label={f.finding.message} />
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
        {manifest && (
          <>
            <h2 className="mt-5 text-[15px] font-semibold">Design rules</h2>
            {manifest.warnings.length === 0 && (
              <p className="text-good mt-1.5 flex items-center gap-1.5">
                <CircleCheck size={14} /> All kept.
              </p>
            )}
            <ul className="mt-1.5 space-y-2.5">
              {manifest.warnings.map((w) => (
                <li key={w.rule} className="border-l-2 pl-2.5">
                  <button
                    type="button"
                    className="hover:text-petrol flex items-start gap-1.5 text-left"
                    title={`Show ${MAPS[w.map].label.toLowerCase()}`}
                    onClick={() => mainView.getState().set({ map: w.map, brush: null })}
                  >
                    <CircleAlert size={14} className="text-watch mt-0.5 shrink-0" />
                    <span>{reworded(w.message)}</span>
                  </button>
                  <p className="text-soft text-[12px]">
                    <Terms>{reworded(w.why)}</Terms>
                  </p>
                  <Places places={w.places} label={w.message} />
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
      {map && map !== 'side' && range && arrays && (
        <Legend
          label={MAPS[map].label}
          unit={MAPS[map].unit}
          range={range}
          values={arrays.facets(map)}
          weights={arrays.areas}
          weightName="share of surface"
        />
      )}
      {map === 'side' && arrays && <SideLegend sides={arrays.facets('side')} areas={arrays.areas} />}
    </aside>
  );
}

/** Steps through places; each flies there. */
function Places({ places, label }: { places: Place[]; label: string }) {
  const [at, setAt] = useState(-1);
  if (!places.length) return null;
  const go = (to: number) => {
    const next = (to + places.length) % places.length;
    setAt(next);
    mainView.getState().flyTo(places[next].position, label.split(':')[0].slice(0, 60));
  };
  return (
    <div className="num mt-1 flex items-center gap-1 text-[12px]">
      <button
        type="button"
        aria-label="Place before"
        className="hover:bg-well rounded p-0.5"
        onClick={() => go(at < 0 ? places.length - 1 : at - 1)}
      >
        <ChevronLeft size={14} />
      </button>
      <button type="button" className="text-petrol underline" onClick={() => go(at + 1)}>
        {at < 0
          ? `Show ${places.length === 1 ? 'the place' : `${places.length} places`}`
          : `Place ${at + 1} of ${places.length}`}
      </button>
      <button type="button" aria-label="Next place" className="hover:bg-well rounded p-0.5" onClick={() => go(at + 1)}>
        <ChevronRight size={14} />
      </button>
    </div>
  );
}

const SIDES = [
  { side: SIDE.upper, label: 'Upper half' },
  { side: SIDE.lower, label: 'Lower half' },
  { side: SIDE.undercut, label: 'Neither: undercut' },
];

function SideLegend({ sides, areas }: { sides: Float32Array; areas: Float32Array }) {
  const sums = SIDES.map(({ side }) => areas.reduce((s, a, i) => s + (sides[i] === side ? a : 0), 0));
  return (
    <section aria-label="Legend: Mould half" className="border-t px-4 pt-2.5 pb-3">
      <SectionTitle>Which half forms it</SectionTitle>
      <ul className="space-y-1">
        {SIDES.map(({ side, label }, i) => (
          <li key={side} className="flex items-center gap-2">
            <span className="size-3 rounded-sm" style={{ background: cssColour((side - 1) / 2) }} />
            <span className="flex-1">{label}</span>
            <span className="num text-soft">{format(sums[i], 'cm²')}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
