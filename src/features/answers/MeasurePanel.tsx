'use client';

import { Crosshair, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { MEASURE_NAMES, PLACES, type Measured } from '@/core/results/measures';
import { warpageOf, type Measure } from '@/core/model/warpage';
import { shownUnit, told } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { useView } from '../study/view';
import { Button, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { Called, NameField } from '../study/names';
import { patchWarpage } from '../study/shapeActions';
import { useShapeNow } from './useShapeNow';

const KINDS = (Object.keys(MEASURE_NAMES) as Measure['kind'][]).map((value) => ({
  value,
  label:
    { distance: 'Distance of two places', angle: 'Angle of two faces', face: 'Deviation of a face' }[value as string] ??
    `${MEASURE_NAMES[value]} of a face`,
}));

/** Dimensions and faces: as drawn, as moulded, and what they may be off by. */
export function MeasurePanel({ runId }: { runId: string }) {
  const [kind, setKind] = useState<Measure['kind']>('distance');
  const warpage = useStudy((s) => presentInputs(s).warpage);
  const on = useAim('measure');
  const set = useBench((s) => s.set);
  const facts = useShapeNow(runId);
  const { measures } = warpageOf({ warpage });
  const put = (label: string, next: Measure[]) => patchWarpage(label, () => ({ measures: next }));
  return (
    <>
      <SectionTitle>Measures</SectionTitle>
      <div className="flex gap-1">
        <div className="min-w-0 flex-1">
          <Select
            label="Kind of measure"
            value={kind}
            options={KINDS}
            onChange={(k) => {
              setKind(k as Measure['kind']);
              set({ aim: null });
            }}
          />
        </div>
        <Button
          look={on ? 'primary' : 'plain'}
          aria-pressed={on !== null}
          onClick={() => set({ aim: on ? null : { for: 'measure', kind, places: [] } })}
        >
          <Crosshair size={13} /> {on ? `${on.places.length} of ${PLACES[on.kind]}` : 'Pick'}
        </Button>
      </div>
      {on && <p className="text-soft mt-1 text-[12px]">Click on the part; Esc ends it.</p>}
      {measures.length > 0 && (
        <ul aria-label="Measures" className="mt-1.5 divide-y border-y">
          {measures.map((m) => (
            <Row
              key={m.id}
              measure={m}
              found={facts?.measures?.find(({ id }) => id === m.id) ?? null}
              ready={facts !== null}
              onTolerance={(tolerance) =>
                put(
                  `Tolerance of ${m.id}`,
                  measures.map((o) => (o.id === m.id ? { ...o, tolerance } : o)),
                )
              }
              onDelete={() =>
                put(
                  `Delete measure ${m.id}`,
                  measures.filter((o) => o.id !== m.id),
                )
              }
            />
          ))}
        </ul>
      )}
    </>
  );
}

/** Both sides of a change are told to the micrometre, or to a hundredth of a degree. */
const value = (kind: Measure['kind'], x: number) =>
  kind === 'angle' ? ((180 * x) / Math.PI).toFixed(2) : told(x, 'mm').toFixed(shownUnit('mm') === 'mm' ? 3 : 4);

function Row({
  measure,
  found,
  ready,
  onTolerance,
  onDelete,
}: {
  measure: Measure;
  found: Measured | null;
  ready: boolean;
  onTolerance: (tolerance: number | null) => void;
  onDelete: () => void;
}) {
  const { id, kind, places, tolerance } = measure;
  const flyTo = useView((s) => s.flyTo);
  const beyond = found !== null && tolerance !== null && found.error > tolerance;
  return (
    <li className="py-1.5">
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="hover:bg-well -ml-1 rounded px-1 font-semibold"
          title="Show the place"
          onClick={() => flyTo(places[0], `${id}, ${MEASURE_NAMES[kind].toLowerCase()}`)}
        >
          <Called kind="measure" id={id} className="block max-w-28" />
        </button>
        <span className="text-soft flex-1 truncate">{MEASURE_NAMES[kind]}</span>
        <span className={`num ${beyond ? 'text-problem font-medium' : ''}`}>
          {found
            ? `${kind === 'face' ? '' : `${value(kind, found.before)} → `}${value(kind, found.after)}${kind === 'angle' ? '°' : ` ${shownUnit('mm')}`}`
            : ready
              ? 'not here'
              : '–'}
        </span>
        <button
          type="button"
          className="text-soft hover:text-problem p-0.5"
          aria-label={`Delete measure ${id}`}
          onClick={onDelete}
        >
          <Trash2 size={13} />
        </button>
      </div>
      {found === null && ready && (
        <p className="text-watch text-[11.5px]">
          {kind === 'roundness' || kind === 'flatness'
            ? `That face is not ${kind === 'roundness' ? 'round' : 'flat'}, or it is gone.`
            : 'Its place is gone. Pick it again.'}
        </p>
      )}
      <NameField kind="measure" id={id} />
      <QuantityField
        of={kind === 'angle' ? 'angleTolerance' : 'tolerance'}
        help="tolerance"
        label={beyond ? 'May be off by, exceeded' : 'May be off by'}
        value={tolerance}
        emptyHint="not judged"
        onChange={onTolerance}
      />
    </li>
  );
}
