'use client';

import { MapPin, Wand } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import type { Answer, Suggestion } from '@/core/results/answer';
import { formatRelative } from '../ui/relativeTime';
import { chooseField } from '../study/chooseField';
import { freshName, latestResult, latestRun, useStudy } from '../study/store';
import { useGatesOf, useTold } from '../study/names';
import { answerTold } from '../study/reader';
import { useEstimates } from './useEstimates';
import { usePreview } from '../study/previewWork';
import { useShownField, useShownRun } from '../study/useShown';
import { useBench } from '../study/bench';
import { mainView, useView } from '../study/view';
import { Button } from '../ui/controls';
import { VERDICT_LOOKS } from '../ui/VerdictIcon';
import { CoolingReading } from '../cooling/CoolingReading';
import { PartReading } from '../part/PartReading';
import { TabSearch } from './TabSearch';
import { useCompare } from '../compare/compared';
import { Terms } from '../ui/Terms';
import { RulesDialog } from './RulesDialog';
import { fieldInfo } from '../study/fields';
import { FieldLegend } from '../study/FieldLegend';
import { FirstAnswer } from '../study/FirstAnswer';
import { Legend } from '../study/Legend';
import { useAnswersNow } from './useShapeNow';

const EARLIER =
  'An earlier version made the last result; its answers can no longer be read. Press Run to compute them anew.';

const NO_ANSWER: Record<string, string> = {
  none: 'Not computed yet. Press Run.',
  filled: EARLIER,
  stalled: EARLIER,
  queued: 'The run waits for the one before it.',
  running: 'Cutting the part into cells; the front shows in a moment.',
  cancelled: 'The last run was cancelled. Press Run to compute it again.',
  interrupted:
    'The last run was interrupted when the server stopped. Its inputs are kept: press Run to compute it again.',
};

/** The answers of the shown run, and the legend of the shown field. */
export function ReadingPanel() {
  const station = useBench((s) => s.station);
  if (station === 'part') return <PartReading />;
  return station === 'cooling' ? <CoolingReading /> : <RunReading />;
}

function RunReading() {
  const { run, live, outdated } = useShownRun();
  const { data, field } = useShownField(run, live);
  const last = useStudy(latestRun);
  const coarse = usePreview((s) => s.drawn);
  const stored = useAnswersNow(live ? null : run);
  const tell = useTold();
  const gates = useGatesOf(run);
  const answers = useMemo(() => stored?.map((answer) => answerTold(answer, tell)) ?? null, [stored, tell]);
  const [open, setOpen] = useOpenAnswers(run?.id ?? null, answers);
  const show = (id: AnswerId) => {
    flushSync(() => setOpen(new Set([...open, id])));
    const card = document.getElementById(cardId(id));
    card?.scrollIntoView({ block: 'start' });
    card?.querySelector('button')?.focus({ preventScroll: true });
  };
  useAskedAnswer(answers, open, setOpen);
  const { body, against } = useView((s) => s.shape);
  const deviationOf = body === 'counter' ? 'cut' : against && against !== run?.id ? 'less' : 'own';
  const label = !field ? '' : field.id === 'deviation' ? DEVIATIONS[deviationOf] : fieldInfo(field.id, gates).label;
  return (
    <aside aria-label="Reading" className="bg-sheet flex h-full flex-col overflow-hidden">
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3.5">
        {run && !live && answers ? (
          <>
            {outdated && <p className="text-copper mb-2 text-[12px]">{OUTDATED[outdated]}</p>}
            <Glance answers={answers} open={open} onOpen={show} />
            {answers.map((answer) => (
              <AnswerCard
                key={answer.id}
                answer={answer}
                open={open.has(answer.id)}
                onOpen={(on) =>
                  setOpen(new Set([...open].filter((id) => id !== answer.id).concat(on ? answer.id : [])))
                }
              />
            ))}
            <RulesDialog />
            <p className="text-soft mt-4 text-[11.5px]" suppressHydrationWarning>
              Detail {run.inputs.detail}, run {formatRelative(run.createdAt)}
            </p>
          </>
        ) : live ? (
          <p className="text-soft">The answers come when the run is done. The front moves as it is computed.</p>
        ) : (
          <>
            <FirstAnswer />
            <h2 className="text-[15px] font-semibold">Will it fill?</h2>
            {last?.problems?.map((problem) => (
              <div key={problem.message} role="alert" className="border-problem mt-2 border-l-2 pl-2.5">
                <p className="text-problem font-medium">{tell(problem.message)}</p>
                <p className="text-soft">{tell(problem.remedy)}</p>
              </div>
            )) ?? <p className="text-soft mt-1.5">{NO_ANSWER[last?.status ?? 'none'] ?? NO_ANSWER.none}</p>}
          </>
        )}
      </div>
      {coarse ? (
        <CoarseLegend kind={coarse} />
      ) : (
        field &&
        data?.grid && (
          <FieldLegend label={label} unit={fieldInfo(field.id).unit} field={field} volumes={data.grid.nodeVolume} />
        )
      )}
    </aside>
  );
}

const OUTDATED = {
  inputs: 'Inputs have changed since this run.',
  shorter: 'This run goes less far than is asked for: its answers are those so far.',
  farther: 'This run goes farther than is asked for now.',
  solver: 'An earlier solver made this run.',
};

/** What a deviation is shown of: the body to cut, the difference of two runs, or what comes out. */
const DEVIATIONS = { cut: 'Offset to cut', less: 'Difference', own: 'Deviation' };

/** Legend of what the coarse grid shows in place of a result. */
function CoarseLegend({ kind }: { kind: 'preview' | 'gate-map' }) {
  const shown = usePreview((s) => s.data);
  const values = kind === 'preview' ? shown?.times : shown?.found?.score;
  if (!shown || !values) return null;
  return (
    <Legend
      label={kind === 'preview' ? 'Preview: fill time' : 'Gate quality'}
      unit={kind === 'preview' ? 's' : '%'}
      range={kind === 'preview' ? [0, shown.end] : [0, 1]}
      values={values}
      weights={shown.grid.nodeVolume}
      weightName="share of volume"
      disabled
    />
  );
}

type AnswerId = Answer['id'];
const cardId = (id: AnswerId) => `answer-${id}`;

/** Which answers stand open: of a new result the first and every problem, until someone folds or opens others. */
function useOpenAnswers(runId: string | null, answers: readonly Answer[] | null) {
  const [state, setState] = useState<{ of: string | null; open: ReadonlySet<AnswerId> }>({ of: null, open: new Set() });
  const usual = () => new Set(answers?.filter((a, k) => k === 0 || a.verdict === 'problem').map((a) => a.id));
  const fresh = answers !== null && state.of !== runId;
  const now = fresh ? { of: runId, open: usual() } : state;
  // As it was judged at first: a verdict that another tolerance makes good does not fold its answer.
  if (fresh) setState(now);
  return [now.open, (open: ReadonlySet<AnswerId>) => setState({ of: runId, open })] as const;
}

/** Opens the answer to the question of a field that is chosen, and folds the one that the field before had opened. */
function useAskedAnswer(
  answers: readonly Answer[] | null,
  open: ReadonlySet<AnswerId>,
  setOpen: (open: ReadonlySet<AnswerId>) => void,
): void {
  const asked = useBench((s) => s.asked);
  const last = useRef<{ asked: typeof asked; opened: AnswerId | null }>({ asked, opened: null });
  useEffect(() => {
    const answer = answers?.find((a) => a.question === asked?.question);
    if (!answer || last.current.asked === asked) return;
    const { opened } = last.current;
    const kept = [...open].filter((id) => id !== opened || id === answer.id);
    last.current = { asked, opened: open.has(answer.id) && opened !== answer.id ? null : answer.id };
    setOpen(new Set([...kept, answer.id]));
    requestAnimationFrame(() => document.getElementById(cardId(answer.id))?.scrollIntoView({ block: 'start' }));
  }, [asked, answers, open, setOpen]);
}

/** All verdicts at a glance; each leads to its answer. */
function Glance({
  answers,
  open,
  onOpen,
}: {
  answers: readonly Answer[];
  open: ReadonlySet<AnswerId>;
  onOpen: (id: AnswerId) => void;
}) {
  return (
    <nav aria-label="Verdicts" className="mb-4 grid grid-cols-[minmax(0,1fr)] gap-px border-b pb-3">
      {answers.map(({ id, question, verdict, key }) => {
        const { word, Icon, colour } = VERDICT_LOOKS[verdict];
        return (
          <button
            key={id}
            type="button"
            aria-label={`${question} ${word}`}
            aria-current={open.has(id)}
            title={`${key.label}: ${key.value}`}
            className="hover:bg-well -mx-1.5 flex h-6 items-center gap-2 rounded px-1.5 text-left"
            onClick={() => onOpen(id)}
          >
            <Icon size={13} className={`${colour} shrink-0`} />
            <span className="min-w-0 flex-1 truncate">{question}</span>
            <span className="num text-soft shrink-0 text-[12px]">{key.value}</span>
          </button>
        );
      })}
    </nav>
  );
}

/** One question, open or folded to its verdict. */
function AnswerCard({ answer, open, onOpen }: { answer: Answer; open: boolean; onOpen: (open: boolean) => void }) {
  const { word, Icon, colour } = VERDICT_LOOKS[answer.verdict];
  const where = answer.where;
  const fly = () => {
    if (!where) return;
    if (where.field) chooseField(mainView, where.field, latestResult(useStudy.getState()));
    mainView.getState().flyTo(where.position, where.label);
  };
  return (
    <article
      id={cardId(answer.id)}
      aria-label={answer.question}
      className="mt-3 scroll-mt-3 border-t pt-3 [nav+&]:mt-0 [nav+&]:border-t-0 [nav+&]:pt-0"
    >
      <button
        type="button"
        aria-expanded={open}
        onClick={() => onOpen(!open)}
        className="flex w-full items-baseline justify-between gap-2 text-left"
      >
        <h2 className="text-[15px] font-semibold">{answer.question}</h2>
        <span className={`flex shrink-0 items-center gap-1 font-semibold ${colour}`}>
          <Icon size={14} /> {word}
        </span>
      </button>
      <p className="mt-1">
        <Terms>{answer.headline}</Terms>
      </p>
      {open && (
        <>
          <div className="mt-2.5">
            <div className="text-soft text-[12px]">{answer.key.label}</div>
            <div className="num text-[24px] leading-tight font-semibold tracking-tight">{answer.key.value}</div>
            <div className="text-soft num text-[12px]">{answer.key.note}</div>
          </div>
          {where && (
            <Button className="mt-2.5 w-full justify-start" onClick={fly}>
              <MapPin size={13} className="text-petrol" /> {where.label}
            </Button>
          )}
          <h3 className="text-soft mt-3 text-[11px] font-semibold tracking-wide">Why</h3>
          <ul className="mt-1 space-y-1.5">
            {answer.why.map((reason) => (
              <li key={reason}>
                <Terms>{reason}</Terms>
              </li>
            ))}
          </ul>
          {answer.try.length > 0 && <Tries answer={answer} />}
          {answer.id === 'how-strong' && answer.verdict !== 'good' && <TabSearch />}
        </>
      )}
    </article>
  );
}

/** What is worth trying, with what is expected of it. */
function Tries({ answer }: { answer: Answer }) {
  const estimates = useEstimates(answer);
  return (
    <>
      <h3 className="text-soft mt-3 text-[11px] font-semibold tracking-wide">Try, as a new variant</h3>
      <ul className="mt-1.5 space-y-2">
        {answer.try.map((suggestion) => (
          <Try key={suggestion.id} suggestion={suggestion} expected={estimates.get(suggestion.id) ?? null} />
        ))}
      </ul>
    </>
  );
}

/** Branches a variant with the change and runs it. `expected`: what it would come to, where that is known. */
function Try({ suggestion, expected }: { suggestion: Suggestion; expected: string | null }) {
  const [busy, setBusy] = useState(false);
  const go = async () => {
    setBusy(true);
    const study = useStudy.getState();
    const variant = await study.branch(freshName(study.variants, suggestion.label.slice(0, 56)), suggestion.inputs);
    // Before and after stand side by side when it is done.
    const both = [study.variantId, variant?.id].flatMap((id) => (id ? [{ variantId: id, runId: null }] : []));
    if (variant) useCompare.getState().set({ chosen: both });
    if (variant) await useStudy.getState().startRun();
    setBusy(false);
  };
  return (
    <li>
      <Button className="w-full justify-start" disabled={busy} onClick={() => void go()}>
        <Wand size={13} className="text-copper shrink-0" /> <span className="truncate">{suggestion.label}</span>
      </Button>
      <p className="text-soft mt-0.5 text-[12px]">
        <Terms>{suggestion.why}</Terms>
      </p>
      {expected && (
        <p className="num text-petrol mt-0.5 text-[12px]" data-testid="expected">
          {expected}
        </p>
      )}
    </li>
  );
}
