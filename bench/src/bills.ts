/** Comparing, merging and accounting for BOMs of 10,000 rows, beside a plain join in SQL and beside reading the rows. */
import { chmodSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  accountOf,
  carryOver,
  compareThree,
  compareTrees,
  familyOf,
  newBill,
  pieces,
  setCells,
  treeOf,
  type BomLine,
  type BuildBill,
  type EngineeringRow,
} from '@stem-trace/core';
import { writePdf, writeXlsx, type OutTable } from '@stem-trace/formats';
import pg from 'pg';
import { ensureDatabase, startCluster } from '../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../scripts/lib/install.mjs';
import type { BenchResult } from './report.js';

const ROWS = 10_000;
const ROUNDS = 7;
const COLUMNS = ['material', 'finish', 'supplier'];

/** Ten assemblies of a thousand rows each; every seventh row differs where `isLater`. */
function rows(isLater: boolean): EngineeringRow[] {
  return Array.from({ length: ROWS }, (_, at): EngineeringRow => {
    const isLevel = at % 1000 === 0;
    const isOther = isLater && at % 7 === 3;
    const item = `${isLater && at % 97 === 5 ? 'N' : 'P'}-${at}`;
    return {
      ...{
        key: String(at),
        level: isLevel ? 1 : 2,
        number: item,
        name: `Part ${at}`,
        itemId: item,
        stem: item,
      },
      ...{ version: isOther ? 'B/1' : 'A/1', amount: pieces(isOther ? 3 : 2), find: '', designators: '' },
    };
  });
}

function tree(of: readonly EngineeringRow[], isLater: boolean): BomLine {
  return treeOf(
    of.map((row, at) => ({
      ...row,
      values: {
        material: `steel ${at % 40}`,
        finish: isLater && at % 50 === 1 ? 'zinc' : 'bare',
        supplier: `maker ${at % 9}`,
      },
    })),
  );
}

export async function benchBills(): Promise<BenchResult> {
  const [before, after] = [rows(false), rows(true)];
  const [from, to] = [tree(before, false), tree(after, true)];
  const engineering = { itemId: '1', number: 'P', versionId: '1', version: 'A/1', lens: 'newest' };
  const bill = edited(newBill(engineering, before));
  const json = JSON.stringify([bill, after]);
  const reading = median(() => void JSON.parse(json));
  const options = { columns: COLUMNS };
  return {
    title: 'BOMs of 10,000 rows',
    rivalName:
      'for comparing, a full join of two tables with the same columns in PostgreSQL, its rows sent to the program; for printing, writing the same rows as a spreadsheet; for the others, reading the same rows as JSON',
    goal: 'comparing under 100 ms, three sides and carrying over under 200 ms, printing under 20 s',
    rows: [
      {
        what: 'comparing two, with three columns',
        ours: median(() => void compareTrees(from, to, options)),
        rival: await joined(before, after),
      },
      {
        what: 'comparing three sides',
        ours: median(() => void compareThree(from, to, tree(before, false), options)),
        rival: reading,
      },
      {
        what: 'carrying engineering over into a bill',
        ours: median(() => void carryOver(bill, { engineering, rows: after })),
        rival: reading,
      },
      { what: 'the account of a bill', ours: median(() => void accountOf(bill)), rival: reading },
      { what: 'pasting 1,000 cells', ours: median(() => void pasted(bill)), rival: reading },
      laidOut(),
      await printed(),
    ],
  };
}

/** A family of 50 variants of 500 positions, each with a tenth of its own. */
function laidOut(): BenchResult['rows'][number] {
  const position = (at: number, variant: number): EngineeringRow => ({
    ...{
      key: String(at),
      level: at % 50 === 0 ? 1 : 2,
      number: `P-${at}`,
      name: `Part ${at}`,
      itemId: `P-${at}`,
    },
    ...{ stem: `P-${at}`, version: (at + variant) % 10 === 0 ? 'B/1' : 'A/1', amount: pieces(2), find: '' },
    designators: '',
  });
  const one = (variant: number): BomLine =>
    treeOf(Array.from({ length: 500 }, (_, at) => position(at, variant)));
  const [origin, variants] = [one(-1), Array.from({ length: 50 }, (_, at) => one(at))];
  const json = JSON.stringify(variants);
  return {
    what: 'laying 50 variants of 500 positions beside their origin',
    ours: median(() => void familyOf(origin, variants)),
    rival: median(() => void JSON.parse(json)),
  };
}

/** A redline of 10,000 rows, once: it takes seconds. */
async function printed(): Promise<BenchResult['rows'][number]> {
  const signs = ['added', 'removed', 'changed', 'moved'] as const;
  const table: OutTable = {
    ...{ title: 'From P A/1 to P B/1', says: ['10,000 rows'] },
    columns: ['Find', 'Number', 'Name', 'From', 'To', 'What'].map((title, at) => ({
      ...{ title, width: 14 },
      ...(at === 1 ? { isTree: true } : {}),
    })),
    rows: Array.from({ length: ROWS }, (_, at) => ({
      level: 1 + (at % 3),
      mark: signs[at % 4] ?? 'moved',
      cells: [at, `P-${at}`, `Part ${at} of a longer name`, 2, 3, 'quantity 2 → 3'],
    })),
  };
  const timed = async (work: () => Promise<unknown>): Promise<number> => {
    const start = performance.now();
    await work();
    return performance.now() - start;
  };
  return {
    what: 'a redline of 10,000 rows for print, once',
    ours: await timed(() => writePdf(table, '2026-01-01')),
    rival: await timed(() => writeXlsx(table, 'one')),
  };
}

/** As a planner leaves it: rows added, and a note in every twentieth. */
function edited(bill: BuildBill): BuildBill {
  const [first] = bill.rows;
  if (!first) throw new Error('the bench has no rows');
  const added = Array.from({ length: 200 }, (_, at) => ({
    ...first,
    ...{
      id: `added ${at}`,
      level: 1,
      kind: 'text' as const,
      number: '',
      name: `Label ${at}`,
      isPhantom: false,
    },
  })).map(({ from: _, itemId: __, ...row }) => row);
  const noted = bill.rows.map((row, at) => (at % 20 === 0 ? { ...row, values: { note: 'x' } } : row));
  return { ...bill, rows: [...noted, ...added] };
}

function pasted(bill: BuildBill): void {
  const texts = new Map(bill.rows.slice(0, 1000).map(({ id }) => [id, new Map([['amount', '5']])]));
  if (setCells(bill.rows, texts, bill.columns).changed < 900) throw new Error('nothing was pasted');
}

async function joined(before: readonly EngineeringRow[], after: readonly EngineeringRow[]): Promise<number> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-bench-'));
  chmodSync(folder, 0o711);
  const cluster = await startCluster({ bin: await ensurePostgres(), folder });
  try {
    await ensureDatabase(cluster.url);
    const client = new pg.Client({ connectionString: cluster.url });
    await client.connect();
    for (const [name, side] of [
      ['a', before],
      ['b', after],
    ] as const) {
      await client.query(
        `CREATE TABLE ${name} (item text, version text, amount numeric, material text, finish text, supplier text)`,
      );
      await client.query(
        `INSERT INTO ${name} SELECT r->>'number', r->>'version', (r->'amount'->>'value')::numeric, 'steel', 'bare', 'maker'
         FROM jsonb_array_elements($1::jsonb) r`,
        [JSON.stringify(side)],
      );
      await client.query(`ANALYZE ${name}`);
    }
    const times: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const begin = performance.now();
      await client.query(
        `SELECT a.*, b.*, a.version IS DISTINCT FROM b.version, a.amount IS DISTINCT FROM b.amount, a.material IS DISTINCT FROM b.material,
                a.finish IS DISTINCT FROM b.finish, a.supplier IS DISTINCT FROM b.supplier FROM a FULL JOIN b ON a.item = b.item`,
      );
      times.push(performance.now() - begin);
    }
    await client.end();
    return times.sort((x, y) => x - y)[Math.floor(ROUNDS / 2)] ?? NaN;
  } finally {
    await cluster.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

function median(run: () => void): number {
  const times = Array.from({ length: ROUNDS }, () => {
    const begin = performance.now();
    run();
    return performance.now() - begin;
  });
  return times.sort((a, b) => a - b)[Math.floor(ROUNDS / 2)] ?? NaN;
}
