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

/** Does work on the server; null when it was refused (shown) or cancelled. One piece of work at a time. */
export async function perform<K extends TaskName>(
  label: string,
  task: Extract<GeometryTask, { do: K }>,
): Promise<GeometryResults[K] | null> {
  cancelTask();
  const abort = new AbortController();
  useTask.setState({ running: { label, fraction: 0, message: '', abort } });
  const mine = () => useTask.getState().running?.abort === abort;
  try {
    const { answer, geometries } = await api.geometry(
      task,
      (fraction, message) => mine() && useTask.setState({ running: { label, fraction, message, abort } }),
      abort.signal,
    );
    useStudy.getState().addGeometries(geometries);
    return answer;
  } catch (error) {
    if (!abort.signal.aborted) tell(error);
    return null;
  } finally {
    if (mine()) useTask.setState({ running: null });
  }
}
