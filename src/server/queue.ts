import { createHash } from 'node:crypto';
import { rmSync } from 'node:fs';
import { eq, inArray } from 'drizzle-orm';
import { cavities, otherBodies } from '../core/model/study';
import { planOf, RunProgress, type RunPlan } from '../core/pipeline/progress';
import type { RunMessage, RunTask } from '../runtime/protocol';
import type { RunEventWire, RunStatus } from '../runtime/wire';
import type { Database } from '../store/db/client';
import { runs } from '../store/db/schema';
import { isFull, storageProblem } from '../runtime/files';
import { dataDir, meshPath, phaseDir, runDir } from '../store/paths';
import { roomLeft } from '../store/usage';
import { log } from './log';
import { RunWorker } from './runWorker';

/** What a page hears about a run, in order; `id` lets it pick up after a lost connection. */
export type RunEvent =
  Exclude<RunEventWire, { type: 'filled' }> | { id: number; type: 'filled'; nodes: Int32Array; times: Float32Array };

type Unnumbered<T> = T extends unknown ? Omit<T, 'id'> : never;

interface Job {
  runId: string;
  /** Nobody has asked for it. */
  aside: boolean;
  /** It is stopped to make way for another, and waits again then. */
  makesWay: boolean;
  events: RunEvent[];
  listeners: Set<(event: RunEvent) => void>;
  closers: Set<() => void>;
  cancel: SharedArrayBuffer;
  startedAt: number;
  progress: RunProgress;
  ended: boolean;
}

const FORCE_STOP_MS = 900;
/** Ended jobs stay readable for late listeners; the rest is in the database. */
const KEPT_JOBS = 20;
/** Between attempts to write how a run ended, and to start one when there was no room. */
const RETRY_MS = 5000;
/** Room that a run wants before it starts, bytes: results of a large part at Detail fine. BELLOWS_SPARE_MB sets it. */
const SPARE = 300e6;
const spare = () => (process.env.BELLOWS_SPARE_MB ? Number(process.env.BELLOWS_SPARE_MB) * 1e6 : SPARE);
const NOTHING_KNOWN: RunPlan = { cools: false, packs: true, shape: true, gridError: true };

/** One run at a time, in the order asked for; those that nobody has asked for come last, and make way when one is. */
export class RunQueue {
  private readonly jobs = new Map<string, Job>();
  private readonly waiting: string[] = [];
  private active: Job | null = null;
  private readonly worker = new RunWorker();
  /** How runs ended that could not be written yet. */
  private readonly unwritten = new Map<string, Partial<typeof runs.$inferInsert>>();
  private retry: NodeJS.Timeout | null = null;
  private wait: NodeJS.Timeout | null = null;
  /** The process ends: nothing is started any more. */
  private stopping = false;

  constructor(private readonly db: Database) {}

  /** After a start: what ran when the server stopped is marked interrupted, what waited is queued again. */
  async recover(): Promise<void> {
    await this.db.update(runs).set({ status: 'interrupted', finishedAt: new Date() }).where(eq(runs.status, 'running'));
    const queued = await this.db
      .select()
      .from(runs)
      .where(inArray(runs.status, ['queued']));
    queued
      .sort((a, b) => a.createdAt.getTime() - b.createdAt.getTime())
      .forEach((run) => this.enqueue(run.id, run.aside));
  }

  /** Has a worker run itself in before the first run. */
  warmUp(): void {
    this.worker.warmUp();
  }

  enqueue(runId: string, aside = false): void {
    const job: Job = {
      runId,
      aside,
      makesWay: false,
      events: [],
      listeners: new Set(),
      closers: new Set(),
      cancel: new SharedArrayBuffer(4),
      startedAt: 0,
      progress: new RunProgress(NOTHING_KNOWN),
      ended: false,
    };
    this.jobs.set(runId, job);
    this.emit(job, { type: 'status', status: 'queued' });
    this.line(job);
    if (!aside && this.active?.aside) this.stopActive(this.active, true);
    void this.next();
  }

  /** Puts a job at the end of the line; one that somebody has asked for before those that nobody has. */
  private line(job: Job): void {
    const behind = job.aside ? -1 : this.waiting.findIndex((id) => this.jobs.get(id)?.aside);
    this.waiting.splice(behind < 0 ? this.waiting.length : behind, 0, job.runId);
  }

  /** Somebody asks for a run that stood back: it comes behind the others that somebody has asked for. */
  ask(runId: string): void {
    const job = this.jobs.get(runId);
    if (!job?.aside) return;
    job.aside = false;
    const place = this.waiting.indexOf(runId);
    if (place < 0) return;
    this.waiting.splice(place, 1);
    this.line(job);
    if (this.active?.aside) this.stopActive(this.active, true);
  }

  /** Asks the run to stop; it is gone within a second even when it does not listen. */
  async cancel(runId: string): Promise<void> {
    const job = this.jobs.get(runId);
    if (!job || job.ended) return;
    const place = this.waiting.indexOf(runId);
    if (place >= 0) {
      this.waiting.splice(place, 1);
      await this.end(job, 'cancelled');
      return;
    }
    this.stopActive(job, false);
  }

  /** Asks the job that runs to stop, for good or to make way; it is gone within a second even when it does not listen. */
  private stopActive(job: Job, makesWay: boolean): void {
    job.makesWay = makesWay;
    const flag = new Int32Array(job.cancel);
    if (Atomics.exchange(flag, 0, 1)) return;
    setTimeout(() => {
      if (this.active === job && Atomics.load(flag, 0)) void this.worker.replace().then(() => this.stopped(job));
    }, FORCE_STOP_MS);
  }

  /** What a job that has stopped since it was asked to comes to. */
  private async stopped(job: Job): Promise<void> {
    if (!job.makesWay) return this.end(job, 'cancelled');
    if (this.active !== job) return;
    this.active = null;
    job.makesWay = false;
    Atomics.store(new Int32Array(job.cancel), 0, 0);
    await this.db.update(runs).set({ status: 'queued', startedAt: null }).where(eq(runs.id, job.runId));
    // What it had told so far is told anew.
    job.events = job.events.slice(-1);
    this.emit(job, { type: 'status', status: 'queued' });
    this.line(job);
    void this.next();
  }

  /**
   * Calls back with the events after `afterId` and everything that follows; returns how to stop, null for a run of an
   * earlier life. `close` is called when nothing will follow since the process ends.
   */
  subscribe(
    runId: string,
    afterId: number,
    listener: (event: RunEvent) => void,
    close: () => void = () => {},
  ): (() => void) | null {
    const job = this.jobs.get(runId);
    if (!job) return null;
    job.events.filter((e) => e.id > afterId).forEach(listener);
    job.listeners.add(listener);
    job.closers.add(close);
    return () => {
      job.listeners.delete(listener);
      job.closers.delete(close);
    };
  }

  /** How many runs there are: the one that runs, and those that wait. */
  get load(): { running: number; waiting: number } {
    return { running: this.active ? 1 : 0, waiting: this.waiting.length };
  }

  /**
   * Before the process ends: the run that is under way goes back to those that wait, so that the next start takes it up.
   * Who listens is let go.
   */
  async stop(): Promise<void> {
    this.stopping = true;
    if (this.wait) clearTimeout(this.wait);
    const job = this.active;
    await this.worker.terminate();
    if (job && !job.ended) {
      job.ended = true;
      await this.db.update(runs).set({ status: 'queued', startedAt: null }).where(eq(runs.id, job.runId));
    }
    await this.writeEnds();
    if (this.retry) clearTimeout(this.retry);
    for (const { closers } of this.jobs.values()) closers.forEach((close) => close());
  }

  private async next(): Promise<void> {
    if (this.active || this.wait || this.stopping || !this.waiting.length) return;
    const job = this.jobs.get(this.waiting[0]) as Job;
    const lacking = this.lackingRoom();
    if (lacking) return this.waitForRoom(job, lacking);
    this.waiting.shift();
    this.active = job;
    try {
      await this.start(job);
    } catch (error) {
      log.error({ error, run: job.runId }, 'run could not start');
      const storage = storageProblem(error, dataDir());
      if (isFull(error)) {
        // It has not begun: it waits with the others.
        this.active = null;
        this.waiting.unshift(job.runId);
        return this.waitForRoom(job, storage?.message ?? '');
      }
      await this.fail(job, storage?.message ?? 'The run could not start.', storage?.remedy ?? 'Try again.');
    }
  }

  /** Why no run may start; null when there is room, if need be after what can be calculated again has gone. */
  private lackingRoom(): string | null {
    try {
      if (roomLeft() >= spare()) return null;
      rmSync(phaseDir(), { recursive: true, force: true });
      if (roomLeft() >= spare()) return null;
    } catch {
      // What is wrong with the folder shows when the run begins.
      return null;
    }
    return `Waits for room: ${Math.round(spare() / 1e6)} MB are wanted in ${dataDir()}. Delete runs (page Data), or free some there.`;
  }

  /** Tells why the next run does not start, and looks again after a while. */
  private waitForRoom(job: Job, message: string): void {
    this.emit(job, { type: 'progress', share: 0, message, remaining_s: null });
    this.wait = setTimeout(() => {
      this.wait = null;
      void this.next();
    }, RETRY_MS);
    this.wait.unref();
  }

  private async start(job: Job): Promise<void> {
    const [run] = await this.db.select().from(runs).where(eq(runs.id, job.runId));
    await this.db.update(runs).set({ status: 'running', startedAt: new Date() }).where(eq(runs.id, job.runId));
    this.emit(job, { type: 'status', status: 'running' });
    const meshes = cavities(run.inputs).map((b) => b.mesh);
    const { cavities: copies } = run.inputs;
    const named = meshes.join() + (copies ? JSON.stringify(copies) : '');
    const geometryKey = meshes.length === 1 && !copies ? meshes[0] : createHash('sha256').update(named).digest('hex');
    const task: RunTask = {
      meshPaths: meshes.map(meshPath),
      bodyPaths: Object.fromEntries(otherBodies(run.inputs).map((b) => [b.id, meshPath(b.mesh)])),
      geometryKey,
      inputs: run.inputs,
      outDir: runDir(job.runId),
      phaseDir: phaseDir(),
      cancel: job.cancel,
    };
    job.startedAt = Date.now();
    job.progress = new RunProgress(planOf(run.inputs));
    this.worker.run(task, {
      message: (message) => void this.receive(job, message),
      lost: (why) => void this.fail(job, why, 'Try a coarser Detail.'),
    });
  }

  private async receive(job: Job, message: RunMessage): Promise<void> {
    switch (message.type) {
      case 'progress': {
        const share = job.progress.share(message.stage, message.fraction, message.shot);
        return this.emit(job, {
          type: 'progress',
          share,
          message: message.message,
          remaining_s: remaining(job, share),
        });
      }
      case 'grid':
      case 'filled':
        return this.emit(job, message);
      case 'cancelled':
        return this.stopped(job);
      case 'refused':
        return this.end(job, 'failed', { problems: message.problems });
      case 'failed':
        if (message.detail) log.error({ run: job.runId, detail: message.detail }, 'fault of the solver');
        return this.fail(job, message.message, message.likely);
      case 'done': {
        const { summary, answers, status, later } = message.manifest;
        return this.end(job, status, { summary, answers, later: later?.length ? later : null });
      }
    }
  }

  private fail(job: Job, message: string, remedy: string): Promise<void> {
    return this.end(job, 'failed', { problems: [{ station: 'part', target: 'run', message, remedy }] });
  }

  private async end(job: Job, status: RunStatus, result: Partial<typeof runs.$inferInsert> = {}): Promise<void> {
    if (job.ended) return;
    job.ended = true;
    this.unwritten.set(job.runId, { status, finishedAt: new Date(), ...result });
    await this.writeEnds();
    this.emit(job, { type: 'status', status, problems: result.problems ?? undefined });
    // Who comes late wants to know how it ended; the course of it takes megabytes.
    job.events = job.events.slice(-1);
    if (this.active === job) this.active = null;
    const old = [...this.jobs.values()].filter((j) => j.ended);
    old.slice(0, Math.max(0, old.length - KEPT_JOBS)).forEach((j) => this.jobs.delete(j.runId));
    void this.next();
  }

  /** Writes how runs ended; what can not be written now, since the disk is full, is tried again until it can. */
  private async writeEnds(): Promise<void> {
    if (this.retry) clearTimeout(this.retry);
    this.retry = null;
    for (const [runId, outcome] of this.unwritten) {
      try {
        await this.db.update(runs).set(outcome).where(eq(runs.id, runId));
        this.unwritten.delete(runId);
      } catch (error) {
        log.error({ error, run: runId }, 'end of a run could not be written');
        this.retry = setTimeout(() => void this.writeEnds(), RETRY_MS);
        this.retry.unref();
        return;
      }
    }
  }

  private emit(job: Job, event: Unnumbered<RunEvent>): void {
    const numbered = { ...event, id: (job.events.at(-1)?.id ?? 0) + 1 } as RunEvent;
    // Only the newest progress matters to a late listener.
    if (event.type === 'progress' && job.events.at(-1)?.type === 'progress') job.events.pop();
    job.events.push(numbered);
    job.listeners.forEach((listener) => listener(numbered));
  }
}

/** Seconds left, from the time taken so far and the share of the work that is done. */
function remaining(job: Job, done: number): number | null {
  const elapsed = (Date.now() - job.startedAt) / 1000;
  return done > 0.03 && elapsed > 0.3 ? Math.max(0, (elapsed * (1 - done)) / done) : null;
}
