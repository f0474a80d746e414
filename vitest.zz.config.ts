import { defineConfig } from 'vitest/config';
export default defineConfig({ test: { include: ['src/cli/**/*.test.ts','src/core/results/*.test.ts','src/core/model/*.test.ts'] } });
