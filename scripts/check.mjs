/**
 * `npm test`: everything. Installs Chromium with its drawing library, CalculiX and tetgen from Debian's packages when the
 * machine has none, then types, lint and format side by side, unit tests and verification, build and browser tests.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

process.env.NEXT_TELEMETRY_DISABLED = '1';

function run(title, command, args) {
  const start = Date.now();
  console.log(`\n== ${title}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit' });
  if (status !== 0) {
    console.error(`\n${title}: failed`);
    process.exit(status || 1);
  }
  console.log(`== ${title}: ${((Date.now() - start) / 1000).toFixed(0)} s`);
}

const CHROMIUM = process.env.CHROMIUM_PATH ?? '/usr/bin/chromium';
// The browser for the page, a solver that the exported structures are run with, and the mesher they are made with.
const missing = [
  ...(existsSync(CHROMIUM) ? [] : ['chromium', 'libegl-mesa0', 'libgl1-mesa-dri']),
  ...(existsSync('/usr/bin/ccx') ? [] : ['calculix-ccx']),
  ...(existsSync('/usr/bin/tetgen') ? [] : ['tetgen']),
];
if (missing.length) {
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  const apt = (...args) => [...sudo, 'apt-get', ...args];
  const step = (title, [command, ...args]) => run(title, command, args);
  step('package lists', apt('update', '-qq'));
  step('Chromium, CalculiX and tetgen', apt('install', '-y', '-qq', '--no-install-recommends', ...missing));
}

/** Several programs side by side; each says what it has to say when it is done. */
async function together(programs) {
  const one = ([title, args]) =>
    new Promise((done) => {
      const start = Date.now();
      const child = spawn('npx', ['--no-install', ...args], { cwd: root });
      let said = '';
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
      child.on('close', (status) => {
        console.log(`\n${said}== ${title}: ${((Date.now() - start) / 1000).toFixed(0)} s`);
        if (status !== 0) console.error(`\n${title}: failed`);
        done(status ?? 1);
      });
    });
  const failed = (await Promise.all(Object.entries(programs).map(one))).find((status) => status !== 0);
  if (failed) process.exit(failed);
}

const npx = (title, ...args) => run(title, 'npx', ['--no-install', ...args]);
run('bundles', process.execPath, ['scripts/bundle.mjs']);
npx('route types', 'next', 'typegen');
await together({
  types: ['tsc', '--noEmit'],
  lint: ['eslint', '.'],
  format: ['prettier', '--check', '--log-level', 'warn', '.'],
});
npx('unit tests and verification', 'vitest', 'run', '--project', '!e2e');
// The types have just been checked.
process.env.TYPES_CHECKED = '1';
npx('build', 'next', 'build');
npx('browser tests', 'vitest', 'run', '--project', 'e2e');
console.log('\nAll passed.');
