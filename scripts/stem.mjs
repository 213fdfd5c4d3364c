// `npm run -s stem -- VERB …`: the command line; built if it is not yet.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { ROOT, start } from './lib/run.mjs';

start(async () => {
  const main = join(ROOT, 'apps/cli/dist/main.js');
  if (!existsSync(main)) {
    await ensurePackages();
    await build({ web: false });
  }
  await import(pathToFileURL(main).href);
});
