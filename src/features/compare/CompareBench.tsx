'use client';

import { Crown } from 'lucide-react';
import { useMemo } from 'react';
import { MOST_COMPARED } from '@/core/results/compare';
import { hasResults, type RunView } from '@/runtime/wire';
import { useStudy } from '../study/store';
import { Select } from '../ui/controls';
import {
  timeOf,
  toggle,
  useChoices,
  useCompare,
  useComparedRuns,
  useRunsOf,
  whatDiffered,
  type Choice,
} from './compared';
import { ViewFields } from './ViewFields';

const NEWEST = 'newest';

/** Which variants, and which of their runs, stand side by side. */
export function CompareBench() {
  const variants = useStudy((s) => s.variants);
  const withResult = useStudy((s) =>
    s.variants
      .filter((v) => s.runs.some((r) => r.variantId === v.id && hasResults(r.status)))
      .map((v) => v.id)
      .join(),
  );
  const choices = useChoices();
  const { tab, set } = useCompare();
  const all = useComparedRuns();
  const compared = useMemo(() => all.filter((r) => !r.broken), [all]);
  const ids = useMemo(() => choices.map((c) => c.variantId), [choices]);
  const runs = useRunsOf(ids);
  const put = (next: readonly Choice[]) => set({ chosen: next });
  if (!withResult)
    return (
      <p className="text-soft">No variant has a result yet. Press Run, branch (B), change something, run again.</p>
    );
  return (
    <>
      <p className="text-soft text-[12px]">Two to four variants; the others are held against the first.</p>
      <ul className="mt-2 divide-y border-y" aria-label="Variants to compare">
        {variants.map(({ id, name }) => {
          const at = choices.findIndex((c) => c.variantId === id);
          const there = withResult.split(',').includes(id);
          return (
            <li key={id} className="py-1.5">
              <div className="flex items-center gap-2">
                <label className={`flex min-w-0 flex-1 items-center gap-2 ${there ? '' : 'text-soft'}`}>
                  <input
                    type="checkbox"
                    checked={at >= 0}
                    disabled={!there || (at < 0 && choices.length >= MOST_COMPARED)}
                    onChange={() => put(toggle(choices, id))}
                    className="accent-petrol size-3.5"
                  />
                  <span className="truncate">{name}</span>
                  {!there && <span className="text-[12px]">not run yet</span>}
                </label>
                {at === 0 && <span className="text-petrol text-[12px] font-medium">first</span>}
                {at > 0 && (
                  <button
                    type="button"
                    className="text-soft hover:text-ink flex items-center gap-1 text-[12px]"
                    title="Holds the others against this one"
                    onClick={() => put([choices[at], ...choices.filter((_, k) => k !== at)])}
                  >
                    <Crown size={12} /> Make first
                  </button>
                )}
              </div>
              {at >= 0 && (
                <RunChoice
                  name={name}
                  choice={choices[at]}
                  runs={runs.get(id) ?? []}
                  onChange={(runId) => put(choices.map((c, k) => (k === at ? { ...c, runId } : c)))}
                />
              )}
            </li>
          );
        })}
      </ul>
      {tab === 'views' && compared.length > 1 && <ViewFields runs={compared} />}
    </>
  );
}

/** The runs that a variant has had, each with what it was made with otherwise than the one after it. */
function RunChoice({
  name,
  choice,
  runs,
  onChange,
}: {
  name: string;
  choice: Choice;
  runs: readonly RunView[];
  onChange: (runId: string | null) => void;
}) {
  const options = useMemo(
    () => [
      { value: NEWEST, label: 'Newest result' },
      ...runs.slice(1).map((run, k) => ({ value: run.id, label: timeOf(run), note: whatDiffered(run, runs[k]) })),
    ],
    [runs],
  );
  if (runs.length < 2) return null;
  return (
    <div className="mt-1 pl-5.5">
      <Select
        label={`Run of ${name}`}
        value={choice.runId ?? NEWEST}
        options={options}
        onChange={(v) => onChange(v === NEWEST ? null : v)}
      />
    </div>
  );
}
