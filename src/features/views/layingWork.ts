import type { LayingAnswer, LayingRequest } from '@/runtime/layingProtocol';

/** Answer of a worker that ends with it, or when it is told to stop. */
export function askLaying<T extends Exclude<LayingAnswer['type'], 'failed'>>(
  request: LayingRequest,
  signal: AbortSignal,
): Promise<Extract<LayingAnswer, { type: T }>> {
  const worker = new Worker(new URL('../../runtime/laying.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<Extract<LayingAnswer, { type: T }>>((resolve, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error));
    worker.onerror = (event) => reject(new Error(event.message || 'The parts could not be laid on each other.'));
    worker.onmessage = ({ data }: MessageEvent<LayingAnswer>) => {
      if (data.type === 'failed') reject(new Error(data.message));
      else resolve(data as Extract<LayingAnswer, { type: T }>);
    };
    worker.postMessage(request);
  }).finally(() => worker.terminate());
}
