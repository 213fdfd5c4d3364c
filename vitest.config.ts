import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
  test: {
    // What takes a database or a browser has a configuration of its own.
    include: ['packages/**/*.test.ts', 'apps/cli/**/*.test.ts', 'apps/web/**/*.test.{ts,tsx}'],
    testTimeout: 30_000,
  },
});
