// Builds all workspaces; nothing when no source changed since the last build.
import { createHash } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { ROOT, run } from './run.mjs';

const PROGRAMS = [
  'packages/core',
  'packages/formats',
  'packages/contract',
  'apps/server',
  'apps/cli',
  'apps/standins',
  'demo',
  'bench',
];
const STAMP = join(ROOT, '.stem-trace/built');

export async function build({ web = true } = {}) {
  const now = stamp();
  const outputs = [
    ...PROGRAMS.map((program) => join(program, 'dist')),
    ...(web ? ['apps/web/dist/index.html'] : []),
  ];
  const complete = outputs.every((path) => existsSync(join(ROOT, path)));
  if (complete && existsSync(STAMP) && readFileSync(STAMP, 'utf8') === now) return;
  console.log('Building …');
  await Promise.all(PROGRAMS.map(buildProgram));
  // `npx stem` runs the file itself.
  chmodSync(join(ROOT, 'apps/cli/dist/main.js'), 0o755);
  if (web)
    await run(join(ROOT, 'node_modules/.bin/vite'), ['build', '--logLevel', 'warn'], {
      cwd: join(ROOT, 'apps/web'),
    });
  mkdirSync(join(ROOT, '.stem-trace'), { recursive: true });
  if (web) writeFileSync(STAMP, now);
}

async function buildProgram(program) {
  const cwd = join(ROOT, program);
  if (!existsSync(join(cwd, 'src'))) return;
  rmSync(join(cwd, 'dist'), { recursive: true, force: true });
  await run(
    join(ROOT, 'node_modules/.bin/swc'),
    ['src', '-d', 'dist', '--strip-leading-paths', '--config-file', join(ROOT, '.swcrc'), '-q'],
    { cwd },
  );
}

/** Changes whenever a source file is added, removed or written. */
function stamp() {
  const hash = createHash('sha256');
  const walk = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) =>
      a.name.localeCompare(b.name),
    )) {
      const path = join(folder, entry.name);
      if (entry.isDirectory()) {
        if (entry.name !== 'node_modules' && entry.name !== 'dist' && entry.name !== 'models') walk(path);
      } else hash.update(`${path} ${statSync(path).mtimeMs}\n`);
    }
  };
  for (const folder of ['packages', 'apps', 'demo', 'bench']) walk(join(ROOT, folder));
  hash.update(readFileSync(join(ROOT, 'package-lock.json')));
  return hash.digest('hex');
}
