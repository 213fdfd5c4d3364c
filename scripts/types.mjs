// Checks the types of every workspace, one after another so that a small machine keeps its memory.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, start, tryRun } from './lib/run.mjs';

const WORKSPACES = [
  'packages/core',
  'packages/formats',
  'packages/contract',
  'apps/server',
  'apps/cli',
  'apps/standins',
  'apps/web',
  'demo',
  'bench',
  'e2e',
];

start(async () => {
  const projects = WORKSPACES.filter((workspace) => existsSync(join(ROOT, workspace, 'tsconfig.json')));
  const failed = [];
  for (const project of projects) {
    const { code } = await tryRun(join(ROOT, 'node_modules/.bin/tsc'), ['-p', project]);
    if (code !== 0) failed.push(project);
  }
  if (failed.length > 0) {
    console.error(`Types do not fit in ${failed.join(', ')}.`);
    process.exit(1);
  }
});
