import { totalmem } from 'node:os';
import { pathToFileURL } from 'node:url';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import pLimit, { type LimitFunction } from 'p-limit';
import type { TaskFailed, TaskProgress } from '../runtime/protocol';
import { workerPath } from '../store/paths';
import { log } from './log';
import { RequestError } from './requestError';

type WorkerName = 'run' | 'import' | 'study' | 'geometry' | 'trials';

/** Of the machine's memory, for the objects of one worker; its arrays lie outside of that. BELLOWS_HEAP_MB sets it. */
const HEAP_SHARE = 0.5;
const MOST_HEAP_MB = 4096;
const heapMb = () =>
  Number(process.env.BELLOWS_HEAP_MB) || Math.floor(Math.min(MOST_HEAP_MB, (HEAP_SHARE * totalmem()) / 2 ** 20));

/** Starts a bundled worker. Through Reflect, so that the application's bundler does not try to trace it. */
export function startWorker(name: WorkerName, workerData: unknown): Worker {
  const options: WorkerOptions = { workerData, resourceLimits: { maxOldGenerationSizeMb: heapMb() } };
  return Reflect.construct(Worker, [pathToFileURL(workerPath(name)), options]) as Worker;
}

export type Report = (fraction: number, message: string) => void;

/** The message that ends a worker's work well. */
type Done<M> = Extract<M, { type: 'done' }>;

/** Whether a worker ended since its memory was used up. */
export const outOfMemory = (error: unknown): boolean =>
  (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY' || /allocation failed/i.test(String(error));

/** How many pieces of a kind go at once, and how long one may take, ms. */
const AT_ONCE: Record<Exclude<WorkerName, 'run'>, LimitFunction> = {
  import: pLimit(2),
  study: pLimit(1),
  geometry: pLimit(2),
  trials: pLimit(2),
};
const LONGEST_MS: Partial<Record<WorkerName, number>> = {
  import: 10 * 60_000,
  study: 10 * 60_000,
  geometry: 30 * 60_000,
};
/** What the process may grow by while a file is read, bytes: arrays are bounded by nothing else. */
const MOST_GROWTH = 3 * 2 ** 30;
const WATCH_MS = 250;

/**
 * One piece of work in a worker of its own, two of a kind at once. Rejects with RequestError when the worker refuses,
 * takes too long or too much memory; stops the worker when the signal is aborted.
 */
export function workInWorker<M extends TaskProgress | TaskFailed | { type: 'done' }>(
  name: Exclude<WorkerName, 'run'>,
  workerData: unknown,
  report: Report,
  signal: AbortSignal,
): Promise<Done<M>> {
  const limit = AT_ONCE[name];
  if (limit.activeCount >= limit.concurrency) report(0, 'Waiting for other work to end');
  return limit(() => work<M>(name, workerData, report, signal));
}

function work<M extends TaskProgress | TaskFailed | { type: 'done' }>(
  name: Exclude<WorkerName, 'run'>,
  workerData: unknown,
  report: Report,
  signal: AbortSignal,
): Promise<Done<M>> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) return reject(new RequestError('Cancelled.', 'Nothing was changed.', 499));
    const worker = startWorker(name, workerData);
    const before = process.memoryUsage.rss();
    const begun = Date.now();
    const end = () => {
      clearInterval(watch);
      signal.removeEventListener('abort', stop);
      // A package that keeps a handle open must not keep the thread.
      void worker.terminate();
    };
    const refuse = (...why: ConstructorParameters<typeof RequestError>) => {
      end();
      reject(new RequestError(...why));
    };
    const tooMuch = () =>
      refuse('The work needs more memory than it may take.', 'Try a simpler body or a smaller file.', 413);
    const stop = () => refuse('Cancelled.', 'Nothing was changed.', 499);
    const watch = setInterval(() => {
      if ((name === 'import' || name === 'study') && process.memoryUsage.rss() - before > MOST_GROWTH) tooMuch();
      else if (Date.now() - begun > (LONGEST_MS[name] ?? Infinity))
        refuse('The work took too long and was stopped.', 'Try a simpler body or a smaller file.', 413);
    }, WATCH_MS);
    signal.addEventListener('abort', stop);
    worker.on('message', (message: M) => {
      if (message.type === 'progress') return report(message.fraction, message.message);
      if (message.type === 'failed') {
        if (message.detail) log.error({ name, detail: message.detail }, 'fault of a worker');
        return refuse(message.message, message.remedy);
      }
      end();
      resolve(message as Done<M>);
    });
    worker.on('error', (error) => {
      if (outOfMemory(error)) return tooMuch();
      log.error({ error, name }, 'worker');
      refuse('The work stopped before it was done.', 'Try a simpler body.', 500);
    });
    worker.on('exit', () => refuse('The work stopped before it was done.', 'Try again.', 500));
  });
}
