import { configDefaults, mergeConfig } from 'vitest/config';
import server from './vitest.server.config.js';

/** What independent readers find in what is handed out; see CONTRIBUTING. */
export default mergeConfig(
  {
    ...server,
    test: { ...server.test, projects: undefined, include: [], exclude: [...configDefaults.exclude] },
  },
  { test: { include: ['apps/server/src/outside/**/*.test.ts'], testTimeout: 600_000, hookTimeout: 600_000 } },
);
