'use client';

import { useMemo } from 'react';
import type { RunView } from '@/runtime/wire';
import { timeOf, useRunsOf, whatDiffered } from '../compare/compared';
import { useBench } from '../study/bench';
import { useStudy } from '../study/store';
import { Button } from '../ui/controls';

/** Results that a variant has come to, newest first, each with what it was made with otherwise than the one after it. */
export function RunList({ variantId, onChosen }: { variantId: string; onChosen: () => void }) {
  const ids = useMemo(() => [variantId], [variantId]);
  const runs = useRunsOf(ids).get(variantId) ?? [];
  const opened = useStudy((s) => s.opened?.id);
  const look = (run: RunView, newest: boolean) => {
    const study = useStudy.getState();
    study.selectVariant(variantId);
    study.openRun(newest ? null : run);
    useBench.getState().goTo('answers');
    onChosen();
  };
  if (!runs.length) return <p className="text-soft mt-1 pl-4.5 text-[12px]">It has come to no result yet.</p>;
  return (
    <ol className="num mt-1 space-y-1 pl-4.5 text-[12px]" aria-label="Runs with a result">
      {runs.map((run, k) => (
        <li key={run.id} className="flex items-center gap-2">
          <span className="shrink-0">{timeOf(run)}</span>
          <span className="text-soft min-w-0 flex-1 truncate" title={k ? whatDiffered(run, runs[k - 1]) : undefined}>
            {k ? whatDiffered(run, runs[k - 1]) : 'newest'}
          </span>
          <Button
            className="h-6 px-2 text-[12px]"
            aria-label={`Look at the result of ${timeOf(run)}`}
            aria-pressed={opened === run.id}
            onClick={() => look(run, k === 0)}
          >
            Look at it
          </Button>
        </li>
      ))}
    </ol>
  );
}
