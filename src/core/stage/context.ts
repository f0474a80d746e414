/** What a stage may ask of its host: nothing but to report, to yield and to be told to stop. */
export interface StageContext {
  readonly signal: AbortSignal;
  report(progress: StageProgress): void;
  /**
   * Call once per step, never per cell. Yields a macrotask about every 30 ms so that an abort message
   * is seen, and throws AbortError when there was one.
   */
  checkpoint(): Promise<void>;
  /** Starts a second thread for half of a heavy loop; null where there is none to give. Ended by who asked. */
  readonly secondThread?: () => SecondThread | null;
}

/** A thread that runs `serveKernel` in every memory it is sent. */
export interface SecondThread {
  post(memory: WebAssembly.Memory): void;
  end(): void;
}

export type StageName = 'grid' | 'cool' | 'fill' | 'pack' | 'warp' | 'grid-error';

export interface StageProgress {
  stage: StageName;
  /** 0..1 within the stage */
  fraction: number;
  message: string;
  /** From 1; absent for the only one. */
  shot?: number;
  /** Nodes whose fill time became known since the last report, with the times [s]. */
  filled?: { nodes: Int32Array; times: Float32Array };
}

export class AbortError extends Error {
  constructor() {
    super('The run was cancelled.');
    this.name = 'AbortError';
  }
}

/** A context for scripts and tests: never aborts unless told, reports to the given function. */
export function plainContext(
  report: (progress: StageProgress) => void = () => {},
  signal: AbortSignal = new AbortController().signal,
  secondThread?: () => SecondThread | null,
): StageContext {
  let last = performance.now();
  return {
    signal,
    report,
    secondThread,
    async checkpoint() {
      if (performance.now() - last > 30) {
        await new Promise<void>((resolve) => setImmediate(resolve));
        last = performance.now();
      }
      if (signal.aborted) throw new AbortError();
    },
  };
}
