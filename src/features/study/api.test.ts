import { afterEach, describe, expect, it, vi } from 'vitest';
import { emptyInputs } from '@/core/model/study';
import type { CycleReport } from '@/core/pipeline/cycleStudy';
import { api } from './api';

afterEach(() => vi.unstubAllGlobals());

/** A server that answers a stream in these pieces, and may break off after them. */
function answers(pieces: string[], breaks = false): void {
  const encoder = new TextEncoder();
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(
        new ReadableStream<Uint8Array>({
          async start(controller) {
            for (const piece of pieces) {
              controller.enqueue(encoder.encode(piece));
              await Promise.resolve();
            }
            if (breaks) controller.error(new TypeError('network error'));
            else controller.close();
          },
        }),
      ),
    ),
  );
}
const REPORT: CycleReport = {
  sweep: [{ injectionTime: 1, pressure: null, frontCooling: 2.5 }],
  injectionTime: 1,
  packing: { pressure: 2e7, time: 8 },
  coolingTime: 9,
  cycleTime: 20,
  gateFrozenAt: null,
  inputs: emptyInputs(),
};
const asked = (seen: string[] = []) =>
  api.cycle(emptyInputs(), (share, message) => seen.push(`${share} ${message}`), new AbortController().signal);

describe('a streamed answer', () => {
  it('is read line by line however it comes in pieces, letters of several bytes too', async () => {
    const seen: string[] = [];
    const line = JSON.stringify({ type: 'progress', fraction: 0.5, message: '60 °C' });
    const bytes = new TextEncoder().encode(`${line}\n${JSON.stringify({ type: 'done', result: REPORT })}\n`);
    vi.stubGlobal('fetch', () =>
      Promise.resolve(
        new Response(
          new ReadableStream<Uint8Array>({
            start(controller) {
              // Byte by byte: the degree sign is cut in two.
              for (const byte of bytes) controller.enqueue(Uint8Array.of(byte));
              controller.close();
            },
          }),
        ),
      ),
    );
    expect(await asked(seen)).toEqual(REPORT);
    expect(seen).toEqual(['0.5 60 °C']);
  });

  it('that refuses says why and what to do', async () => {
    answers([`${JSON.stringify({ type: 'failed', message: 'No gate.', remedy: 'Set one.' })}\n`]);
    await expect(asked()).rejects.toMatchObject({ message: 'No gate.', remedy: 'Set one.' });
  });

  it.each([
    ['ends early', ['{"type":"progress","fraction":0.1,"message":"Trying"}\n'], false],
    ['breaks off', ['{"type":"progress","fraction":0.1,"message":"Trying"}\n'], true],
    ['breaks off within a line', ['{"type":"done","res'], false],
  ])('that %s is told as one', async (_name, pieces, breaks) => {
    answers(pieces, breaks);
    await expect(asked()).rejects.toMatchObject({
      message: 'The server stopped before the work was done.',
      remedy: 'Try again.',
    });
  });

  it('that is no stream at all tells what came instead', async () => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve(Response.json({ message: 'Too large.', remedy: 'Less.' }, { status: 413 })),
    );
    await expect(asked()).rejects.toMatchObject({ message: 'Too large.', remedy: 'Less.' });
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('<html>', { status: 502 })));
    await expect(asked()).rejects.toMatchObject({ message: 'The server answered 502.' });
  });

  it('that was called off ends as called off, not as a failure of the server', async () => {
    const abort = new AbortController();
    vi.stubGlobal('fetch', (_url: string, init: RequestInit) =>
      Promise.resolve(
        new Response(
          new ReadableStream({
            start: (controller) => init.signal?.addEventListener('abort', () => controller.error(init.signal?.reason)),
          }),
        ),
      ),
    );
    const answer = api.cycle(emptyInputs(), () => undefined, abort.signal);
    setTimeout(() => abort.abort(), 5);
    await expect(answer).rejects.toMatchObject({ name: 'AbortError' });
  });
});

describe('a plain request', () => {
  it('tells a refusal in the words of the server, and one without words by its number', async () => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve(Response.json({ message: 'Gone.', remedy: 'Reload.' }, { status: 404 })),
    );
    await expect(api.runById('r')).rejects.toMatchObject({ message: 'Gone.', remedy: 'Reload.' });
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('', { status: 500 })));
    await expect(api.runById('r')).rejects.toMatchObject({ message: 'The server answered 500.', remedy: 'Try again.' });
  });

  it('that nobody answers says that the server is not there', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')));
    await expect(api.runById('r')).rejects.toMatchObject({ message: 'The server does not answer.' });
    await expect(api.binary('/api/geometries/x')).rejects.toMatchObject({ message: 'The server does not answer.' });
  });

  it('whose answer is of another version says so, and where', async () => {
    vi.spyOn(console, 'error').mockImplementation(() => undefined);
    vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ id: 'r', status: 'melting' })));
    await expect(api.runById('r')).rejects.toMatchObject({
      message: expect.stringContaining('does not understand'),
      remedy: 'Reload the page: one of them is of another version.',
    });
    answers([`${JSON.stringify({ type: 'done', result: { ...REPORT, cycleTime: 'long' } })}\n`]);
    await expect(asked()).rejects.toMatchObject({ message: expect.stringContaining('(at cycleTime)') });
  });
});
