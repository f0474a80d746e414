import { vi } from 'vitest';

/**
 * A worker in the page, for tests: the real one's answers to what is posted, handed on one by one when asked for.
 * `load` imports the worker's module. To be undone by `vi.unstubAllGlobals` and `vi.resetModules`.
 */
export async function workerHere<Task, Answer>(load: () => Promise<unknown>): Promise<() => boolean> {
  const answers: { of: number; data: Answer }[] = [];
  const workers: { onmessage: (e: { data: Answer }) => void }[] = [];
  let asked = 0;
  const self = {
    onmessage: null as ((e: { data: Task }) => void) | null,
    postMessage: (data: Answer) => answers.push({ of: asked, data }),
  };
  vi.stubGlobal('self', self);
  await load();
  vi.stubGlobal(
    'Worker',
    class {
      private readonly number = workers.length;
      onmessage = () => {};
      constructor() {
        workers.push(this);
      }
      postMessage(data: Task) {
        asked = this.number;
        self.onmessage?.({ data });
      }
      terminate() {}
    },
  );
  return () => {
    const next = answers.shift();
    if (next) workers[next.of].onmessage({ data: next.data });
    return next !== undefined;
  };
}
