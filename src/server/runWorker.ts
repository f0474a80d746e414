import type { Worker } from 'node:worker_threads';
import { WARM_UP, type RunMessage, type RunTask } from '../runtime/protocol';
import { log } from './log';
import { outOfMemory, startWorker } from './workers';

/** A worker that has run is replaced by a fresh one after this long: its memory is worth more by then. */
const IDLE_MS = 120_000;

/** A run that reports nothing for so long hangs: its stages report many times a minute. */
const SILENT_MS = 20 * 60_000;
const WATCH_MS = 15_000;

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
  private watch: NodeJS.Timeout | null = null;
  /** When it last said something, ms. */
  private heard = 0;

  /** Starts a worker that runs itself in. */
  warmUp(): void {
    this.worker ??= this.open();
  }

  run(task: RunTask, listener: Listener): void {
    if (this.idle) clearTimeout(this.idle);
    this.listener = listener;
    this.worker ??= this.open();
    this.heard = Date.now();
    this.watch ??= setInterval(() => this.look(), WATCH_MS).unref();
    this.worker.postMessage(task);
  }

  /** Gives a worker up that has work and says nothing. */
  private look(): void {
    const { listener } = this;
    if (!listener || Date.now() - this.heard < SILENT_MS) return;
    void this.replace();
    listener.lost(`The solver has said nothing for ${SILENT_MS / 60_000} minutes.`);
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
    this.heard = Date.now();
    const lost = (why: string) => {
      if (this.worker !== worker) return;
      this.worker = null;
      const { listener } = this;
      this.listener = null;
      listener?.lost(why);
    };
    worker.on('message', (message: RunMessage) => {
      if (this.worker !== worker) return;
      this.heard = Date.now();
      const { listener } = this;
      if (ENDS.has(message.type)) this.rest();
      listener?.message(message);
    });
    worker.on('error', (error) => {
      log.error({ error }, 'run worker');
      lost(
        outOfMemory(error)
          ? 'The solver needs more memory than it may take.'
          : 'The solver stopped before it was done.',
      );
    });
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
