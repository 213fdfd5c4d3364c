import { build } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { start } from './lib/run.mjs';

start(async () => {
  await ensurePackages();
  await build();
});
