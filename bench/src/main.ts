/** Runs every benchmark with its rival and writes docs/benchmarks.md. */
import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { benchAtSize } from './at-size.js';
import { benchIntake } from './intake.js';
import { toMarkdown } from './report.js';
import { benchStructureIndex, indexMarkdown } from './structure-index.js';
import { benchStepStructure } from './step-structure.js';

const results = [await benchStepStructure(), await benchIntake()];
const sizes = await benchStructureIndex();
const atSize = await benchAtSize();
const text = [
  '# Benchmarks',
  `Written by \`npm run bench\` on Node.js ${process.version}, ${cpus().length} cores. Times are medians; rival and ours ran in the same process, one after the other.`,
  ...results.map(toMarkdown),
  indexMarkdown(sizes),
  atSize,
].join('\n\n');
console.log(text);
writeFileSync(join(import.meta.dirname, '../../docs/benchmarks.md'), `${text}\n`);
