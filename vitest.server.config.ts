import { configDefaults, defineConfig } from 'vitest/config';

/**
 * Tests that measure how long something is blocked, or end processes, have a process of their own. All others share two,
 * which load the server once instead of for every file.
 */
const ALONE = [
  'apps/server/src/work/work.test.ts',
  'apps/server/src/many-at-once.test.ts',
  'apps/server/src/faults.test.ts',
  'apps/server/src/release-faults.test.ts',
];
const ALL = 'apps/server/**/*.test.ts';
// Those want programs that only `npm run outside` installs.
const EXCLUDED = [...configDefaults.exclude, 'apps/server/src/outside/**'];

/** Server tests: on a real PostgreSQL, whose address the test script (or the person who runs them) gives. */
export default defineConfig({
  resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] },
  ssr: { resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] } },
  test: {
    globalSetup: ['apps/server/src/testing/cluster.setup.ts'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    maxWorkers: 2,
    projects: [
      { extends: true, test: { name: 'alone', include: ALONE } },
      {
        extends: true,
        test: { name: 'shared', include: [ALL], exclude: [...EXCLUDED, ...ALONE], isolate: false },
      },
    ],
  },
});
