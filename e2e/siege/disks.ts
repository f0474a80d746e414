import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { RunView } from '../../src/runtime/wire';
import { App, sleep } from '../app';
import { ask, trayOf } from './clients';

export interface Disks {
  /** How a run is told that waits for room. */
  waits: string;
  /** How it ended when there was room again. */
  after: string;
  /** How one ended that met the end of the room on its way. */
  met: string;
  /** How the next one ended when there was room again. */
  next: string;
  /** What an edit on a full disk is told. */
  edit: string;
  /** And its status when there is room again. */
  taken: number;
}

const mount = (...args: string[]) => spawnSync('mount', args).status === 0;

/** A small disk of its own that is filled under a server; null where none may be mounted. */
export async function fill(): Promise<Disks | null> {
  const disk = mkdtempSync(path.join(os.tmpdir(), 'bellows-disk-'));
  if (!mount('-t', 'tmpfs', '-o', 'size=120m', 'tmpfs', disk)) {
    rmSync(disk, { recursive: true });
    return null;
  }
  const server = new App(path.join(disk, 'data'));
  try {
    return await onDisk(server, disk);
  } finally {
    await server.kill();
    spawnSync('umount', ['-l', disk]);
    rmSync(disk, { recursive: true, force: true });
  }
}

async function onDisk(server: App, disk: string): Promise<Disks> {
  const ballast = path.join(disk, 'ballast');
  const leave = (bytes: number) => {
    const { bavail, bsize } = statfsSync(disk);
    writeFileSync(ballast, Buffer.alloc(Math.max(0, bavail * bsize - bytes)));
  };
  await server.start({ BELLOWS_SPARE_MB: '5' });
  let variant = await trayOf(server);
  const edit = async (meltTemperature: number) => {
    const cycle = { ...variant.inputs.cycle, meltTemperature };
    const inputs = { ...variant.inputs, cycle, detail: 'quick' as const, upTo: 'fill' as const };
    variant = await ask(server, `/api/variants/${variant.id}`, 'PATCH', { version: variant.version, inputs });
  };
  await edit(500);
  const begin = () => ask<RunView>(server, '/api/runs', 'POST', { variantId: variant.id });
  const ended = async (run: RunView): Promise<RunView> => {
    for (;;) {
      const now = await ask<RunView>(server, `/api/runs/${run.id}`);
      if (now.status !== 'queued' && now.status !== 'running') return now;
      await sleep(200);
    }
  };
  const outcome = ({ status, problems }: RunView) => `${status}${problems?.length ? `: ${problems[0].message}` : ''}`;

  leave(3e6);
  const waiting = await begin();
  const waits = await firstMessage(server, waiting.id);
  rmSync(ballast);
  const after = outcome(await ended(waiting));

  await edit(505);
  const meeting = await begin();
  while ((await ask<RunView>(server, `/api/runs/${meeting.id}`)).status === 'queued') await sleep(20);
  // Without what would give way.
  rmSync(path.join(server.data, 'phases'), { recursive: true, force: true });
  leave(5e5);
  const met = outcome(await ended(meeting));
  rmSync(ballast);
  const next = outcome(await ended(await begin()));

  leave(0);
  const change = () => {
    const body = JSON.stringify({ version: variant.version, name: 'Full' });
    const headers = { 'content-type': 'application/json' };
    return fetch(`${server.url}/api/variants/${variant.id}`, { method: 'PATCH', headers, body });
  };
  // The journal has some room of its own: edits are taken until that is used up.
  let refused = '';
  for (let k = 0; k < 2000 && !refused; k++) {
    const answer = await change();
    if (answer.ok) variant = (await answer.json()) as typeof variant;
    else refused = `${answer.status}: ${((await answer.json()) as { message: string }).message}`;
  }
  rmSync(ballast);
  const { status: taken } = await change();
  const plain = (text: string) => text.replaceAll(path.join(disk, 'data'), 'DATA');
  return {
    waits: plain(waits),
    after,
    met: plain(met),
    next,
    edit: plain(refused),
    taken,
  };
}

/** What the stream of a run first says of its progress. */
async function firstMessage(server: App, id: string): Promise<string> {
  const response = await fetch(`${server.url}/api/runs/${id}/events`);
  let text = '';
  const decoder = new TextDecoder();
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    text += decoder.decode(chunk);
    const message = /"type":"progress".*?"message":"([^"]*)"/.exec(text)?.[1];
    // Leaving the loop lets go of the stream.
    if (message) return message;
  }
  return '';
}
