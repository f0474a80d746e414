import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { BalanceAsk } from '@/core/model/balanceAsk';
import { emptyInputs } from '@/core/model/study';
import type { BalanceReport } from '@/core/pipeline/balanceStudy';
import { cancelBalance, startBalance, useBalance } from './balance';

const STATE = {
  groups: [],
  timeSpread: 0.1,
  pressureSpread: 0.2,
  pressure: 5e7,
  pressureAtFirst: 4e7,
  clampForce: 1e5,
  feedVolume: 1e-6,
};
const REPORT: BalanceReport = { rows: [], before: STATE, after: STATE, trail: [0.1], reached: true };
const ASK = { goal: 'balance', bounds: { min: 0.002, max: 0.01 }, own: {} } as unknown as BalanceAsk;

/** Searches that the server was asked for, each answered when the test says so. */
let searches: { say: (line: unknown) => void; aborted: boolean }[];
beforeEach(() => {
  searches = [];
  useBalance.setState(useBalance.getInitialState(), true);
  vi.stubGlobal('fetch', (_url: string, init: RequestInit) => {
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        const own = {
          aborted: false,
          say: (line: unknown) => controller.enqueue(new TextEncoder().encode(`${JSON.stringify(line)}\n`)),
        };
        init.signal?.addEventListener('abort', () => {
          own.aborted = true;
          controller.error(init.signal?.reason);
        });
        searches.push(own);
      },
    });
    return Promise.resolve(new Response(stream));
  });
});
afterEach(() => vi.unstubAllGlobals());
const state = () => useBalance.getState();
const started = () => vi.waitFor(() => expect(searches.length).toBeGreaterThan(0));

describe('the search for diameters', () => {
  it('tells how far it is, and what it found for which inputs', async () => {
    const inputs = emptyInputs();
    const search = startBalance(inputs, ASK);
    await started();
    expect(state().running).toMatchObject({ fraction: 0, message: 'Starting' });
    searches[0].say({ type: 'progress', fraction: 0.3, message: 'Trial 3' });
    await vi.waitFor(() => expect(state().running?.fraction).toBe(0.3));
    searches[0].say({ type: 'done', result: REPORT });
    await search;
    expect(state()).toMatchObject({ running: null, report: REPORT, problem: null });
    expect(state().of).toBe(inputs);
  });

  it('that is refused says why; the next one begins without that', async () => {
    const search = startBalance(emptyInputs(), ASK);
    await started();
    searches[0].say({ type: 'failed', message: 'It does not fill.', remedy: 'Wider runners.' });
    await search;
    expect(state()).toMatchObject({
      running: null,
      problem: { message: 'It does not fill.', remedy: 'Wider runners.' },
    });
    const next = startBalance(emptyInputs(), ASK);
    expect(state().problem).toBeNull();
    await vi.waitFor(() => expect(searches).toHaveLength(2));
    searches[1].say({ type: 'done', result: REPORT });
    await next;
    expect(state().report).toEqual(REPORT);
  });

  it('that is called off ends without a word', async () => {
    const search = startBalance(emptyInputs(), ASK);
    await started();
    cancelBalance();
    await search;
    expect(searches[0].aborted).toBe(true);
    expect(state()).toMatchObject({ running: null, report: null, problem: null });
  });

  it('takes the place of one that is under way, whose end changes nothing any more', async () => {
    const first = startBalance(emptyInputs(), ASK);
    await started();
    const second = startBalance(emptyInputs(), ASK);
    await first;
    await vi.waitFor(() => expect(searches).toHaveLength(2));
    expect(searches[0].aborted).toBe(true);
    expect(state().running).not.toBeNull();
    searches[1].say({ type: 'done', result: REPORT });
    await second;
    expect(state()).toMatchObject({ running: null, report: REPORT });
  });
});
