import type { LayerMade, LayerTask } from './layers';
import { meansAt, type Sparse } from './results';

const jobs = new Map<number, { weights: Sparse; n: number }>();

/** Node values at the points of a job, frame by frame. */
self.onmessage = ({ data }: MessageEvent<LayerTask>) => {
  if ('weights' in data) {
    jobs.set(data.job, data);
    return;
  }
  if ('end' in data) {
    jobs.delete(data.job);
    return;
  }
  const job = jobs.get(data.job);
  if (!job) return;
  const layer = meansAt(job.weights, data.values, new Float32Array(job.n));
  self.postMessage({ job: data.job, frame: data.frame, layer } satisfies LayerMade, { transfer: [layer.buffer] });
};
