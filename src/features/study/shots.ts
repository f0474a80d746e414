import { asShot } from '@/core/model/shots';
import type { Inputs } from '@/core/model/study';
import { fileOfShot } from '@/runtime/manifest';
import type { RunView } from '@/runtime/wire';

/** Id of the result of one of the shots of a run, from 1. */
export const shotRunId = (id: string, shot: number): string => (shot > 1 ? `${id}#${shot}` : id);

/** Where a file of the result of a shot is served. */
export function blobPath(shotRun: string, name: string): string {
  const [id, shot = '1'] = shotRun.split('#');
  return `/api/runs/${id}/blobs/${fileOfShot(name, Number(shot))}`;
}

// Selectors must return the same object for the same state.
const views = new WeakMap<Inputs, Map<number, Inputs>>();
const runViews = new WeakMap<RunView, Map<number, RunView>>();

function kept<K extends object, V>(map: WeakMap<K, Map<number, V>>, key: K, shot: number, make: () => V): V {
  let own = map.get(key);
  if (!own) map.set(key, (own = new Map()));
  let value = own.get(shot);
  if (value === undefined) own.set(shot, (value = make()));
  return value;
}

/** A study looked at as one of its shots. */
export const inputsAs = (inputs: Inputs, shot: number): Inputs =>
  shot < 2 ? inputs : kept(views, inputs, shot, () => asShot(inputs, shot));

/** A run looked at as one of its shots; null where it did not come to that. */
export function runAs(run: RunView, shot: number): RunView | null {
  if (shot < 2) return run;
  const later = run.later?.[shot - 2];
  if (!later) return null;
  return kept(runViews, run, shot, () => ({
    ...run,
    id: shotRunId(run.id, shot),
    inputs: inputsAs(run.inputs, shot),
    summary: later.summary,
    answers: later.answers,
  }));
}
