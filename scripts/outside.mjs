// `npm run outside`: independent readers from Debian's packages read fetched variants; the result goes into docs/formats.md.
import { join } from 'node:path';
import { build } from './lib/build.mjs';
import { ensureDebian, ensurePackages, ensurePostgres } from './lib/install.mjs';
import { ROOT, run, start } from './lib/run.mjs';

start(async () => {
  await ensurePackages();
  await ensurePostgres();
  await ensureDebian('/usr/bin/occt-draw', 'occt-draw', 'the STEP reader');
  await ensureDebian('/usr/lib/python3/dist-packages/ezdxf', 'python3-ezdxf', 'the DXF reader');
  await ensureDebian('/usr/bin/soffice', 'libreoffice-calc', 'the office program');
  await build();
  await run(join(ROOT, 'node_modules/.bin/vitest'), [
    'run',
    '-c',
    'vitest.outside.config.ts',
    '--reporter=verbose',
  ]);
});
