import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] },
  ssr: { resolve: { conditions: ['stem-trace-source', 'module', 'node', 'development|production'] } },
  test: {
    // What takes a database or a browser has a configuration of its own.
    include: [
      'packages/**/*.test.ts',
      'apps/cli/**/*.test.ts',
      'apps/standins/**/*.test.ts',
      'apps/web/**/*.test.{ts,tsx}',
    ],
    testTimeout: 30_000,
    setupFiles: ['apps/web/src/testing/fresh-storage.ts'],
    maxWorkers: 2,
    // Modules are loaded once for all files; no test leaves anything behind in them.
    isolate: false,
  },
});
