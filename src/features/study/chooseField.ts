import { create } from 'zustand';
import { fieldEntry } from '@/core/fields/table';
import { instantOf } from '@/core/results/instants';
import type { RunView } from '@/runtime/wire';
import type { FieldId, View } from './view';

/** The instant at which a field of a run says most, s; Infinity for one that is of the whole shot. */
export function bestInstant(id: FieldId, summary: RunView['summary']): number {
  const entry = fieldEntry(id);
  return (entry?.overTime && summary && instantOf(summary, entry.saysMost)) || Infinity;
}

/**
 * Shows a field of a run in a view, at the instant at which it says most. A play head that was put somewhere by hand
 * stays there.
 */
export function chooseField(view: View, id: FieldId, run: Pick<RunView, 'summary'> | null): void {
  const { time, playing, restsAt, set } = view.getState();
  const rests = !playing && (time === restsAt || time === Infinity);
  const best = bestInstant(id, run?.summary ?? null);
  set({ field: id, brush: null, ...(rests ? { time: best, restsAt: best } : {}) });
  keepRecent(id);
}

/** Fields that are offered as looked at last. */
const MOST_RECENT = 4;
const KEY = 'bellows.recent-fields';

const recentStore = create<{ ids: readonly FieldId[] }>(() => ({ ids: recall() }));

/** Fields chosen last, the newest first, on this browser. */
export const useRecentFields = (): readonly FieldId[] => recentStore((s) => s.ids);

function recall(): readonly FieldId[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]');
    return Array.isArray(kept) ? kept.filter((id) => typeof id === 'string').slice(0, MOST_RECENT + 1) : [];
  } catch {
    // Nothing is remembered where there is no storage, or nonsense in it.
    return [];
  }
}

function keepRecent(id: FieldId): void {
  // The one that is shown is not offered: one more than that is kept.
  const ids = [id, ...recentStore.getState().ids.filter((other) => other !== id)].slice(0, MOST_RECENT + 1);
  recentStore.setState({ ids });
  localStorage.setItem(KEY, JSON.stringify(ids));
}
