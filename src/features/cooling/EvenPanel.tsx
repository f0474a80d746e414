import { Wand } from 'lucide-react';
import { useState } from 'react';
import type { CoolingAim } from '@/core/model/coolingAsk';
import type { CoolingReport } from '@/core/pipeline/coolingStudy';
import { format } from '@/core/units/reader';
import { api } from '../study/api';
import { freshName, presentInputs, useStudy } from '../study/store';
import { Button, Choice, Fact } from '../ui/controls';
import { TrialProgress, useTrials } from '../study/useTrials';

/** Moves the layout for an even mould or a short time. */
export function EvenPanel() {
  const inputs = useStudy((s) => presentInputs(s));
  const [aim, setAim] = useState<CoolingAim>('even');
  const trials = useTrials<CoolingReport, typeof inputs>();
  const { running, found, problem } = trials;
  if (!inputs.cooling?.plan || !inputs.gates.length) return null;
  return (
    <div className="mt-2 space-y-1.5">
      {running ? (
        <TrialProgress {...running} onStop={trials.stop} />
      ) : (
        <div className="flex gap-1">
          <div className="w-32">
            <Choice
              label="What the layout is moved for"
              value={aim}
              options={[
                { value: 'even', label: 'Even' },
                { value: 'time', label: 'Time' },
              ]}
              onChange={setAim}
            />
          </div>
          <Button
            className="flex-1"
            onClick={() =>
              void trials.start(inputs, (onProgress, signal) => api.improveLayout(inputs, aim, onProgress, signal))
            }
          >
            <Wand size={13} /> Move the layout
          </Button>
        </div>
      )}
      {problem && (
        <p role="alert" className="text-problem text-[12px]">
          {problem}
        </p>
      )}
      {found && !running && <Found report={found.report} stale={found.of !== inputs} />}
    </div>
  );
}

function Found({ report, stale }: { report: CoolingReport; stale: boolean }) {
  const branch = useStudy((s) => s.branch);
  const variants = useStudy((s) => s.variants);
  const { before, best, trials } = report;
  const arrow = (a: string, b: string) => (a === b ? a : `${a} → ${b}`);
  return (
    <div data-testid="moved-layout">
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Pitch" value={arrow(format(before.pitch, 'mm', 3), format(best.pitch, 'mm', 3))} />
        <Fact label="From the part" value={arrow(format(before.distance, 'mm', 3), format(best.distance, 'mm', 3))} />
        <Fact label="Mould, hot to cold" value={arrow(format(before.spread, 'K', 3), format(best.spread, 'K', 3))} />
        <Fact label="Opens after" value={arrow(format(before.openAt, 's', 3), format(best.openAt, 's', 3))} />
      </dl>
      <p className="text-soft mt-1 text-[12px]">{trials.length} layouts at Detail quick, without filling.</p>
      {stale && <p className="text-copper mt-1 text-[12px]">Inputs have changed since these trials.</p>}
      {best !== before && (best.pitch !== before.pitch || best.distance !== before.distance) ? (
        <Button className="mt-2 w-full" onClick={() => void branch(freshName(variants, 'Moved layout'), report.inputs)}>
          Take it over as a variant
        </Button>
      ) : (
        <p className="text-soft mt-1 text-[12px]">None was better than the present one.</p>
      )}
    </div>
  );
}
