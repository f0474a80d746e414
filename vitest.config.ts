import { availableParallelism } from 'node:os';
import path from 'node:path';
import { defineConfig } from 'vitest/config';

const alias = {
  '@': path.resolve(import.meta.dirname, 'src'),
  'server-only': path.resolve(import.meta.dirname, 'verification/empty.ts'),
};

export default defineConfig({
  resolve: { alias },
  test: {
    // As many as cores: by default one stays idle.
    maxWorkers: availableParallelism(),
    projects: [
      {
        resolve: { alias },
        test: { name: 'unit', include: ['src/**/*.test.ts'], testTimeout: 400_000, hookTimeout: 400_000 },
      },
      {
        resolve: { alias },
        test: {
          name: 'verification',
          include: ['verification/**/*.test.ts'],
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
