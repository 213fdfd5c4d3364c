/** Loads a made-up store through COPY. */
import { once } from 'node:events';
import { Readable } from 'node:stream';
import type { State } from '@stem-trace/contract';
import { revisionCode } from '@stem-trace/core';
import { Client } from 'pg';
import { from as copyFrom, type CopyStreamQuery } from 'pg-copy-streams';
import { propertyRows } from '../database/property-index.js';
import { searchText, type VersionFacts } from '../store/facts.js';
import { BlobStore } from '../blobs/blob-store.js';
import { openDatabase } from '../database/data-source.js';
import { writeSeedFiles } from './files.js';
import { PLACES, planSeed, type SeedItem, type SeedOptions } from './plan.js';

export interface SeedCounts {
  readonly items: number;
  readonly versions: number;
  readonly links: number;
}

export interface LoadOptions extends SeedOptions {
  readonly databaseUrl: string;
  readonly blobFolder: string;
  readonly say: (line: string) => void;
}

const COLUMNS = {
  item: 'id, number, number_key, name, kind, place_id, file_name, newest_version_id, search_text, state, author_id, changed_at, comment_text',
  item_property: 'item_id, key, number, unit, said, shown',
  revision: 'id, item_id, code, position, state',
  version:
    'id, item_id, revision_id, seq, ordinal, comment, author_id, created_at, sha256, file_name, product_ref, id_in_file, name_in_file, facts',
  link: 'version_id, position, target_item_id, target_version_id, quantity, carried, target_ref, target_id_in_file, target_name_in_file, locator, said_alike, occurrences',
} as const;

type Table = keyof typeof COLUMNS;

/** @throws where items with such numbers are there already; nothing is kept then */
export async function loadSeed({
  databaseUrl,
  blobFolder,
  say,
  ...options
}: LoadOptions): Promise<SeedCounts> {
  // Brings the database up to date.
  await (await openDatabase(databaseUrl)).destroy();
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    await client.query('BEGIN');
    // As every other writer of the store does.
    await client.query(`SELECT pg_advisory_xact_lock(hashtext('stem-trace store'))`);
    const counts = await load(client, { options, blobs: new BlobStore(blobFolder), say });
    await client.query('COMMIT');
    say('Counting, so that the database plans well …');
    await client.query('VACUUM ANALYZE');
    return counts;
  } finally {
    await client.end();
  }
}

async function load(
  client: Client,
  { options, blobs, say }: { options: SeedOptions; blobs: BlobStore; say: (line: string) => void },
): Promise<SeedCounts> {
  const authors = await ensureAuthors(client);
  const places = await ensurePlaces(client);
  say('Files …');
  const files = await writeSeedFiles(client, blobs, options);
  const base = await idsInUse(client);
  // One pass for each table, since a connection copies into one at a time; the plan is the same each time.
  const counts = { items: 0, versions: 0, links: 0 };
  say('Items …');
  const firsts = new Float64Array(options.items + 1);
  await copy(client, 'item', function* () {
    let version = base.version;
    for (const item of planSeed(options)) {
      firsts[item.index] = version + 1;
      version += item.versions.length;
      counts.items++;
      const newest = item.versions.at(-1);
      yield [
        base.item + 1 + item.index,
        item.number,
        item.number.toLowerCase(),
        item.name,
        item.kind,
        places[item.place % places.length] ?? 0,
        `${item.number}.stp`,
        version,
        searchText(item.number, item.name, factsOf(item)),
        stateOf(item),
        authors[(newest?.author ?? 0) % authors.length] ?? 0,
        newest?.createdAt.toISOString() ?? '',
        [...new Set(item.versions.map(({ comment }) => comment.toLowerCase()))].sort().join('\n'),
      ];
    }
  });
  say('Properties …');
  await copy(client, 'item_property', function* () {
    for (const item of planSeed(options))
      for (const { key, number, unit, said, shown } of propertyRows(factsOf(item).properties))
        yield [base.item + 1 + item.index, key, number ?? NULL, unit ?? NULL, said, shown];
  });
  await client.query(
    `INSERT INTO property_known VALUES ('mass', 'mass', 'number', 'kg'), ('length', 'length', 'number', 'mm'),
       ('material', 'material', 'text', '') ON CONFLICT DO NOTHING`,
  );
  say('Versions …');
  let revisionId = base.revision;
  const revisionOf = function* (): Generator<{ item: SeedItem; ids: number[] }> {
    revisionId = base.revision;
    for (const item of planSeed(options)) {
      const count = item.versions.at(-1)?.revision ?? 1;
      const ids = Array.from({ length: count }, () => ++revisionId);
      yield { item, ids };
    }
  };
  await copy(client, 'revision', function* () {
    for (const { item, ids } of revisionOf())
      for (const [at, id] of ids.entries()) {
        const isLast = at === ids.length - 1;
        const state = isLast ? stateOf(item) : 'superseded';
        yield [id, base.item + 1 + item.index, revisionCode(at + 1), at + 1, state];
      }
  });
  await copy(client, 'version', function* () {
    let id = base.version;
    for (const { item, ids } of revisionOf())
      for (const [at, version] of item.versions.entries()) {
        counts.versions++;
        const { sha256, productRef } = files.of(item, at + 1);
        yield [
          ++id,
          base.item + 1 + item.index,
          ids[version.revision - 1] ?? 0,
          version.seq,
          at + 1,
          version.comment,
          authors[version.author % authors.length] ?? 0,
          version.createdAt.toISOString(),
          sha256,
          `${item.number}.stp`,
          productRef,
          item.number,
          item.name,
          JSON.stringify(factsOf(item)),
        ];
      }
  });
  say('Links …');
  const called: Pick<SeedItem, 'number' | 'name'>[] = [];
  await copy(client, 'link', function* () {
    let id = base.version;
    for (const item of planSeed(options)) {
      called.push({ number: item.number, name: item.name });
      for (const [at, version] of item.versions.entries()) {
        id++;
        const { linkRefs } = files.of(item, at + 1);
        for (const [position, link] of version.links.entries()) {
          counts.links++;
          const target = (firsts[link.item] ?? 0) + link.ordinal - 1;
          const { number = '', name = '' } = called[link.item] ?? {};
          yield [
            id,
            position,
            base.item + 1 + link.item,
            target,
            link.quantity,
            'f',
            linkRefs[position] ?? position + 2,
            number,
            name,
            `${number}.stp`,
            't',
            '[]',
          ];
        }
      }
    }
  });
  await moveCounters(client);
  return counts;
}

const MATERIALS = ['steel S235', 'steel 42CrMo4', 'aluminium 6082', 'brass', 'POM', 'EPDM', 'glass'] as const;

function factsOf(item: SeedItem): VersionFacts {
  const { index } = item;
  return {
    description: '',
    format: 'step',
    schema: 'AUTOMOTIVE_DESIGN',
    versionText: '',
    source: index % 4 === 0 ? 'bought' : 'made',
    properties: [
      { name: 'mass', kind: 'number', value: (index % 997) / 100 + 0.01, unit: 'kg' },
      { name: 'length', kind: 'number', value: 4 + (index % 613) * 2, unit: 'mm' },
      { name: 'material', kind: 'text', text: MATERIALS[index % MATERIALS.length] ?? '' },
    ],
  };
}

function stateOf({ index }: SeedItem): State {
  return index % 3 === 0 ? 'draft' : 'released';
}

/** Streams rows into a table, as fast as the database takes them. */
async function copy(
  client: Client,
  table: Table,
  rows: () => Generator<readonly (string | number)[]>,
): Promise<void> {
  const target: CopyStreamQuery = client.query(copyFrom(`COPY ${table} (${COLUMNS[table]}) FROM STDIN`));
  const finished = once(target, 'finish');
  Readable.from(textOf(rows())).pipe(target);
  await finished;
}

/** The text format of COPY, some hundred kilobytes at a time. */
function* textOf(rows: Generator<readonly (string | number)[]>): Generator<string> {
  let text = '';
  for (const row of rows) {
    text += `${row.map(escaped).join('\t')}\n`;
    if (text.length > 300_000) {
      yield text;
      text = '';
    }
  }
  if (text !== '') yield text;
}

/** How COPY writes it; no text is escaped to this. */
const NULL = '\\N';

const SPECIAL: Readonly<Record<string, string>> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' };

function escaped(value: string | number): string {
  if (value === NULL) return value;
  return typeof value === 'number'
    ? String(value)
    : value.replace(/[\\\t\n\r]/g, (each) => SPECIAL[each] ?? each);
}

async function ensureAuthors(client: Client): Promise<number[]> {
  await client.query(
    `INSERT INTO person (login, name, initials, role, password_hash, is_active)
     SELECT 'seed', 'Made-up people', 'MU', 'engineer', '', false ON CONFLICT DO NOTHING`,
  );
  const { rows } = await client.query<{ id: string }>('SELECT id FROM person ORDER BY id');
  return rows.map(({ id }) => Number(id));
}

async function ensurePlaces(client: Client): Promise<number[]> {
  await client.query(
    `INSERT INTO place (path) SELECT '/Seed/Line ' || 1 + n / 20 || '/Group ' || 1 + n % 20 FROM generate_series(0, $1 - 1) n
     ON CONFLICT DO NOTHING`,
    [PLACES],
  );
  const { rows } = await client.query<{ id: string }>(
    `SELECT id FROM place WHERE path LIKE '/Seed/%' ORDER BY id`,
  );
  return rows.map(({ id }) => Number(id));
}

async function idsInUse(client: Client): Promise<{ item: number; revision: number; version: number }> {
  const { rows } = await client.query<{ item: string; revision: string; version: string }>(
    `SELECT (SELECT coalesce(max(id), 0) FROM item) AS item, (SELECT coalesce(max(id), 0) FROM revision) AS revision,
            (SELECT coalesce(max(id), 0) FROM version) AS version`,
  );
  const [row] = rows;
  return { item: Number(row?.item), revision: Number(row?.revision), version: Number(row?.version) };
}

/** Ids were given by hand; what comes later goes on after them. */
async function moveCounters(client: Client): Promise<void> {
  for (const table of ['item', 'revision', 'version'])
    await client.query(
      `SELECT setval(pg_get_serial_sequence('${table}', 'id'), (SELECT max(id) FROM ${table}))`,
    );
}
