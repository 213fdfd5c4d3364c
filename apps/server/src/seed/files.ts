/**
 * Files of a made-up store. What the large products are made of gets real files that refer to one another, so that what is
 * derived from them can be fetched and read back; all other versions share two stand-ins, for time and disk.
 */
import { Readable } from 'node:stream';
import { IDENTITY_PLACEMENT } from '@stem-trace/core';
import { readFile, writeStepAssembly, type StepAssembly } from '@stem-trace/formats';
import type { Client } from 'pg';
import type { BlobStore } from '../blobs/blob-store.js';
import { largeProducts, planSeed, type SeedItem, type SeedOptions, type SeedVersion } from './plan.js';

export interface SeedFile {
  readonly sha256: string;
  /** Instance of the item's own product in the file. */
  readonly productRef: number;
  /** Instances of the products that it refers to, by position of the link; empty in a stand-in, which refers to nothing. */
  readonly linkRefs: readonly number[];
}

export interface SeedFiles {
  /** @param ordinal from 1 */
  of(item: SeedItem, ordinal: number): SeedFile;
}

/** How many files are written at a time; waiting for the disk takes most of their time. */
const AT_ONCE = 16;

/** Writes the files and makes them known to the database. `O(items + links)` time, `O(links)` numbers of memory. */
export async function writeSeedFiles(
  client: Client,
  blobs: BlobStore,
  options: SeedOptions,
): Promise<SeedFiles> {
  const sizes = new Map<string, number>();
  const write = async (
    assembly: Pick<StepAssembly, 'id' | 'name' | 'children' | 'uses'>,
  ): Promise<SeedFile> => {
    const fileName = `${assembly.id}.stp`;
    const bytes = writeStepAssembly({ ...assembly, fileName, time: '2026-01-01T00:00:00' });
    const { sha256, size } = await blobs.put(Readable.from([bytes]));
    sizes.set(sha256, size);
    const [own, ...others] = (await readFile(bytes, fileName)).products;
    return { sha256, productRef: own?.ref ?? 1, linkRefs: others.map(({ ref }) => ref) };
  };
  const standIns = {
    part: await write({ id: 'seed part', name: 'seed part', children: [], uses: [] }),
    assembly: await write({ id: 'seed assembly', name: 'seed assembly', children: [], uses: [] }),
  };
  const files = new Map<string, SeedFile>();
  const { wanted, names } = versionsInLargeProducts(options);
  let writing: Promise<void>[] = [];
  for (const item of planSeed(options))
    for (const [at, version] of item.versions.entries()) {
      const key = keyOf(item, at + 1);
      if (!wanted.has(key)) continue;
      writing.push(
        write(contentOf(item, version, names)).then((file) => {
          files.set(key, file);
        }),
      );
      if (writing.length < AT_ONCE) continue;
      await Promise.all(writing);
      writing = [];
    }
  await Promise.all(writing);
  await client.query(
    'INSERT INTO blob (sha256, size) SELECT * FROM unnest($1::text[], $2::bigint[]) ON CONFLICT DO NOTHING',
    [[...sizes.keys()], [...sizes.values()]],
  );
  return { of: (item, ordinal) => files.get(keyOf(item, ordinal)) ?? standIns[item.kind] };
}

function keyOf({ index }: { readonly index: number }, ordinal: number): string {
  return `${index}/${ordinal}`;
}

function contentOf(
  item: SeedItem,
  { links }: SeedVersion,
  names: ReadonlyMap<number, Pick<SeedItem, 'number' | 'name'>>,
): Pick<StepAssembly, 'id' | 'name' | 'children' | 'uses'> {
  return {
    id: item.number,
    name: item.name,
    children: links.map((link) => {
      const { number = '', name = '' } = names.get(link.item) ?? {};
      return { id: number, name, locator: `${number}.stp` };
    }),
    uses: links.flatMap(({ quantity }, child) =>
      Array.from({ length: quantity }, (_, at) => ({
        child,
        name: String(at + 1),
        placement: IDENTITY_PLACEMENT,
      })),
    ),
  };
}

/** Every version in the trees of the large products, as recorded, and what their items are called. */
function versionsInLargeProducts(options: SeedOptions): {
  wanted: ReadonlySet<string>;
  names: ReadonlyMap<number, Pick<SeedItem, 'number' | 'name'>>;
} {
  const large = new Set(Object.values(largeProducts(options.items)));
  const wanted = new Set<string>();
  const names = new Map<number, Pick<SeedItem, 'number' | 'name'>>();
  const linksOf = new Map<string, SeedVersion['links']>();
  const waiting: string[] = [];
  const all: Pick<SeedItem, 'number' | 'name'>[] = [];
  for (const item of planSeed(options)) {
    all.push({ number: item.number, name: item.name });
    for (const [at, { links }] of item.versions.entries()) {
      if (links.length > 0) linksOf.set(keyOf(item, at + 1), links);
      if (large.has(item.number)) waiting.push(keyOf(item, at + 1));
    }
  }
  for (let key = waiting.pop(); key !== undefined; key = waiting.pop()) {
    if (wanted.has(key)) continue;
    wanted.add(key);
    for (const link of linksOf.get(key) ?? []) {
      const target = all[link.item];
      if (target) names.set(link.item, target);
      waiting.push(keyOf({ index: link.item }, link.ordinal));
    }
  }
  return { wanted, names };
}
