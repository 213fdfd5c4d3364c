import { randomUUID } from 'node:crypto';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import type { ListView, MapListRequest } from '@stem-trace/contract';
import { numberKey, proposeMapping, type TableMapping } from '@stem-trace/core';
import type { ListReading } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { BlobStore } from '../blobs/blob-store.js';
import { json, readRows, text } from '../database/read-rows.js';
import { PerPerson } from '../work/per-person.js';
import { ListPool } from '../jobs/list-pool.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { ListTreeService, numbersOf } from './list-tree.service.js';

const KEPT_DAYS = 30;
const PREVIEW_ROWS = 30;
const MOST_UNKNOWN = 20;
/** Bytes of a file. */
export const MOST_LIST_BYTES = 64 * 1024 * 1024;
/** What the database keeps of one list. */
const MOST_READING = 60_000_000;

/** Lists that somebody sent, to be compared: kept for a while, with what their columns mean. */
@Injectable()
export class ListsService implements OnModuleDestroy {
  private readonly pool = new ListPool();
  private readonly limit = new PerPerson();

  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly lists: ListTreeService,
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
  ) {}

  async onModuleDestroy(): Promise<void> {
    await this.pool.close();
  }

  /** @throws ProblemError INPUT_INVALID with what is wrong with the file, and where */
  async bring(name: string, bytes: Uint8Array, person: Person): Promise<ListView> {
    const reading = await this.limit.run(person.id, () => this.read(name, bytes));
    const mapping = await this.firstMapping(reading, person);
    const id = randomUUID();
    await this.database.query(`DELETE FROM bom_file WHERE brought_at < now() - $1 * interval '1 day'`, [
      KEPT_DAYS,
    ]);
    await this.database.query(
      'INSERT INTO bom_file (id, person_id, name, reading, mapping) VALUES ($1, $2, $3, $4, $5)',
      [id, person.id, name, JSON.stringify(reading), JSON.stringify(mapping)],
    );
    return this.view(id, person);
  }

  /**
   * The same of a document of the store, of whichever version is named.
   *
   * @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, NOT_ALLOWED, FILE_TOO_LARGE; INPUT_INVALID as `bring`
   */
  async take(reference: string, person: Person): Promise<ListView> {
    const { sha256, fileName, number } = await this.catalogue.resolve(reference, person, 'fetch');
    if ((await this.blobs.sizeOf(sha256)) > MOST_LIST_BYTES)
      throw new ProblemError('FILE_TOO_LARGE', `${number} holds more than can be compared.`);
    return this.bring(fileName, await this.blobs.read(sha256), person);
  }

  /** Says what columns mean, and keeps that under a name where one is given. @throws ProblemError NOT_FOUND */
  async map(id: string, { mapping, keepAs }: MapListRequest, person: Person): Promise<ListView> {
    await this.lists.find(id);
    await this.database.query('UPDATE bom_file SET mapping = $2 WHERE id = $1', [
      id,
      JSON.stringify(mapping),
    ]);
    if (keepAs !== '')
      await this.database.query(
        `INSERT INTO bom_mapping (person_id, name, mapping) VALUES ($1, $2, $3)
         ON CONFLICT (person_id, name) DO UPDATE SET mapping = EXCLUDED.mapping`,
        [person.id, keepAs, JSON.stringify(mapping)],
      );
    return this.view(id, person);
  }

  /** @throws ProblemError NOT_FOUND */
  async view(id: string, person: Person): Promise<ListView> {
    const list = await this.lists.find(id);
    const { reading, mapping } = list;
    const { lines, problems, count } = this.lists.linesOf(list);
    const rights = await this.rights.of(person);
    const numbers = numbersOf(lines);
    const known = await this.lists.known(numbers, rights);
    const unknown = [...new Set(numbers.filter((number) => !known.has(numberKey(number))))];
    const sheet =
      reading.kind === 'table'
        ? (reading.sheets.find(({ name }) => name === mapping.sheet) ?? reading.sheets[0])
        : undefined;
    return {
      id,
      name: list.name,
      sheets: reading.kind === 'table' ? reading.sheets.map(({ name }) => name) : [],
      preview: (sheet?.rows ?? [])
        .slice(0, PREVIEW_ROWS)
        .map((row) => row.map((cell) => (cell === null ? '' : String(cell)))),
      mapping,
      rows: count,
      problems,
      unknown: unknown.length,
      alike: await this.alike(unknown.slice(0, MOST_UNKNOWN), rights.placesWithout('see')),
      kept: await this.kept(person),
    };
  }

  private async read(name: string, bytes: Uint8Array): Promise<ListReading> {
    const file = join(tmpdir(), `stem-trace-${randomUUID()}`);
    await writeFile(file, bytes, { mode: 0o600 });
    try {
      const report = await this.pool.read({ file, name });
      if (report.kind === 'problem') {
        const where = report.line > 0 ? ` (line ${report.line})` : '';
        throw new ProblemError('INPUT_INVALID', `${name}${where}: ${report.reason}. Nothing was kept.`);
      }
      if (report.reading.length > MOST_READING)
        throw new ProblemError(
          'FILE_TOO_LARGE',
          `${name} holds more than can be compared. Send a part of it.`,
        );
      return JSON.parse(report.reading) as ListReading;
    } finally {
      await rm(file, { force: true });
    }
  }

  /** One that was kept for a table with the same headings, else by what the headings say. */
  private async firstMapping(reading: ListReading, person: Person): Promise<TableMapping> {
    const sheet = reading.kind === 'table' ? reading.sheets[0] : undefined;
    const rows = sheet?.rows ?? [];
    const proposed = proposeMapping(rows, sheet?.name ?? '');
    const headings = (rows[proposed.header] ?? []).map((cell) => String(cell ?? ''));
    const same = (await this.kept(person)).find(
      ({ mapping }) =>
        mapping.header === proposed.header &&
        mapping.further.every(({ at, name }) => headings[at] === name) &&
        Object.values(mapping.columns).every((at) => at < headings.length),
    );
    return same ? { ...same.mapping, sheet: proposed.sheet } : proposed;
  }

  private kept(person: Person): Promise<{ name: string; mapping: TableMapping }[]> {
    return readRows(
      this.database,
      { name: text, mapping: json<TableMapping>() },
      'SELECT name, mapping FROM bom_mapping WHERE person_id = $1 ORDER BY lower(name)',
      [person.id],
    );
  }

  /** Numbers of the store that are written like some of the list. */
  private async alike(numbers: readonly string[], hidden: readonly string[]): Promise<ListView['alike']> {
    return readRows(
      this.database,
      { number: text, like: text, name: text },
      `SELECT u.number, near.number AS "like", near.name FROM unnest($1::text[], $2::text[]) AS u(number, key)
       CROSS JOIN LATERAL (SELECT number, name FROM item WHERE number_key % u.key AND place_id <> ALL($3::bigint[])
         AND newest_version_id IS NOT NULL ORDER BY similarity(number_key, u.key) DESC, number_key LIMIT 1) near`,
      [numbers, numbers.map(numberKey), hidden],
    );
  }
}
