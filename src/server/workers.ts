import { pathToFileURL } from 'node:url';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import { workerPath } from './paths';

/** Starts a bundled worker. Through Reflect, so that the application's bundler does not try to trace it. */
export function startWorker(name: 'run' | 'import', workerData: unknown): Worker {
  const options: WorkerOptions = { workerData };
  return Reflect.construct(Worker, [pathToFileURL(workerPath(name)), options]) as Worker;
}
