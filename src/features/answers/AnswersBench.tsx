'use client';

import { format, formatNumber } from '@/core/units/units';
import { Fact } from '../part/PartBench';
import { latestResult, useStudy } from '../study/store';
import { useView, type FieldId } from '../study/viewStore';
import { SectionTitle } from '../ui/controls';
import { FIELDS } from './fields';

/** Which field the part shows, and the numbers of the run. */
export function AnswersBench() {
  const run = useStudy(latestResult);
  const field = useView((s) => s.field);
  const set = useView((s) => s.set);
  const summary = run?.summary;
  if (!summary) return <p className="text-soft">No result yet. Press Run; the front shows while it is computed.</p>;
  return (
    <>
      <SectionTitle>Show on the part</SectionTitle>
      <ul role="radiogroup" aria-label="Field" className="divide-y border-y">
        {(Object.keys(FIELDS) as FieldId[]).map((id) => (
          <li key={id}>
            <button
              type="button"
              role="radio"
              aria-checked={field === id}
              onClick={() => set({ field: id, brush: null })}
              className={`-mx-2 w-[calc(100%+1rem)] rounded px-2 py-1.5 text-left ${field === id ? 'bg-petrol-wash' : 'hover:bg-well'}`}
            >
              {FIELDS[id].label}
            </button>
          </li>
        ))}
      </ul>
      <SectionTitle>The run</SectionTitle>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Detail" value={run.inputs.detail} />
        <Fact label="Time to fill" value={format(summary.fillTime_s, 's')} />
        <Fact label="Filled" value={`${formatNumber(100 * summary.shareFilled, 4)} %`} />
        <Fact label="Shot" value={`${format(summary.shotMass_kg, 'g')} of melt`} />
        <Fact label="Flow length" value={format(summary.flowLength_m, 'mm')} />
        <Fact
          label="Peak shear rate"
          value={`${Number(summary.maxShearRate_1_s.toPrecision(2)).toLocaleString('en-GB')} 1/s`}
        />
        <Fact label="Cells" value={summary.nCells.toLocaleString('en-GB')} />
        <Fact label="Mass error" value={summary.massError < 1e-15 ? '0' : summary.massError.toExponential(0)} />
      </dl>
      <p className="text-soft mt-3 text-[12px]">
        Isothermal: the melt keeps its temperature, so the skin that grows on cold walls is left out and real pressures
        are higher.
      </p>
    </>
  );
}
