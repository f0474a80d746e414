'use client';

import { isUnderWay } from '@/runtime/wire';
import { useLive } from '../study/liveRun';
import { isOutOfDate, newestResult, useStudy, type StudyState } from '../study/store';

/** What became of a variant. */
export type VariantState = keyof typeof STATE_TITLE;

export const STATE_TITLE = {
  none: 'not run yet',
  running: 'run under way',
  current: 'result up to date',
  outdated: 'result out of date: inputs or solver changed since',
  failed: 'no result',
};

function stateOf(s: StudyState, id: string): VariantState {
  const runs = s.runs.filter((r) => r.variantId === id);
  if (runs.some((r) => isUnderWay(r.status))) return 'running';
  const result = newestResult(s, id);
  const variant = s.variants.find((v) => v.id === id);
  if (!result || !variant) return runs.length ? 'failed' : 'none';
  return isOutOfDate(result, variant) ? 'outdated' : 'current';
}

/** State of every variant by its id. */
export function useVariantStates(): Readonly<Record<string, VariantState>> {
  const text = useStudy((s) => JSON.stringify(Object.fromEntries(s.variants.map((v) => [v.id, stateOf(s, v.id)]))));
  return JSON.parse(text) as Record<string, VariantState>;
}

/** Of a run under way: filled as far as it is. Nothing turns: every turn would draw the whole page anew. */
function ProgressMark({ variantId }: { variantId: string }) {
  const run = useStudy((s) => s.runs.find((r) => r.variantId === variantId && isUnderWay(r.status))?.id);
  const share = useLive((s) => (run && s.progress[run]?.share) || 0);
  return (
    <span
      className="border-copper size-2.5 shrink-0 rounded-full border"
      style={{ background: `conic-gradient(var(--copper) ${100 * share}%, transparent 0)` }}
    />
  );
}

const LOOKS = {
  none: 'border-soft border',
  current: 'bg-good',
  outdated: 'border-2 border-copper',
  failed: 'border-2 border-problem',
};

export function StateMark({ state, variantId }: { state: VariantState; variantId: string }) {
  if (state === 'running') return <ProgressMark variantId={variantId} />;
  return <span className={`size-2 shrink-0 rounded-full ${LOOKS[state]}`} />;
}
