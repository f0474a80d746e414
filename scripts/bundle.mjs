/** Bundles the command line tool, the worker entries and the benchmark; milliseconds, so every script may call it. */
import { readdirSync } from 'node:fs';
import { build } from 'esbuild';

const root = new URL('..', import.meta.url).pathname;
const workers = readdirSync(`${root}src/runtime`)
  .filter((f) => f.endsWith('.worker.ts'))
  .map((f) => `${root}src/runtime/${f}`);
const common = {
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  outExtension: { '.js': '.mjs' },
  logLevel: 'warning',
  absWorkingDir: root,
};
await build({ ...common, entryPoints: workers, outdir: 'dist/workers' });
await build({ ...common, entryPoints: { bellows: 'src/cli/main.ts' }, outdir: 'dist/cli' });
// Bundled like the workers, so that they run the code as it is served.
await build({
  ...common,
  entryPoints: { bench: 'scripts/bench.ts', storm: 'scripts/storm.ts', golden: 'scripts/golden.ts' },
  outdir: 'dist',
});
