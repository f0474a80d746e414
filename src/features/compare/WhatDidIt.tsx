'use client';

import { Split } from 'lucide-react';
import { useMemo, useState } from 'react';
import { causesBetween, MOST_CAUSES, type CauseReport } from '@/core/pipeline/causeStudy';
import { effectsOn, interactionSaid, type Effects } from '@/core/results/causes';
import { differenceText, valueText } from '@/core/results/compare';
import { KEY_IDS, KEY_NUMBERS, type KeyEntry, type KeyId } from '@/core/results/keyNumbers';
import type { Inputs } from '@/core/model/study';
import { api } from '../study/api';
import { TrialProgress, useTrials } from '../study/useTrials';
import { Button, Choice, Select } from '../ui/controls';
import type { ComparedRun } from './compared';

type Detail = CauseReport['detail'];

const DETAILS: readonly { value: Detail; label: string }[] = [
  { value: 'quick', label: 'Quick' },
  { value: 'normal', label: 'Normal' },
  { value: 'fine', label: 'Fine' },
];

interface Props {
  first: ComparedRun;
  other: ComparedRun;
  /** Whose numbers are asked for. */
  shot: number;
}

/** Which of the inputs that two runs have otherwise did what to a number: each alone, and all together. */
export function WhatDidIt({ first, other, shot }: Props) {
  const [detail, setDetail] = useState<Detail>('quick');
  const causes = useMemo(() => causesBetween(first.run.inputs, other.run.inputs), [first, other]);
  const { running, found, problem, start, stop } = useTrials<CauseReport, readonly [Inputs, Inputs]>();
  const of = found?.of;
  const stale = of && (of[0] !== first.run.inputs || of[1] !== other.run.inputs);
  const report = found && !stale && !running ? found.report : null;
  const trials = report?.shots[shot - 1];
  const go = () =>
    void start([first.run.inputs, other.run.inputs], (onProgress, signal) =>
      api.causes({ inputs: first.run.inputs, other: other.run.inputs, detail }, onProgress, signal),
    );
  return (
    <div className="min-h-0 flex-1 overflow-auto px-5 py-3">
      <div className="flex items-center gap-3">
        <p className="min-w-0 flex-1">
          {causes.length
            ? `${causes.length} ${causes.length === 1 ? 'input differs' : 'inputs differ'}: each is tried alone, and all together (${causes.length + 2} runs).`
            : 'Both were made with the same inputs: there is nothing to ask.'}
        </p>
        <div className="w-56">
          <Choice label="Detail of the trials" value={detail} options={DETAILS} onChange={setDetail} />
        </div>
        <Button
          look="primary"
          off={running ? 'It is being worked out' : !causes.length && 'The inputs do not differ'}
          onClick={go}
        >
          <Split size={13} /> {found && !stale ? 'Try again' : 'Try them'}
        </Button>
      </div>
      {causes.length > MOST_CAUSES && (
        <p className="text-problem mt-2">More than {MOST_CAUSES} differ: make some of them alike under Inputs first.</p>
      )}
      {running && (
        <div className="mt-3 max-w-xl">
          <TrialProgress {...running} onStop={stop} />
        </div>
      )}
      {problem && (
        <p role="alert" className="text-problem mt-3">
          {problem}
        </p>
      )}
      {report && trials && <Shares trials={trials} detail={report.detail} names={[first.name, other.name]} />}
      {report && !trials && <p className="mt-3">These trials did not come to shot {shot}.</p>}
      {stale && !running && <p className="text-copper mt-3">These trials were of other runs.</p>}
      {!found && !running && !problem && causes.length > 0 && (
        <ul className="num mt-4 max-w-2xl divide-y border-y">
          {causes.map((c) => (
            <li key={c.path.join('.')} className="flex justify-between gap-4 py-1">
              <span>{c.label}</span>
              <span className="text-soft">
                {c.from} → {c.to}
              </span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

type Trials = CauseReport['shots'][number];

function Shares({ trials, detail, names }: { trials: Trials; detail: Detail; names: readonly [string, string] }) {
  const known = useMemo(() => KEY_IDS.filter((id) => effectsOn(id, trials)), [trials]);
  const [chosen, setChosen] = useState<KeyId | null>(null);
  // Until one is chosen, the first number that the changes move at all.
  const moved = known.find((id) => Math.abs(effectsOn(id, trials)!.after - effectsOn(id, trials)!.before) > 0);
  const id = chosen && known.includes(chosen) ? chosen : (moved ?? known[0]);
  if (!id) return <p className="mt-3">These runs have no number in common.</p>;
  const entry: KeyEntry = KEY_NUMBERS[id];
  const effects = effectsOn(id, trials)!;
  return (
    <section aria-label="What did it" className="mt-4 max-w-3xl" data-testid="causes">
      <div className="flex items-center gap-3">
        <div className="w-64">
          <Select
            label="Number asked for"
            value={id}
            options={known.map((k) => ({ value: k, label: KEY_NUMBERS[k].label }))}
            onChange={(v) => setChosen(v as KeyId)}
          />
        </div>
        <p className="num">
          {valueText(entry, effects.before)} in {names[0]}, {valueText(entry, effects.after)} in {names[1]}, at Detail{' '}
          {detail}
        </p>
      </div>
      <Bars trials={trials} effects={effects} entry={entry} />
      <p className="text-soft mt-2 text-[12px]">{interactionSaid(effects, entry)}</p>
    </section>
  );
}

/** Bars to both sides of nothing, in one scale. */
function Bars({ trials, effects, entry }: { trials: Trials; effects: Effects; entry: KeyEntry }) {
  const rows = [
    ...trials.alone.map((a, k) => ({
      label: a.label,
      note: `${a.from} → ${a.to}`,
      value: effects.alone[k],
      why: a.why,
      strong: false,
    })),
    ...(effects.interaction !== null && trials.alone.length > 1
      ? [{ label: 'By acting on each other', note: '', value: effects.interaction, why: null, strong: false }]
      : []),
    { label: 'All together', note: '', value: effects.after - effects.before, why: null, strong: true },
  ];
  const most = Math.max(...rows.map((r) => Math.abs(r.value ?? 0)), 1e-300);
  return (
    <table className="num mt-3 w-full border-collapse text-left">
      <tbody>
        {rows.map(({ label, note, value, why, strong }) => (
          <tr key={label} className={`border-b ${strong ? 'font-semibold' : ''}`}>
            <th scope="row" className={`w-64 py-1 pr-3 ${strong ? '' : 'font-normal'}`}>
              {label} <span className="text-soft block text-[12px] font-normal">{note}</span>
            </th>
            <td className="py-1">
              <span className="bg-well relative block h-3">
                <span className="bg-soft absolute inset-y-[-3px] left-1/2 w-px" />
                {value !== null && (
                  <span
                    className={`absolute inset-y-0 ${value >= 0 ? 'bg-copper' : 'bg-petrol'}`}
                    style={{
                      left: `${value >= 0 ? 50 : 50 - (50 * -value) / most}%`,
                      width: `${(50 * Math.abs(value)) / most}%`,
                    }}
                  />
                )}
              </span>
            </td>
            <td className="w-40 py-1 pl-3 text-right">
              {value === null ? (
                <span className="text-soft font-normal">{why ?? 'has none'}</span>
              ) : (
                differenceText(entry, value)
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
