import { readFileSync } from 'node:fs';
import type { Inputs } from '../../src/core/model/study';
import type { ProjectView, RunView, VariantView } from '../../src/runtime/wire';
import { sleep, type App } from '../app';

export interface Load {
  nClients: number;
  nPolls: number;
  nEdits: number;
  nErrors: number;
  polls_ms: Spread;
  edits_ms: Spread;
  /** Runs that came to their end meanwhile. */
  nRuns: number;
  /** Resident memory of the server after each round, MB. */
  memory_MB: number[];
  /** Longest time in which the server took no request, ms. */
  stall_ms: number;
}

interface Spread {
  median: number;
  p99: number;
  longest: number;
}

export function spreadOf(times: readonly number[]): Spread {
  const sorted = [...times].sort((a, b) => a - b);
  const at = (share: number) => Math.round(sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0);
  return { median: at(0.5), p99: at(0.99), longest: at(1) };
}

const JSON_TYPE = { 'content-type': 'application/json' };

/** Between two requests of a client. */
const THINK_MS = 800;

/** Asks the server for JSON. @throws when it refuses. */
export async function ask<T>(server: App, path: string, method = 'GET', body?: unknown): Promise<T> {
  const response = await fetch(server.url + path, {
    method,
    headers: body === undefined ? {} : JSON_TYPE,
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
}

/** An answer read to its end but not understood: what that costs is the client's. @throws when it is a refusal. */
async function taken(asked: Promise<Response>): Promise<void> {
  const response = await asked;
  await response.arrayBuffer();
  if (!response.ok) throw new Error(`${response.url}: ${response.status}`);
}

/** Resident memory of a process, MB. */
export const memoryOf = (pid: number): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1000;

/** First variant of the Feeder tray, which can be run as it is. */
export async function trayOf(server: App): Promise<VariantView> {
  const projects = await ask<{ id: string; name: string }[]>(server, '/api/projects');
  const tray = projects.find((p) => p.name === 'Feeder tray');
  return (await ask<ProjectView>(server, `/api/projects/${tray?.id}`)).variants[0];
}

/** Something in a project that can be changed again and again. */
const edited = (inputs: Inputs, k: number): Inputs => ({
  ...inputs,
  cycle: { ...inputs.cycle, meltTemperature: 480 + (k % 40) },
});

/**
 * Clients that look at one of the projects, change a variant each and listen to a run, while runs go one after the other.
 * `rounds`: after each the memory is looked at.
 */
export async function besiege(
  server: App,
  { nClients, rounds, seconds, run }: { nClients: number; rounds: number; seconds: number; run: Partial<Inputs> },
): Promise<Load> {
  const projects = await ask<{ id: string }[]>(server, '/api/projects');
  const firsts: VariantView[] = [];
  for (const { id } of projects) firsts.push((await ask<ProjectView>(server, `/api/projects/${id}`)).variants[0]);
  const first = await trayOf(server);
  const own: VariantView[] = [];
  for (let k = 0; k < nClients; k++) {
    const parentId = firsts[k % firsts.length].id;
    own.push(await ask<VariantView>(server, '/api/variants', 'POST', { parentId, name: `Client ${k}` }));
  }
  const inputs = { ...first.inputs, ...run };
  await ask(server, `/api/variants/${first.id}`, 'PATCH', { version: first.version, inputs });
  const polls: number[] = [];
  const edits: number[] = [];
  let nErrors = 0;
  let nRuns = 0;
  let stall = 0;
  let going = true;
  const streams = new Set<AbortController>();
  const timed = async (into: number[], work: () => Promise<unknown>) => {
    const begun = performance.now();
    try {
      await work();
    } catch (error) {
      nErrors++;
      if (nErrors < 4) console.error(error);
    }
    into.push(performance.now() - begun);
  };

  let shown = '';
  const runner = async () => {
    // Two at once: one that runs and one that waits.
    const start = () => ask<RunView>(server, '/api/runs', 'POST', { variantId: first.id });
    let queue = [await start(), await start()];
    while (going) {
      shown = queue[0].id;
      const { status } = await ask<RunView>(server, `/api/runs/${shown}`);
      if (status === 'queued' || status === 'running') await sleep(100);
      else {
        if (status !== 'filled') nErrors++;
        nRuns++;
        queue = [...queue.slice(1), await start()];
      }
    }
    for (const { id: left } of queue) await ask(server, `/api/runs/${left}/cancel`, 'POST', {});
  };
  const listener = async () => {
    while (going) {
      if (!shown) {
        await sleep(50);
        continue;
      }
      const stream = new AbortController();
      streams.add(stream);
      await fetch(`${server.url}/api/runs/${shown}/events`, { signal: stream.signal })
        .then((response) => response.text())
        .catch(() => '');
      streams.delete(stream);
      await sleep(50);
    }
  };
  const client = async (k: number) => {
    let variant = own[k];
    // They come one after the other, as people do.
    await sleep(60 * k);
    for (let n = 0; going; n++) {
      await timed(polls, () => taken(fetch(`${server.url}/api/projects/${variant.projectId}`)));
      await sleep(THINK_MS + 7 * k);
      const change = { version: variant.version, inputs: edited(variant.inputs, n) };
      await timed(edits, async () => {
        variant = await ask<VariantView>(server, `/api/variants/${variant.id}`, 'PATCH', change);
      });
      await sleep(THINK_MS + 7 * k);
    }
  };
  const watcher = async () => {
    while (going) {
      const begun = performance.now();
      await fetch(`${server.url}/icon.svg`).then((r) => r.arrayBuffer());
      stall = Math.max(stall, performance.now() - begun);
      await sleep(200);
    }
  };
  const work = [runner(), watcher()];
  for (let k = 0; k < nClients; k++) work.push(client(k), listener());
  const memory: number[] = [];
  for (let round = 0; round < rounds; round++) {
    await sleep(1000 * seconds);
    memory.push(Math.round(memoryOf(server.pid)));
  }
  // On a slow machine the first run may still be under way.
  while (!nRuns) await sleep(100);
  going = false;
  streams.forEach((stream) => stream.abort());
  await Promise.all(work);
  return {
    nClients,
    nPolls: polls.length,
    nEdits: edits.length,
    nErrors,
    polls_ms: spreadOf(polls),
    edits_ms: spreadOf(edits),
    nRuns,
    memory_MB: memory,
    stall_ms: Math.round(stall),
  };
}
