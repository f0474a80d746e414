import { create } from 'zustand';
import type { GeometryResults, GeometryTask, TaskName } from '@/core/model/geometryTask';
import { api } from '../study/api';
import { tell, useStudy } from '../study/store';

/** Work on surfaces under way: what it does, how far it is, how to stop it. */
interface TaskState {
  running: { label: string; fraction: number; message: string; abort: AbortController } | null;
}

export const useTask = create<TaskState>(() => ({ running: null }));

export const cancelTask = () => useTask.getState().running?.abort.abort();

/** The newest piece of work of each kind, and the line everything waits in. */
const newest = new Map<TaskName, AbortController>();
let line: Promise<unknown> = Promise.resolve();

/**
 * Does work on the server; null when it was refused (shown) or cancelled. One piece of work at a time, in
 * the order it was asked for; a newer one of the same kind takes the place of the older.
 */
export function perform<K extends TaskName>(
  label: string,
  task: Extract<GeometryTask, { do: K }>,
): Promise<GeometryResults[K] | null> {
  newest.get(task.do)?.abort();
  const abort = new AbortController();
  newest.set(task.do, abort);
  const result = line.then(() => (abort.signal.aborted ? null : work<K>(label, task, abort)));
  line = result;
  return result;
}

async function work<K extends TaskName>(
  label: string,
  task: Extract<GeometryTask, { do: K }>,
  abort: AbortController,
): Promise<GeometryResults[K] | null> {
  useTask.setState({ running: { label, fraction: 0, message: '', abort } });
  try {
    const { answer, geometries } = await api.geometry<K>(
      task,
      (fraction, message) => useTask.setState({ running: { label, fraction, message, abort } }),
      abort.signal,
    );
    useStudy.getState().addGeometries(geometries);
    return answer;
  } catch (error) {
    if (!abort.signal.aborted) tell(error);
    return null;
  } finally {
    useTask.setState({ running: null });
  }
}
