import type { Worker } from 'node:worker_threads';
import { WARM_UP, type RunMessage, type RunTask } from '../runtime/protocol';
import { startWorker } from './workers';

/** A worker that has run is replaced by a fresh one after this long: its memory is worth more by then. */
const IDLE_MS = 120_000;

interface Listener {
  message(message: RunMessage): void;
  /** The worker is gone before it was done. */
  lost(why: string): void;
}

/**
 * The worker of the runs, one task after the other. It is kept between runs, and it is there before the
 * first: what the engine has compiled for one makes the next one start fast.
 */
export class RunWorker {
  private worker: Worker | null = null;
  private listener: Listener | null = null;
  private idle: NodeJS.Timeout | null = null;

  /** Starts a worker that runs itself in. */
  warmUp(): void {
    this.worker ??= this.open();
  }

  run(task: RunTask, listener: Listener): void {
    if (this.idle) clearTimeout(this.idle);
    this.listener = listener;
    this.worker ??= this.open();
    this.worker.postMessage(task);
  }

  /** Stops whatever it does; the next run gets a fresh one. */
  async terminate(): Promise<void> {
    const { worker } = this;
    this.worker = null;
    this.listener = null;
    await worker?.terminate();
  }

  /** Stops whatever it does and has a fresh one run itself in. */
  async replace(): Promise<void> {
    await this.terminate();
    this.warmUp();
  }

  private open(): Worker {
    const worker = startWorker('run', WARM_UP);
    worker.unref();
    const lost = (why: string) => {
      if (this.worker !== worker) return;
      this.worker = null;
      const { listener } = this;
      this.listener = null;
      listener?.lost(why);
    };
    worker.on('message', (message: RunMessage) => {
      if (this.worker !== worker) return;
      const { listener } = this;
      if (ENDS.has(message.type)) this.rest();
      listener?.message(message);
    });
    worker.on('error', (error) => lost(`The solver stopped: ${error.message}`));
    worker.on('exit', () => lost('The solver stopped before it was done.'));
    return worker;
  }

  private rest(): void {
    this.listener = null;
    this.idle = setTimeout(() => void this.replace(), IDLE_MS);
    this.idle.unref();
  }
}

const ENDS = new Set<RunMessage['type']>(['done', 'refused', 'failed', 'cancelled']);
