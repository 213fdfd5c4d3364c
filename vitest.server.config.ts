import { defineConfig } from 'vitest/config';

/** Server tests: on a real PostgreSQL, whose address the test script (or the person who runs them) gives. */
export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
  test: {
    include: ['apps/server/**/*.test.ts'],
    globalSetup: ['apps/server/src/testing/cluster.setup.ts'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    maxWorkers: 2,
  },
});
