// `npm run bench`: benchmarks, each beside its rival; writes docs/benchmarks.md.
import { build } from './lib/build.mjs';
import { ensureChromium, ensurePackages } from './lib/install.mjs';
import { ROOT, run, start } from './lib/run.mjs';
import { join } from 'node:path';

start(async () => {
  await ensurePackages();
  await ensureChromium();
  await build();
  await run(process.execPath, ['--expose-gc', join(ROOT, 'bench/dist/main.js')]);
});
