/**
 * `npm run siege`: requests, uploads, clients, kills and disks against a server of its own on this machine, and the table
 * of what came of them. `--write` puts it into docs/reliability.md, `--quick` does a fraction.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { format } from 'prettier';
import { App } from '../e2e/app';
import { besiege } from '../e2e/siege/clients';
import { fill } from '../e2e/siege/disks';
import { kill } from '../e2e/siege/kills';
import { mutate } from '../e2e/siege/requests';
import { upload } from '../e2e/siege/uploads';

const quick = process.argv.includes('--quick');
const of = (whole: number, part: number) => (quick ? part : whole);
const rows: [string, string, string][] = [];
let failed = false;
const row = (what: string, did: string, came: string, good: boolean) => {
  rows.push([what, did, came]);
  if (!good) failed = true;
  console.log(`${good ? 'ok  ' : 'BAD '} ${what}: ${did}: ${came}`);
};

async function withServer(work: (server: App) => Promise<void>): Promise<void> {
  const server = new App();
  await server.start({ BELLOWS_NICE: '5' });
  try {
    await work(server);
  } finally {
    await server.stop();
  }
}

await withServer(async (server) => {
  const r = await mutate(server, of(2000, 200), 1);
  [...r.faults, ...r.unclear].slice(0, 5).forEach((f) => console.error(f));
  row(
    'Requests wrong in one place',
    `${r.nSent} on 7 routes`,
    `${r.nRefused} refused with field and remedy, ${r.nTaken} harmless and taken, ${r.faults.length} faults, ${r.unclear.length} unclear; longest ${r.longest_ms} ms`,
    !r.faults.length && !r.unclear.length,
  );
  const u = await upload(server, of(150, 20), 1, !quick);
  u.faults.slice(0, 5).forEach((f) => console.error(f));
  row(
    'Uploads cut, turned, crafted',
    `${u.nSent}`,
    `${u.nRefused} refused, ${u.nRead} read, ${u.faults.length} faults; longest ${u.longest_s} s, server grew by ${u.growth_MB} MB`,
    !u.faults.length,
  );
});
await withServer(async (server) => {
  const l = await besiege(server, {
    nClients: of(50, 12),
    rounds: of(10, 3),
    seconds: 6,
    run: { detail: 'quick', upTo: 'fill' },
  });
  const [half, last] = [l.memory_MB[Math.floor(l.memory_MB.length / 2)], l.memory_MB[l.memory_MB.length - 1]];
  row(
    'Clients with streams and edits while two runs go',
    `${l.nClients} clients, ${l.nPolls} polls, ${l.nEdits} edits, ${l.nRuns} runs`,
    `${l.nErrors} errors; polls p99 ${l.polls_ms.p99} ms (median ${l.polls_ms.median}), edits p99 ${l.edits_ms.p99} ms (median ${l.edits_ms.median}); longest stall ${l.stall_ms} ms; memory ${l.memory_MB.join(', ')} MB`,
    !l.nErrors && l.polls_ms.p99 < 1000 && l.edits_ms.p99 < 1000 && last < 1.3 * half,
  );
});
await withServer(async (server) => {
  const k = await kill(server, of(20, 3), 1);
  row(
    'Kills in the middle of edits and a run',
    `${k.nKills} kills, ${k.nEdits} edits acknowledged`,
    `${k.nLost} lost; doctor finds ${k.damage.length ? k.damage.join(' ') : 'no damage'}`,
    !k.nLost && !k.damage.length,
  );
});
const d = await fill();
if (!d) console.log('skip Disks: none may be mounted here');
else {
  row(
    'Disk full before a run',
    'a disk of 120 MB',
    `“${d.waits}”, then ${d.after}`,
    /^Waits/.test(d.waits) && d.after === 'filled',
  );
  row(
    'Disk full in a run',
    'the same',
    `${d.met}; the next one ${d.next}`,
    /no room left/.test(d.met) && d.next === 'filled',
  );
  row(
    'Edits on a full disk',
    'the same',
    `${d.edit}; with room again: ${d.taken}`,
    /^507/.test(d.edit) && d.taken === 200,
  );
}

if (process.argv.includes('--write')) {
  const page = fileURLToPath(new URL('../docs/reliability.md', import.meta.url));
  const text = readFileSync(page, 'utf8');
  const [begin, end] = ['<!-- siege -->', '<!-- /siege -->'];
  const table = ['| what | did | came of it |', '| --- | --- | --- |', ...rows.map((r) => `| ${r.join(' | ')} |`)].join(
    '\n',
  );
  const [before, rest] = text.split(begin);
  const made = `${before}${begin}\n\n${table}\n\n${end}${rest.split(end)[1]}`;
  writeFileSync(page, await format(made, { parser: 'markdown', printWidth: 120 }));
}
if (failed) process.exitCode = 1;
