import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import type { Route } from '@/runtime/wire';
import { REQUEST_ID } from '@/server/callers';
import { log } from '@/server/log';
import { RequestError } from '@/server/requestError';
import { handle, respond } from './respond';

const logged: unknown[] = [];
beforeAll(() => void vi.spyOn(log, 'error').mockImplementation((what: unknown) => void logged.push(what)));
afterAll(() => vi.restoreAllMocks());

const request = () => new Request('http://localhost/api/x', { headers: { [REQUEST_ID]: '1a2b3c4d' } });
const said = async (error: unknown) => {
  const response = await respond(request(), () => Promise.reject(error as Error));
  return {
    status: response.status,
    ...((await response.json()) as { message: string; remedy: string; now?: unknown }),
  };
};

describe('what a request is told', () => {
  it('a refusal as it is, with what the page goes on from', async () => {
    const told = await said(new RequestError('stale', 'again', 409, { version: 3 }));
    expect(told).toEqual({ status: 409, message: 'stale', remedy: 'again', now: { version: 3 } });
  });

  it('of an unexpected fault its number alone; the log has the rest under it', async () => {
    const secret = new Error('Failed query: select * from runs where /home/somebody');
    const { status, message, remedy } = await said(secret);
    expect(status).toBe(500);
    expect(`${message} ${remedy}`).not.toMatch(/select|home/);
    expect(message).toContain('(fault 1a2b3c4d)');
    expect(logged.at(-1)).toEqual({ id: '1a2b3c4d', error: secret });
  });

  it('of a full disk the folder and what to do', async () => {
    const full = new Error('Failed query', { cause: Object.assign(new Error('full'), { code: 'SQLITE_FULL' }) });
    const told = await said(full);
    expect(told.status).toBe(507);
    expect(told.message).toMatch(/no room left .*data/);
  });

  it.each([
    [z.string().safeParse(3).error, 'Correct the value.'],
    [new SyntaxError('Unexpected token'), 'Reload the page.'],
  ])('of what is not understood what to do: %s', async (error, remedy) => {
    expect(await said(error)).toMatchObject({ status: 400, remedy });
  });
});

describe('what is sent', () => {
  const route: Route<{ name: string }, unknown> = {
    method: 'POST',
    path: '/api/x',
    sent: z.strictObject({ name: z.string() }),
    answer: z.unknown(),
  };
  const send = (body: BodyInit, headers: Record<string, string>) => {
    const init = { method: 'POST', body, headers, duplex: 'half' } as RequestInit;
    return handle(route, (sent) => Promise.resolve(sent))(new Request('http://localhost/api/x', init), {
      params: Promise.resolve({}),
    });
  };
  const json = { 'content-type': 'application/json; charset=utf-8' };

  it('comes to the handler parsed, letters of several bytes too', async () => {
    const text = new TextEncoder().encode('{ "name": "Käfig" }');
    const pieces = new ReadableStream({
      start(controller) {
        for (const byte of text) controller.enqueue(Uint8Array.of(byte));
        controller.close();
      },
    });
    expect(await (await send(pieces, json)).json()).toEqual({ name: 'Käfig' });
  });

  it('is read no further than it may be long, whatever it says of itself', async () => {
    let read = 0;
    const endless = new ReadableStream({
      pull(controller) {
        read++;
        controller.enqueue(new Uint8Array(2 ** 20).fill(32));
      },
    });
    expect((await send(endless, json)).status).toBe(413);
    expect(read).toBeLessThan(14);
    expect((await send('{}', { ...json, 'content-length': '99999999' })).status).toBe(413);
  });

  it('must say that it is JSON', async () => {
    for (const type of ['text/plain', 'application/x-www-form-urlencoded', 'multipart/form-data', ''])
      expect((await send('{ "name": "x" }', { 'content-type': type })).status).toBe(415);
  });
});
