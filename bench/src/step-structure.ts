/**
 * Reading product structure against loading the same file in a B-rep kernel (occt-import-js), in one run. The
 * kernel also makes meshes; that is what a program without a structure reader has to wait for.
 */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { readStep } from '@stem-trace/formats';
import type { BenchResult } from './report.js';

interface Kernel {
  ReadStepFile(content: Uint8Array, parameters: object | null): { success: boolean; meshes: unknown[] };
}

const require = createRequire(import.meta.url);
const FILES = ['as1-oc-214.stp', 'as1_pe_203.stp', 'as1-tu-203.stp', 'dm1-oc-214.stp', 'io1-tu-203.stp'];
const ROUNDS = 7;

export async function benchStepStructure(): Promise<BenchResult> {
  const folder = join(dirname(require.resolve('occt-import-js/package.json')), 'test/testfiles/cax-if');
  const kernel = await (require('occt-import-js') as () => Promise<Kernel>)();
  const rows = FILES.map((name) => {
    const bytes = new Uint8Array(readFileSync(join(folder, name)));
    const ours = median(() => readStep(bytes));
    const rival = median(() => {
      if (!kernel.ReadStepFile(bytes, null).success) throw new Error(`the kernel cannot load ${name}`);
    });
    return { what: `${name}, ${Math.round(bytes.length / 1000)} kB`, ours, rival, bytes: bytes.length };
  });
  return {
    title: 'Reading the structure of a STEP file',
    rivalName: 'loading it in a B-rep kernel (occt-import-js)',
    goal: '≥ 10× faster',
    rows: [...rows, structureOnly()],
  };
}

/** Structure without geometry: how fast the reader itself is, in MB/s; no rival reads just this. */
function structureOnly(): BenchResult['rows'][number] {
  const count = 60_000;
  const lines = ["#1=PRODUCT_CONTEXT('',$,'mechanical');"];
  for (let i = 0; i < count; i++) {
    const at = 10 + i * 10;
    lines.push(
      `#${at}=PRODUCT('P-${i}','Part ${i}','',(#1));`,
      `#${at + 1}=PRODUCT_DEFINITION_FORMATION('A','',#${at});`,
      `#${at + 2}=PRODUCT_DEFINITION('design','',#${at + 1},$);`,
      ...Array.from({ length: 5 }, (_, k) => `#${at + 3 + k}=CARTESIAN_POINT('',(${i}.25,${k}.5,-1.E-3));`),
      ...(i > 0
        ? [
            `#${at + 8}=NEXT_ASSEMBLY_USAGE_OCCURRENCE('${i}','P-${i}','',#${10 + Math.floor(i / 8) * 10 + 2},#${at + 2},$);`,
          ]
        : []),
    );
  }
  const bytes = new TextEncoder().encode(
    `ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n${lines.join('\n')}\nENDSEC;\nEND-ISO-10303-21;\n`,
  );
  const ours = median(() => readStep(bytes), 3);
  return {
    what: `${count.toLocaleString('en-GB')} products, ${Math.round(bytes.length / 1e6)} MB made for this`,
    ours,
    bytes: bytes.length,
  };
}

/** Median of some rounds, in milliseconds, after one that does not count. */
function median(work: () => unknown, rounds = ROUNDS): number {
  work();
  const times = Array.from({ length: rounds }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return times.sort((a, b) => a - b)[Math.floor(rounds / 2)] ?? NaN;
}
