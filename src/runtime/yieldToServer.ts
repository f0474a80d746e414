import os from 'node:os';

/** Of the niceness that an ordinary process has. */
const NICER = 5;

/**
 * Lets the thread that calls it, and those it starts, stand back where others want the processor: on a machine with
 * few cores the solvers would else keep the server from answering. Linux knows a priority for each thread; elsewhere
 * it is that of the process, which is left alone.
 */
export function yieldToServer(): void {
  if (process.platform !== 'linux') return;
  try {
    os.setPriority(0, NICER);
  } catch {
    // Not allowed here: it works all the same.
  }
}
