import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { SecondThread } from '../core/stage/context';

/** A second thread for the loops of the structure, from the bundled worker at `url`; null on a machine with one core. */
export function secondThreadFrom(url: URL, nCores = availableParallelism()): SecondThread | null {
  if (nCores < 2) return null;
  const worker = new Worker(url);
  // The loops notice by themselves that nobody serves them; an unheard error would end the host.
  worker.on('error', () => {});
  worker.unref();
  return { post: (memory) => worker.postMessage(memory), end: () => void worker.terminate() };
}
