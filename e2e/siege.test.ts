import { readdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunView } from '../src/runtime/wire';
import { App, sleep } from './app';
import { ask, besiege, trayOf } from './siege/clients';
import { kill } from './siege/kills';
import { mutate } from './siege/requests';
import { upload } from './siege/uploads';

/** A fraction of `npm run siege`. */
const NICE = { BELLOWS_NICE: '5' };
const server = new App();
beforeAll(() => server.start(NICE));
afterAll(() => server.stop());

describe('a server under siege', () => {
  it('refuses requests that are wrong in one place, and says where', async () => {
    const { nSent, nRefused, nTaken, faults, unclear } = await mutate(server, 150, 2);
    expect([nSent, nRefused + nTaken]).toEqual([150, 150]);
    expect([...faults, ...unclear]).toEqual([]);
    expect(nRefused).toBeGreaterThan(100);
  });

  it('reads or refuses every broken file', async () => {
    const { nRead, nRefused, faults, growth_MB } = await upload(server, 16, 2, false);
    expect(nRead + nRefused).toBe(16);
    expect(nRefused).toBeGreaterThan(5);
    expect(faults).toEqual([]);
    expect(growth_MB).toBeLessThan(1000);
  });

  it('answers clients with streams and edits while runs go', async () => {
    const load = await besiege(server, {
      nClients: 10,
      rounds: 1,
      seconds: 6,
      run: { detail: 'quick', upTo: 'fill' },
    });
    expect(load.nErrors).toBe(0);
    expect(load.nEdits).toBeGreaterThan(15);
    expect(load.nRuns).toBeGreaterThan(0);
  });

  it('keeps what it has acknowledged when it is killed', async () => {
    const { nEdits, nLost, damage } = await kill(server, 2, 2);
    expect(nEdits).toBeGreaterThan(5);
    expect([nLost, damage]).toEqual([0, []]);
  });

  it('says what to free when a result finds no room, and goes on', async () => {
    // On a disk that is full in truth `npm run siege` does more: it takes the right to mount one.
    const small = new App();
    try {
      await small.start({}, 2000);
      const { id, version, inputs } = await trayOf(small);
      const quick = { ...inputs, detail: 'quick', upTo: 'fill' };
      await ask(small, `/api/variants/${id}`, 'PATCH', { version, inputs: quick });
      const ended = async (): Promise<RunView> => {
        const { id: run } = await ask<RunView>(small, '/api/runs', 'POST', { variantId: id });
        for (;;) {
          const now = await ask<RunView>(small, `/api/runs/${run}`);
          if (now.status !== 'queued' && now.status !== 'running') return now;
          await sleep(100);
        }
      };
      for (const { status, problems } of [await ended(), await ended()]) {
        expect(status).toBe('failed');
        expect(problems?.[0].message).toBe(`There is no room left for the data of Bellows (${small.data}).`);
      }
      // Nothing of them is left.
      expect(readdirSync(path.join(small.data, 'runs'))).toEqual([]);
      await small.end();
      await small.start();
      expect((await ended()).status).toBe('filled');
    } finally {
      await small.stop();
    }
  });
});
