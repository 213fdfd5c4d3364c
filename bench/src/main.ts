/** Runs every benchmark with its rival and writes docs/benchmarks.md. */
import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { benchAtSize } from './at-size.js';
import { benchBills } from './bills.js';
import { benchDeciding } from './deciding.js';
import { benchIntake } from './intake.js';
import { benchLook } from './look.js';
import { benchLookAtSize } from './look-at-size.js';
import { loadSeed } from '@stem-trace/server/seed/load.js';
import { benchManyClients, manyClientsMarkdown, type Load } from './many-clients.js';
import { toMarkdown } from './report.js';
import { benchStructureIndex, indexMarkdown } from './structure-index.js';
import { benchStepStructure } from './step-structure.js';

const results = [
  await benchStepStructure(),
  await benchIntake(),
  await benchBills(),
  await benchDeciding(),
  await benchLook(),
];
const lookAtSize = await benchLookAtSize();
const sizes = await benchStructureIndex();
const atSize = await benchAtSize();
// Another build beside this one, where its folder is given: the figures before and after a change, in one run.
const { STEM_BENCH_BEFORE } = process.env;
const seed = async (databaseUrl: string, blobFolder: string): Promise<void> => {
  await loadSeed({ databaseUrl, blobFolder, items: 20_000, seed: 1, say: () => undefined });
};
const loads: { what: string; load: Load }[] = [];
for (const [store, fill] of [
  ['demo store', undefined],
  ['20,000 items', seed],
] as const) {
  for (const root of STEM_BENCH_BEFORE ? [STEM_BENCH_BEFORE, undefined] : [undefined]) {
    const { reading, withWriters } = await benchManyClients({
      ...(root ? { root } : {}),
      ...(fill ? { fill } : {}),
    });
    const when = root ? 'before' : 'now';
    loads.push({ what: `${store}, reading alone, ${when}`, load: reading });
    loads.push({ what: `${store}, with five writers, ${when}`, load: withWriters });
  }
}
const text = [
  '# Benchmarks',
  `Written by \`npm run bench\` on Node.js ${process.version}, ${cpus().length} cores. Times are medians; rival and ours ran in the same process, one after the other.`,
  ...results.map(toMarkdown),
  lookAtSize,
  indexMarkdown(sizes),
  atSize,
  manyClientsMarkdown(loads),
].join('\n\n');
console.log(text);
writeFileSync(join(import.meta.dirname, '../../docs/benchmarks.md'), `${text}\n`);
