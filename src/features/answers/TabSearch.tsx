'use client';

import { Search } from 'lucide-react';
import type { TabReport } from '@/core/pipeline/tabStudy';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { api } from '../study/api';
import { freshName, presentInputs, useStudy } from '../study/store';
import { TrialProgress, useTrials } from '../study/useTrials';
import { mainView } from '../study/view';
import { Button } from '../ui/controls';

const percent = (share: number) => `${formatNumber(100 * share, 3)} %`;

/** Where an overflow tab strengthens the weakest weld line of a part with fibres most, from trials. */
export function TabSearch() {
  const inputs = useStudy((s) => presentInputs(s));
  const { running, found, problem, start, stop } = useTrials<TabReport, typeof inputs>();
  return (
    <section aria-label="Place of a tab" className="mt-2">
      {running ? (
        <TrialProgress {...running} onStop={stop} />
      ) : (
        <Button
          className="w-full justify-start"
          title="Fills the part at Detail quick with a tab at eight places beside the line"
          onClick={() => void start(inputs, (onProgress, signal) => api.tab(inputs, onProgress, signal))}
        >
          <Search size={13} className="text-copper shrink-0" />
          {found ? 'Search again' : 'Search the place of a tab'}
        </Button>
      )}
      {problem && (
        <p role="alert" className="text-problem mt-1 text-[12px]">
          {problem}
        </p>
      )}
      {found && !running && <Found report={found.report} stale={found.of !== inputs} />}
    </section>
  );
}

function Found({ report: { line, before, trials }, stale }: { report: TabReport; stale: boolean }) {
  const branch = useStudy((s) => s.branch);
  const variants = useStudy((s) => s.variants);
  const take = async (inputs: TabReport['trials'][0]['inputs']) => {
    if (await branch(freshName(variants, `Tab for ${line}`), inputs)) await useStudy.getState().startRun();
  };
  return (
    <>
      <p className="text-soft mt-1.5 text-[12px]">
        {line} bears {percent(before.share)} of its wall when the part is full; with a tab at
      </p>
      <ol className="mt-1 divide-y border-y" aria-label="Places of a tab">
        {trials.map(({ position, after, inputs }, k) => (
          <li key={k} className="flex items-center gap-1.5 py-1">
            <span className="num w-4 font-semibold">{k + 1}</span>
            <span className="num min-w-0 flex-1">
              {after ? percent(after.share) : 'no line'}
              {after && (
                <span className="text-soft block text-[11.5px]">{format(after.flowedThrough, 'mm', 2)} through it</span>
              )}
            </span>
            <Button
              className="h-6 px-2 text-[12px]"
              onClick={() => mainView.getState().flyTo(position, `Tab, place ${k + 1}`)}
            >
              Look
            </Button>
            <Button
              className="h-6 px-2 text-[12px]"
              title="As a new variant, which is run"
              onClick={() => void take(inputs)}
            >
              Take
            </Button>
          </li>
        ))}
      </ol>
      {stale && <p className="text-copper mt-1 text-[12px]">Inputs have changed since these trials.</p>}
    </>
  );
}
