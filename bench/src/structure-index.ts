/**
 * Where-used over all levels of the most used part, in stores that grow: the index, one recursive SQL query, `graphology`,
 * and a bare breadth-first search over typed arrays that counts nothing and checks nothing, as the limit.
 */
import { chmodSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type LinkIndex, NONE, whereUsedSet, whereUsedTotals, type Lens } from '@stem-trace/core';
import { loadSeed } from '@stem-trace/server/seed/load.js';
import { IndexFeed } from '@stem-trace/server/link-index/index-feed.js';
import { whereUsedSql } from '@stem-trace/server/structure/reference-sql.js';
import { DirectedGraph } from 'graphology';
import { bfsFromNode } from 'graphology-traversal';
import pg from 'pg';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';

/** Items of the stores; a store has about eleven links an item. */
const SIZES = [1000, 10_000, 100_000, 280_000] as const;
const NEWEST: Lens = { kind: 'newest' };

export interface IndexSize {
  readonly items: number;
  readonly links: number;
  /** Versions that use the part, at any level. */
  readonly users: number;
  readonly loadMs: number;
  readonly bytesPerLink: number;
  /** With quantities, which SQL and the others are held against, and without, as the bare search. */
  readonly indexMs: number;
  readonly setMs: number;
  readonly sqlMs: number;
  readonly graphologyMs: number;
  readonly bareMs: number;
}

export async function benchStructureIndex(): Promise<readonly IndexSize[]> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  try {
    const sizes: IndexSize[] = [];
    for (const items of SIZES) {
      const url = cluster.url.replace(/\/[^/]*$/, `/bench_${items}`);
      await ensureDatabase(url);
      await loadSeed({ databaseUrl: url, blobFolder: join(folder, 'blobs'), items, seed: 1, say: () => {} });
      sizes.push(await measure(url));
      console.log(JSON.stringify(sizes.at(-1)));
    }
    return sizes;
  } finally {
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

async function measure(url: string): Promise<IndexSize> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const before = memory();
  const start = performance.now();
  const feed = await IndexFeed.open(url);
  const loadMs = performance.now() - start;
  const bytes = memory() - before;
  const index = feed.links;
  try {
    const { rows } = await client.query<{ id: string }>(
      `SELECT l.target_item_id AS id FROM link l JOIN item i ON i.newest_version_id = l.version_id
       GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1`,
    );
    const part = Number(rows[0]?.id ?? 0);
    const answer = whereUsedTotals(index, part, NEWEST);
    const { sql, values } = whereUsedSql(NEWEST);
    const sqlRuns: number[] = [];
    for (let run = 0; run < 3; run++) {
      const begin = performance.now();
      const { rows: found } = await client.query<{ version: number; total: number }>(sql, [part, ...values]);
      sqlRuns.push(performance.now() - begin);
      check(found, answer);
    }
    const bare = bareSearch(index, part);
    if (bare() !== answer.versions.length) throw new Error('the bare search found something else');
    if (whereUsedSet(index, part, NEWEST).versions.length !== answer.versions.length)
      throw new Error('the set is another than the totals');
    const walk = graphologySearch(index, part);
    if (walk() !== answer.versions.length) throw new Error('graphology found something else');
    return {
      items: index.size.items,
      links: index.size.links,
      users: answer.versions.length,
      loadMs,
      bytesPerLink: bytes / index.size.links,
      indexMs: median(11, () => whereUsedTotals(index, part, NEWEST)),
      setMs: median(11, () => whereUsedSet(index, part, NEWEST)),
      sqlMs: sqlRuns.sort((a, b) => a - b)[1] ?? NaN,
      graphologyMs: median(5, walk),
      bareMs: median(11, bare),
    };
  } finally {
    await client.end();
    await feed.close();
  }
}

/** The two must say the same before their times are worth anything. */
function check(
  rows: readonly { version: number; total: number }[],
  { versions, totals }: { versions: Float64Array; totals: Float64Array },
): void {
  const bySql = new Map(rows.map(({ version, total }) => [version, total]));
  const differs = versions.findIndex((version, at) => bySql.get(version) !== totals[at]);
  if (differs >= 0 || bySql.size !== versions.length)
    throw new Error(`SQL and the index disagree about version ${versions[differs] ?? 'count'}`);
}

/**
 * Users of items in compressed rows, with the version that uses and whether it is its item's newest: what a program made
 * for this one question would hold. It looks at the same links as the index does.
 */
function bareSearch(index: LinkIndex, itemId: number): () => number {
  const items = index.size.items;
  const start = new Int32Array(items + 1);
  const users: number[] = [];
  for (let item = 0; item < items; item++) {
    start[item] = users.length;
    index.eachUse(item, (_, parent) => users.push(parent));
  }
  start[items] = users.length;
  const rows = Int32Array.from(users);
  const itemOf = Int32Array.from({ length: index.size.versions }, (_, at) => index.itemOfVersion(at));
  const isNewest = Uint8Array.from(itemOf, (item, at) => (index.newestOf(item) === at ? 1 : 0));
  const from = index.item(itemId);
  return () => {
    const seen = new Uint8Array(items);
    const queue = new Int32Array(items);
    let end = 1;
    queue[0] = from;
    seen[from] = 1;
    for (let at = 0; at < end; at++) {
      const item = queue[at] ?? 0;
      for (let row = start[item] ?? 0; row < (start[item + 1] ?? 0); row++) {
        const user = rows[row] ?? 0;
        if (isNewest[user] === 0) continue;
        const userItem = itemOf[user] ?? 0;
        if (seen[userItem] === 1) continue;
        seen[userItem] = 1;
        queue[end++] = userItem;
      }
    }
    return end - 1;
  };
}

/** The same graph in the library, users as neighbours outwards. */
function graphologySearch(index: LinkIndex, itemId: number): () => number {
  const graph = new DirectedGraph();
  for (let item = 0; item < index.size.items; item++) graph.addNode(item);
  for (let item = 0; item < index.size.items; item++)
    index.eachUse(item, (_, parentVersion) => {
      const parent = index.itemOfVersion(parentVersion);
      if (index.newestOf(parent) === parentVersion) graph.mergeEdge(item, parent);
    });
  const from = index.item(itemId);
  if (from === NONE) throw new Error('the part is not there');
  return () => {
    let found = -1;
    bfsFromNode(
      graph,
      from,
      () => {
        found++;
      },
      { mode: 'outbound' },
    );
    return found;
  };
}

function memory(): number {
  if (!global.gc) throw new Error('run with --expose-gc');
  // Twice: what the first finds unused gives its buffers back with the second.
  global.gc();
  global.gc();
  const { heapUsed, arrayBuffers } = process.memoryUsage();
  return heapUsed + arrayBuffers;
}

function median(runs: number, run: () => unknown): number {
  const times = Array.from({ length: runs }, () => {
    const begin = performance.now();
    run();
    return performance.now() - begin;
  }).sort((a, b) => a - b);
  return times[Math.floor(runs / 2)] ?? NaN;
}

/** The sizes as a Markdown section, with how the times grow as a chart (Mermaid, logarithms of microseconds). */
export function indexMarkdown(sizes: readonly IndexSize[]): string {
  const count = (value: number): string => value.toLocaleString('en-GB');
  const rows = sizes.map(
    ({ links, users, loadMs, bytesPerLink, indexMs, setMs, sqlMs, graphologyMs, bareMs }) =>
      `| ${[
        count(links),
        count(users),
        `${(loadMs / 1000).toFixed(1)} s`,
        bytesPerLink.toFixed(0),
        indexMs.toFixed(2),
        setMs.toFixed(2),
        sqlMs.toFixed(0),
        graphologyMs.toFixed(1),
        bareMs.toFixed(2),
        `${(sqlMs / indexMs).toFixed(0)}×`,
        `${(setMs / bareMs).toFixed(1)}×`,
        `${(indexMs / bareMs).toFixed(1)}×`,
      ].join(' | ')} |`,
  );
  const line = (value: (size: IndexSize) => number): string =>
    `  line [${sizes.map((size) => Math.log10(value(size) * 1000).toFixed(2)).join(', ')}]`;
  return [
    '## Where-used, all levels, of the most used part',
    'Lens *Newest*. The index says quantities summed over all ways, and, as a question of its own, just the set of users with their levels. Rivals: one recursive SQL query, which says the quantities too; a traversal with graphology and a bare breadth-first search over typed arrays, which find the set. Goals: ≥ 100× faster than SQL, within 2× of the bare search, under 100 bytes a link, 1,000,000 links loaded in under 10 s.',
    [
      '| links | users found | load | bytes a link | index, ms | index, the set, ms | SQL, ms | graphology, ms | bare, ms | against SQL | the set against bare | quantities against bare |',
      '| --: | --: | --: | --: | --: | --: | --: | --: | --: | --: | --: | --: |',
      ...rows,
    ].join('\n'),
    [
      '```mermaid',
      'xychart-beta',
      '  title "How it grows: SQL, graphology, index, bare (from above)"',
      `  x-axis "links" [${sizes.map(({ links }) => `"${count(links)}"`).join(', ')}]`,
      '  y-axis "log10 of microseconds"',
      line(({ sqlMs }) => sqlMs),
      line(({ graphologyMs }) => graphologyMs),
      line(({ indexMs }) => indexMs),
      line(({ bareMs }) => bareMs),
      '```',
    ].join('\n'),
  ].join('\n\n');
}
