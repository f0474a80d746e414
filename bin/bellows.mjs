#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const bundle = new URL('../dist/cli/bellows.mjs', import.meta.url);
if (!existsSync(bundle)) {
  console.error('The command line tool is not built yet. Run "npm ci" (or "node scripts/bundle.mjs") first.');
  process.exit(1);
}
// Where migrations and samples lie, whatever folder it is called from.
process.env.BELLOWS_HOME ??= fileURLToPath(new URL('..', import.meta.url));
await import(bundle.href);
