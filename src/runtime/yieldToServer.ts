import os from 'node:os';

/** Added to the niceness of an ordinary process; BELLOWS_NICE sets it, 0 to 19. */
const NICER = 5;

/**
 * Lets the thread that calls it, and those it starts, stand back where others want the processor: on a machine with
 * few cores the solvers would else keep the server from answering. Linux knows a priority for each thread; elsewhere
 * it is that of the process, which is left alone.
 */
export function yieldToServer(): void {
  if (process.platform !== 'linux') return;
  const { BELLOWS_NICE } = process.env;
  try {
    os.setPriority(0, BELLOWS_NICE === undefined ? NICER : Number(BELLOWS_NICE));
  } catch {
    // Not allowed here: it works all the same.
  }
}
