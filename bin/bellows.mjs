#!/usr/bin/env node
import { existsSync } from 'node:fs';

const bundle = new URL('../dist/cli/bellows.mjs', import.meta.url);
if (!existsSync(bundle)) {
  console.error('The command line tool is not built yet. Run "npm ci" (or "node scripts/bundle.mjs") first.');
  process.exit(1);
}
await import(bundle.href);
