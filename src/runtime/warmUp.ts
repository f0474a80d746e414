import { standInMesh } from '../core/model/standIn';
import { emptyInputs } from '../core/model/study';
import { runPipeline } from '../core/pipeline/pipeline';
import type { StageContext } from '../core/stage/context';

/**
 * Fills a small plate and throws the result away: the engine compiles what runs often, and the first run of
 * a user then does not wait for it. Never throws; ends early when `signal` is aborted.
 */
export async function warmUp(signal: AbortSignal): Promise<void> {
  const plate = standInMesh({
    shape: 'box',
    centre: [0.04, 0.03, 0.001],
    axes: [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ],
    size: [0.08, 0.06, 0.002],
  });
  const ctx: StageContext = {
    signal,
    report: () => {},
    async checkpoint() {
      // Each step gives way to a task that has come meanwhile.
      await new Promise<void>((resolve) => setImmediate(resolve));
      signal.throwIfAborted();
    },
  };
  const gates = [{ id: 'G1', position: [0.01, 0.01, 0.002] as [number, number, number], diameter: 0.002 }];
  try {
    await runPipeline(plate, 'warm-up', { ...emptyInputs('warm-up'), gates, detail: 'quick' }, ctx);
  } catch {
    // Nobody waits for its outcome; a fault that matters shows in the run that follows.
  }
}
