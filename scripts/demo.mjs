/**
 * `npm run demo`: bundles, builds when anything changed since the last build, and serves. The server
 * makes the data folder, migrates the database and puts the demo project into an empty one itself.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const port = process.env.PORT ?? '3000';
const host = process.env.BELLOWS_HOST ?? '127.0.0.1';
const data = process.env.BELLOWS_DATA ? path.resolve(process.env.BELLOWS_DATA) : path.join(root, 'data');
const loopback = ['127.0.0.1', 'localhost', '::1'].includes(host);
if (!loopback && !existsSync(path.join(data, 'passphrase.json'))) {
  console.error(
    [
      `Others could reach Bellows on ${host}, and no passphrase is set. Set one first:`,
      '  npx bellows passphrase',
      'then name what it is reached by:',
      `  BELLOWS_ALLOWED_HOSTS=the.name BELLOWS_HOST=${host} npm run demo`,
      'Without TLS the passphrase can be read on the way: put a reverse proxy with TLS before it, let that pass',
      'Host and X-Forwarded-Proto on, and leave BELLOWS_HOST as it is. More in docs/reliability.md.',
    ].join('\n'),
  );
  process.exit(1);
}
process.env.NEXT_TELEMETRY_DISABLED = '1';
const next = path.join(root, 'node_modules', '.bin', 'next');

/** Newest change below a folder. */
function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const at = path.join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(at) : statSync(at).mtimeMs);
  }
  return latest;
}

const run = (command, args) => {
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
};

run(process.execPath, [path.join(root, 'scripts', 'bundle.mjs')]);
const stamp = path.join(root, '.next', 'BUILD_ID');
const inputs = ['package-lock.json', 'next.config.ts'].map((f) => statSync(path.join(root, f)).mtimeMs);
if (!existsSync(stamp) || statSync(stamp).mtimeMs < Math.max(newest(path.join(root, 'src')), ...inputs)) {
  console.log('Building (about a minute) …');
  // Types are checked where the code is changed, not where it is used.
  process.env.TYPES_CHECKED = '1';
  run(next, ['build']);
}

const server = spawn(next, ['start', '--port', port, '--hostname', host], {
  cwd: root,
  stdio: ['ignore', 'pipe', 'inherit'],
  env: { ...process.env, BELLOWS_HOME: root },
});
server.stdout.on('data', (chunk) => {
  if (String(chunk).includes('Ready')) console.log(`Bellows is open at http://${host}:${port}  (Ctrl C stops it)`);
});
server.on('exit', (code) => process.exit(code ?? 0));
// A terminal sends its own interrupt to both; what is sent to this process alone is passed on.
process.on('SIGINT', () => {});
process.on('SIGTERM', () => server.kill('SIGTERM'));
