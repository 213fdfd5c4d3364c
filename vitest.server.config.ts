import { configDefaults, defineConfig } from 'vitest/config';

/** Server tests: on a real PostgreSQL, whose address the test script (or the person who runs them) gives. */
export default defineConfig({
  resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] },
  ssr: { resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] } },
  test: {
    include: ['apps/server/**/*.test.ts'],
    // Those want programs that only `npm run outside` installs.
    exclude: [...configDefaults.exclude, 'apps/server/src/outside/**'],
    globalSetup: ['apps/server/src/testing/cluster.setup.ts'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    maxWorkers: 2,
  },
});
