import { pathToFileURL } from 'node:url';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import type { TaskFailed, TaskProgress } from '../runtime/protocol';
import { workerPath } from './paths';
import { RequestError } from './requestError';

/** Starts a bundled worker. Through Reflect, so that the application's bundler does not try to trace it. */
export function startWorker(name: 'run' | 'import' | 'geometry' | 'trials', workerData: unknown): Worker {
  const options: WorkerOptions = { workerData };
  return Reflect.construct(Worker, [pathToFileURL(workerPath(name)), options]) as Worker;
}

export type Report = (fraction: number, message: string) => void;

/** The message that ends a worker's work well. */
type Done<M> = Extract<M, { type: 'done' }>;

/**
 * One piece of work in a worker of its own. Rejects with RequestError when the worker refuses; stops the
 * worker when the signal is aborted.
 */
export function workInWorker<M extends TaskProgress | TaskFailed | { type: 'done' }>(
  name: 'import' | 'geometry' | 'trials',
  workerData: unknown,
  report: Report,
  signal: AbortSignal,
): Promise<Done<M>> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) return reject(new RequestError('Cancelled.', 'Nothing was changed.', 499));
    const worker = startWorker(name, workerData);
    const stop = () => {
      void worker.terminate();
      reject(new RequestError('Cancelled.', 'Nothing was changed.', 499));
    };
    signal.addEventListener('abort', stop);
    worker.on('message', (message: M) => {
      if (message.type === 'progress') return report(message.fraction, message.message);
      signal.removeEventListener('abort', stop);
      if (message.type === 'failed') reject(new RequestError(message.message, message.remedy));
      else resolve(message as Done<M>);
      // A package that keeps a handle open must not keep the thread.
      void worker.terminate();
    });
    worker.on('error', (error) =>
      reject(new RequestError(`The work stopped: ${error.message}`, 'Try a simpler body.', 500)),
    );
    worker.on('exit', (code) => {
      if (code !== 0) reject(new RequestError('The work stopped before it was done.', 'Try again.', 500));
    });
  });
}
