import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { inPauses } from './idle';

/** Pauses of so many ms; each part of the work below takes 5. */
let pauses: IdleRequestCallback[] = [];
let clock = 0;
const pause = (length: number) => {
  const [go, ...later] = pauses;
  pauses = later;
  const end = clock + length;
  go?.({ didTimeout: false, timeRemaining: () => Math.max(0, end - clock) });
};

beforeEach(() => {
  pauses = [];
  vi.stubGlobal('requestIdleCallback', (go: IdleRequestCallback) => pauses.push(go));
});
afterEach(() => void vi.unstubAllGlobals());

const work = (name: string, parts: number, done: string[]) => () => {
  clock += 5;
  done.push(name);
  return --parts > 0;
};

describe('work in the pauses of the page', () => {
  it('takes turns, a part at least a pause, and as many as fit', () => {
    const done: string[] = [];
    inPauses(work('a', 3, done));
    inPauses(work('b', 2, done));
    expect(done).toEqual([]);
    pause(1);
    expect(done.join('')).toBe('a');
    pause(16);
    expect(done.join('')).toBe('aba');
    pause(50);
    expect(done.join('')).toBe('ababa'.slice(0, 5));
    // Nothing is asked for once all is done.
    expect(pauses).toEqual([]);
  });

  it('ends when it is told to, and goes on with the rest', () => {
    const done: string[] = [];
    const stop = inPauses(work('a', 9, done));
    pause(1);
    inPauses(work('b', 1, done));
    stop();
    pause(50);
    expect(done).toEqual(['a', 'b']);
  });

  it('goes on where the browser knows no pauses', async () => {
    vi.stubGlobal('requestIdleCallback', undefined);
    const done: string[] = [];
    inPauses(work('a', 2, done));
    await vi.waitFor(() => expect(done).toEqual(['a', 'a']));
  });
});
