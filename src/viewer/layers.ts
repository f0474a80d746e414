import type { PointMap } from '@/core/grid/surfaceMap';
import type { NodeFrames } from './frames';
import { sparseOf, type Sparse } from './results';

/** What the thread that makes layers is told: a job's weights and number of points, a frame's node values, or its end. */
export type LayerTask =
  | { job: number; weights: Sparse; n: number }
  | { job: number; frame: number; values: Float32Array }
  | { job: number; end: true };

/** What it answers: the values of a frame at the points. */
export interface LayerMade {
  job: number;
  frame: number;
  layer: Float32Array;
}

interface Job {
  /** The frame that is wanted next; null when none is. */
  next: () => number | null;
  take: (frame: number, layer: Float32Array) => void;
}

let worker: Worker | null = null;
let last = 0;
const jobs = new Map<number, Job & { at: NodeFrames['at'] }>();

export const canMakeLayers = (): boolean => typeof Worker !== 'undefined';

function thread(): Worker {
  if (!worker) {
    worker = new Worker(new URL('./layers.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data: { job: id, frame, layer } }: MessageEvent<LayerMade>) => {
      const job = jobs.get(id);
      job?.take(frame, layer);
      ask(id);
    };
  }
  return worker;
}

function ask(id: number): void {
  const job = jobs.get(id);
  const frame = job?.next() ?? null;
  if (!job || frame === null) return;
  const values = job.at(frame).slice();
  thread().postMessage({ job: id, frame, values } satisfies LayerTask, [values.buffer]);
}

/** Has frames of nodes put onto points one after the other on a thread of their own; the returned function ends it. */
export function makeLayers({ map, nodes }: { map: PointMap; nodes: NodeFrames }, n: number, job: Job): () => void {
  const id = ++last;
  jobs.set(id, { ...job, at: nodes.at });
  thread().postMessage({ job: id, weights: sparseOf(map), n } satisfies LayerTask);
  ask(id);
  return () => {
    jobs.delete(id);
    thread().postMessage({ job: id, end: true } satisfies LayerTask);
  };
}
