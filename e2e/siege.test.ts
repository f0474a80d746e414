import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { App } from './app';
import { besiege } from './siege/clients';
import { fill } from './siege/disks';
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

  it('waits for room, says when there is none, and goes on when there is', async (context) => {
    const disks = await fill();
    // Where nothing may be mounted there is nothing to see.
    if (!disks) return context.skip();
    expect(disks).toEqual({
      waits: 'Waits for room: 5 MB are wanted in DATA. Delete runs (page Data), or free some there.',
      after: 'filled',
      met: 'failed: There is no room left for the data of Bellows (DATA).',
      next: 'filled',
      edit: '507: There is no room left for the data of Bellows (DATA).',
      taken: 200,
    });
  });
});
