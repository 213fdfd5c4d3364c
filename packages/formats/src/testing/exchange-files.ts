/** Design files of several exporters, made for interoperability rounds; they come with a development dependency. */
import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

const PACKAGE = dirname(createRequire(import.meta.url).resolve('occt-import-js/package.json'));

/** Folder of the exchange files. */
export const EXCHANGE_FOLDER = join(PACKAGE, 'test/testfiles/cax-if');

export const EXTERNAL_SETS = ['s1_pe_214', 's1-c5-214', 's1-tu-203'] as const;

export const WHOLE_FILES = [
  'as1-oc-214.stp',
  'as1-tu-203.stp',
  'as1_pe_203.stp',
  'dm1-id-214.stp',
  'dm1-oc-214.stp',
  'dm1-pe-214.stp',
  'io1-cm-214.stp',
  'io1-tu-203.stp',
  'sg1-c5-214.stp',
] as const;

/** Bytes of a set's STEP files by name. */
export function readExchangeSet(set: string): Map<string, Uint8Array> {
  const folder = join(EXCHANGE_FOLDER, set);
  const names = readdirSync(folder).filter((name) => name.endsWith('.stp'));
  return new Map(names.map((name) => [name, readFileSync(join(folder, name))]));
}

export function readExchangeFile(name: string): Uint8Array {
  return readFileSync(join(EXCHANGE_FOLDER, name));
}
