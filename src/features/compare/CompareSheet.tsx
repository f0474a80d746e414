'use client';

import { ArrowDown, ArrowDownUp, ArrowUp, Copy, Download, Equal } from 'lucide-react';
import { useMemo } from 'react';
import {
  CHANGE_WORDS,
  comparedCsv,
  compareRuns,
  compareVerdicts,
  sortedRows,
  differenceText,
  valueText,
  type Change,
  type ComparedCell,
  type ComparedRow,
} from '@/core/results/compare';
import type { KeyEntry } from '@/core/results/keyNumbers';
import { inputDifferences, takeDifference, type InputDifference } from '@/core/results/inputDifferences';
import type { Verdict } from '@/core/results/rules';
import { toast } from 'sonner';
import { useStudy } from '../study/store';
import { download } from '../ui/download';
import { Button, Choice } from '../ui/controls';
import { VERDICT_LOOKS } from '../ui/VerdictIcon';
import { CompareCharts } from './CompareCharts';
import { useChoices, useComparedRuns, useCompare, useRunsOfShot, type ComparedRun } from './compared';
import { Panes } from './Panes';
import { WhatDidIt } from './WhatDidIt';

const TABS = [
  { value: 'views', label: 'Views' },
  { value: 'numbers', label: 'Numbers' },
  { value: 'charts', label: 'Charts' },
  { value: 'inputs', label: 'Inputs' },
  { value: 'causes', label: 'What did it?' },
] as const;

/** In place of the part at the Compare station: two to four runs in views, numbers, charts and inputs. */
export function CompareSheet() {
  const all = useComparedRuns();
  const ofShot = useRunsOfShot(all);
  const loading = useChoices().length > all.length || ofShot.coming;
  const runs = useMemo(() => ofShot.runs.filter((r) => !r.broken), [ofShot]);
  const broken = all.filter((r) => r.broken);
  const tab = useCompare((s) => s.tab);
  const set = useCompare((s) => s.set);
  return (
    <section aria-label="Compare sheet" className="bg-paper absolute inset-0 flex flex-col">
      <header className="flex items-center gap-3 border-b px-5 py-2">
        <h2 className="truncate text-[15px] font-semibold">
          {runs.length > 1 ? runs.map((r) => r.name).join(' and ') : 'Compare'}
        </h2>
        <div className="ml-auto w-[29rem] shrink-0">
          <Choice label="Comparison" value={tab} options={TABS} onChange={(next) => set({ tab: next })} />
        </div>
      </header>
      {broken.length > 0 && (
        <p role="alert" className="text-problem px-5 pt-3">
          {broken.map((r) => r.name).join(', ')} fails its own checks and is not compared.
        </p>
      )}
      {ofShot.missing.length > 0 && (
        <p className="text-soft px-5 pt-3">
          {ofShot.missing.join(', ')} {ofShot.missing.length > 1 ? 'have' : 'has'} no shot {ofShot.shot}.
        </p>
      )}
      {loading ? (
        <div className="flex-1" aria-busy="true" />
      ) : runs.length < 2 ? (
        <p className="text-soft grid flex-1 place-items-center px-10 text-center">
          Choose a second variant with a result on the left. A variant is branched with B, and has a result after Run.
        </p>
      ) : tab === 'views' ? (
        <Panes runs={runs} />
      ) : tab === 'numbers' ? (
        <NumbersTab runs={runs} />
      ) : tab === 'charts' ? (
        <CompareCharts runs={runs} />
      ) : tab === 'causes' ? (
        runs.length === 2 ? (
          <WhatDidIt first={whole(all, runs[0])} other={whole(all, runs[1])} shot={ofShot.shot} />
        ) : (
          <p className="text-soft grid flex-1 place-items-center px-10 text-center">
            It is asked of two: leave the others out on the left.
          </p>
        )
      ) : (
        <Differences runs={runs} />
      )}
    </section>
  );
}

/** The run that one of its shots is looked at of. */
const whole = (all: readonly ComparedRun[], { variantId }: ComparedRun): ComparedRun =>
  all.find((r) => r.variantId === variantId)!;

/** Key numbers, with what is chosen of them. */
function NumbersTab({ runs }: { runs: readonly ComparedRun[] }) {
  const { differing, columns, set } = useCompare();
  const rows = useMemo(() => compareRuns(runs), [runs]);
  return (
    <>
      <div className="flex items-center gap-2 px-5 pt-3">
        <label className="mr-auto flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={differing}
            onChange={(e) => set({ differing: e.target.checked })}
            className="accent-petrol size-3.5"
          />
          Only what differs
        </label>
        {COLUMNS.map(({ id, label }) => (
          <label key={id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={columns[id]}
              onChange={(e) => set({ columns: { ...columns, [id]: e.target.checked } })}
              className="accent-petrol size-3.5"
            />
            {label}
          </label>
        ))}
        <Button
          onClick={() =>
            void navigator.clipboard.writeText(comparedCsv(runs, rows, '\t')).then(
              () => toast('The table is in the clipboard.'),
              () => toast.error('The browser lets nothing into the clipboard.', { description: 'Use CSV.' }),
            )
          }
        >
          <Copy size={13} /> Copy
        </Button>
        <Button onClick={() => download(new Blob([comparedCsv(runs, rows)], { type: 'text/csv' }), 'comparison.csv')}>
          <Download size={13} /> CSV
        </Button>
      </div>
      <Numbers runs={runs} rows={differing ? rows.filter(differs) : rows} />
    </>
  );
}

const COLUMNS = [
  { id: 'error', label: 'Error of the grid' },
  { id: 'difference', label: 'Difference' },
] as const;

const differs = ({ cells }: ComparedRow) => cells.some((c) => c.change !== null && c.change !== 'none');

function Numbers({ runs, rows }: { runs: readonly ComparedRun[]; rows: readonly ComparedRow[] }) {
  const verdicts = compareVerdicts(runs);
  const { sortedBy, set } = useCompare();
  const at = runs.findIndex((r, k) => k > 0 && r.variantId === sortedBy);
  const sorted = at > 0 ? sortedRows(rows, at) : rows;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-5 py-2">
      <table className="num w-full border-collapse text-left" data-testid="compared">
        <thead className="bg-paper sticky top-0">
          <tr className="border-b">
            <th scope="col" className="text-soft py-1.5 pr-3 font-normal">
              Number
            </th>
            {runs.map((r, k) => (
              <th
                key={r.variantId}
                scope="col"
                aria-sort={k === at ? 'descending' : undefined}
                className="py-1.5 pr-3 font-semibold"
              >
                {k === 0 ? (
                  <>
                    {r.name} <span className="text-soft font-normal">(first)</span>
                  </>
                ) : (
                  <button
                    type="button"
                    className="hover:text-petrol flex items-center gap-1"
                    title={k === at ? 'In the order of the questions' : 'What it differs in most comes first'}
                    onClick={() => set({ sortedBy: k === at ? null : r.variantId })}
                  >
                    {r.name} {k === at ? <ArrowDown size={12} /> : <ArrowDownUp size={12} className="text-soft" />}
                  </button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {verdicts.map(({ question, verdicts: own }) => (
            <tr key={question} className="border-b">
              <th scope="row" className="py-1 pr-3 font-normal">
                {question}
              </th>
              {own.map((v, k) => (
                <td key={k} className="py-1 pr-3">
                  {v ? <VerdictMark verdict={v} /> : '–'}
                </td>
              ))}
            </tr>
          ))}
          {sorted.map(({ id, entry, cells }) => (
            <tr key={id} className="border-b">
              <th scope="row" className="py-1 pr-3 font-normal">
                {entry.label}
              </th>
              {cells.map((cell, k) => (
                <td key={k} className="py-1 pr-3 whitespace-nowrap">
                  <Cell entry={entry} cell={cell} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-soft mt-2 pb-2 text-[12px]">
        ± is how far the number would still move with the grid. A difference inside it is none; where it was not
        estimated (Detail quick), one below half a per cent.
      </p>
    </div>
  );
}

function VerdictMark({ verdict }: { verdict: Verdict }) {
  const { Icon, colour, word } = VERDICT_LOOKS[verdict];
  return (
    <span className={`flex items-center gap-1 ${colour}`}>
      <Icon size={13} /> {word}
    </span>
  );
}

const CHANGE_LOOK: Record<Change, string> = {
  none: 'text-soft',
  better: 'text-good',
  worse: 'text-problem',
  other: 'text-soft',
};

function Cell({ entry, cell: { value, error, difference, change } }: { entry: KeyEntry; cell: ComparedCell }) {
  const { columns } = useCompare();
  if (value === null) return <span className="text-soft">–</span>;
  const Icon = change === 'none' ? Equal : (difference ?? 0) > 0 ? ArrowUp : ArrowDown;
  return (
    <>
      {valueText(entry, value)}
      {columns.error && error !== null && (
        <span className="text-soft"> ± {valueText(entry, error, 2).split(' ')[0]}</span>
      )}
      {columns.difference && difference !== null && change && (
        <span className={`ml-2 inline-flex items-center gap-0.5 text-[12px] ${CHANGE_LOOK[change]}`}>
          <Icon size={11} />
          {change === 'none' ? CHANGE_WORDS.none : `${differenceText(entry, difference, 2)} ${CHANGE_WORDS[change]}`}
        </span>
      )}
    </>
  );
}

/** What every run was made with otherwise than the first, line by line; each can be taken over either way. */
function Differences({ runs: [first, ...others] }: { runs: readonly ComparedRun[] }) {
  return (
    <div className="min-h-0 flex-1 space-y-5 overflow-auto px-5 py-3">
      {others.map((other) => (
        <DifferencesOf key={other.variantId} first={first} other={other} />
      ))}
    </div>
  );
}

function DifferencesOf({ first, other }: { first: ComparedRun; other: ComparedRun }) {
  const list = useMemo(() => inputDifferences(first.run.inputs, other.run.inputs), [first, other]);
  const take = (from: ComparedRun, into: ComparedRun, { path, label }: InputDifference) => {
    const study = useStudy.getState();
    const variant = study.variants.find((v) => v.id === into.variantId);
    const inputs = variant && takeDifference(variant.inputs, from.run.inputs, path);
    if (!inputs) {
      toast.error(`“${label}” alone makes no study of ${into.name}.`, {
        description: 'Take over first what it belongs to.',
      });
      return;
    }
    study.selectVariant(into.variantId);
    study.change(`${label} as in ${from.name}`, inputs);
    toast(`${into.name}: ${label} as in ${from.name}.`, {
      action: { label: 'Undo', onClick: () => useStudy.getState().undo() },
    });
  };
  return (
    <section aria-label={`${other.name} against ${first.name}`}>
      <h3 className="font-semibold">
        {other.name} <span className="text-soft font-normal">against</span> {first.name}
      </h3>
      {!list.length && <p className="text-soft mt-1">Both were made with the same inputs.</p>}
      {list.length > 0 && (
        <table className="num mt-1 w-full border-collapse text-left">
          <thead>
            <tr className="text-soft border-b">
              <th scope="col" className="py-1 pr-3 font-normal">
                Input
              </th>
              <th scope="col" className="py-1 pr-3 font-normal">
                {first.name}
              </th>
              <th scope="col" className="py-1 pr-3 font-normal">
                {other.name}
              </th>
              <th scope="col" className="py-1 font-normal">
                Make alike
              </th>
            </tr>
          </thead>
          <tbody>
            {list.map((d) => (
              <tr key={d.path.join('.')} className="border-b">
                <th scope="row" className="py-1 pr-3 font-normal">
                  {d.label}
                </th>
                <td className="py-1 pr-3">{d.from}</td>
                <td className="py-1 pr-3">{d.to}</td>
                <td className="flex gap-1 py-1">
                  {(
                    [
                      [first, d.to, () => take(other, first, d)],
                      [other, d.from, () => take(first, other, d)],
                    ] as const
                  ).map(([{ name, variantId }, value, go]) => (
                    <Button
                      key={variantId}
                      className="h-6 px-2 text-[12px]"
                      title={`${d.label} of ${name}: ${value}`}
                      onClick={go}
                    >
                      <span className="max-w-44 truncate">
                        {name}: {value}
                      </span>
                    </Button>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
