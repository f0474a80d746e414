import { ChartLine, Crosshair, Trash2 } from 'lucide-react';
import { presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, SectionTitle } from '../ui/controls';
import { deleteProbe } from './probeActions';
import { Called, NameField } from '../study/names';
import { formatPlace } from '@/core/units/reader';

/** Probes of the study: placed by a click, kept, and followed over time in the chart. */
export function ProbeList() {
  const probes = useStudy((s) => presentInputs(s).probes);
  const { selectedProbe, chart, set } = useBench();
  const placing = useAim('probe') !== null;
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            aria-pressed={chart}
            onClick={() => set({ chart: !chart })}
            className={`flex items-center gap-1 text-[12px] ${chart ? 'text-petrol' : 'text-soft hover:text-ink'}`}
          >
            <ChartLine size={13} /> Chart
          </button>
        }
      >
        Probes
      </SectionTitle>
      <Button
        className="w-full"
        look={placing ? 'primary' : 'plain'}
        aria-pressed={placing}
        onClick={() => set({ aim: placing ? null : { for: 'probe' } })}
      >
        <Crosshair size={14} /> {placing ? 'Click on the part, Esc when done' : 'Place probe (P)'}
      </Button>
      {probes.length > 0 && (
        <ul className="mt-1 divide-y border-y">
          {probes.map((p) => (
            <li key={p.id} className="flex items-center gap-1">
              <button
                type="button"
                aria-pressed={p.id === selectedProbe}
                onClick={() => set({ selectedProbe: p.id === selectedProbe ? null : p.id })}
                className={`num -ml-2 flex flex-1 gap-2 rounded px-2 py-1 text-left ${p.id === selectedProbe ? 'bg-petrol-wash' : 'hover:bg-well'}`}
              >
                <Called kind="probe" id={p.id} className="min-w-7 font-semibold" />
                <span className="text-soft whitespace-nowrap">{formatPlace(p.position)}</span>
              </button>
              <button
                type="button"
                className="text-soft hover:text-problem p-1"
                aria-label={`Delete probe ${p.id}`}
                onClick={() => deleteProbe(p.id)}
              >
                <Trash2 size={13} />
              </button>
            </li>
          ))}
        </ul>
      )}
      {probes.some((p) => p.id === selectedProbe) && (
        <div className="mt-1.5">
          <NameField kind="probe" id={selectedProbe ?? ''} />
        </div>
      )}
    </>
  );
}
