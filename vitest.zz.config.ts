import { defineConfig } from 'vitest/config';
export default defineConfig({ test: { include: ['src/core/results/findings.test.ts','src/core/preview/*.test.ts'] } });
