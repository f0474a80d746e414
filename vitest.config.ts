import { availableParallelism } from 'node:os';
import path from 'node:path';
import { build } from 'esbuild';
import type { Plugin } from 'vite';
import { defineConfig } from 'vitest/config';

const root = import.meta.dirname;
const alias = {
  '@': path.resolve(root, 'src'),
  'server-only': path.resolve(root, 'verification/empty.ts'),
};

/**
 * Plugin that gives tests of the core to the runner in one module each, with all of ours that they import. Between modules
 * of the runner every use of an import is a call that is never inlined: solvers took up to six times as long as in the
 * bundles that are served.
 */
const inOneModule: Plugin = {
  name: 'in-one-module',
  enforce: 'pre',
  async load(id) {
    const file = id.split('?')[0];
    if (!/\/(src\/core|verification)\/.*\.test\.ts$/.test(file)) return null;
    const { outputFiles } = await build({
      entryPoints: [file],
      absWorkingDir: root,
      outdir: root,
      bundle: true,
      write: false,
      platform: 'node',
      target: 'node20',
      format: 'esm',
      packages: 'external',
      sourcemap: 'external',
      logLevel: 'silent',
    });
    const of = (ending: string) => outputFiles.find((f) => f.path.endsWith(ending))!.text;
    return { code: of('.js'), map: of('.map') };
  },
};

/** Tests that share nothing but what they import: a process for each would take longer than many of them. */
const ONE_AFTER_ANOTHER = { isolate: false };

export default defineConfig({
  resolve: { alias },
  test: {
    // As many as cores: by default one stays idle.
    maxWorkers: availableParallelism(),
    projects: [
      {
        resolve: { alias },
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts'],
          exclude: ['src/core/**', 'src/viewer/**'],
          testTimeout: 400_000,
          hookTimeout: 400_000,
        },
      },
      {
        plugins: [inOneModule],
        resolve: { alias },
        test: {
          name: 'core',
          include: ['src/{core,viewer}/**/*.test.ts'],
          ...ONE_AFTER_ANOTHER,
          testTimeout: 400_000,
          hookTimeout: 400_000,
        },
      },
      {
        plugins: [inOneModule],
        resolve: { alias },
        test: {
          name: 'verification',
          include: ['verification/**/*.test.ts'],
          ...ONE_AFTER_ANOTHER,
          testTimeout: 900_000,
          hookTimeout: 900_000,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'e2e',
          include: ['e2e/**/*.test.ts'],
          testTimeout: 900_000,
          hookTimeout: 900_000,
        },
      },
    ],
  },
});
