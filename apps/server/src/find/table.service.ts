import { PassThrough, pipeline, Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import type { FindLens, FoundRow, TableColumn } from '@stem-trace/contract';
import { toSi } from '@stem-trace/core';
import { stringify } from 'csv-stringify';
// Read at the start: read later, it would keep everybody waiting for some tenths of a second.
import ExcelJS from 'exceljs';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { mayBeTold } from '../database/conditions.js';
import { number, orNull, readRows, text } from '../database/read-rows.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { record } from '../trail/record.js';
import { FindService, type FindOrder } from './find.service.js';
import { Matching, type Match } from './matching.js';

export interface TableRequest extends FindOrder {
  readonly words: string;
  readonly place?: string;
  readonly lens: FindLens;
  /** `TableColumn`, or `property:NAME`. */
  readonly columns: readonly string[];
  readonly format: 'csv' | 'xlsx';
}

const CHUNK = 2000;
const MOST = 1_000_000;
const PROPERTY = 'property:';

/** A cell: text, a number in the unit that the heading says, or a time. */
type Cell = string | number | Date | null;

interface Column {
  readonly key: string;
  readonly title: string;
  /** Base units are so many of the unit in the heading, plus `zero`; only of properties that are numbers. */
  readonly unit?: { readonly step: number; readonly zero: number };
  /** Whether it holds days or times. */
  readonly time?: 'day' | 'moment';
}

const TITLES: Readonly<Record<TableColumn, string>> = {
  number: 'Number',
  name: 'Name',
  kind: 'Kind',
  version: 'Version',
  state: 'State',
  heldBy: 'Held by',
  changed: 'Changed',
  changedBy: 'By',
  class: 'Class',
  place: 'Place',
};

/** What was found as a table to take away: the columns, the order and the groups that are shown. */
@Injectable()
export class FindTableService {
  constructor(
    private readonly database: DataSource,
    private readonly matching: Matching,
    private readonly finder: FindService,
    private readonly definitions: DefinitionsService,
  ) {}

  /** All that a search finds, as it comes from the database. @throws ProblemError QUERY_WRONG */
  async table(request: TableRequest, person: Person): Promise<Readable> {
    const match = await this.matching.of(request.words, person, request.place, request.lens);
    const ids = await this.finder.ids(match, request, MOST, 0);
    await record(this.database.manager, [
      {
        personId: person.id,
        kind: 'export',
        itemId: null,
        says: `${person.name} exported ${ids.length} items found by '${request.words}'`,
        detail: { format: request.format },
      },
    ]);
    const columns = await this.columnsOf(request.columns, ids);
    const rows = this.cells(ids, columns, match);
    if (request.format === 'xlsx') return workbook(columns, rows);
    const out = stringify({
      bom: true,
      record_delimiter: '\r\n',
      escape_formulas: true,
      cast: { date: (value: Date) => value.toISOString() },
    });
    out.write(columns.map(({ title }) => title));
    // A failure in the middle breaks the download off; the log has it.
    pipeline(Readable.from(rows), out, () => undefined);
    return out;
  }

  /** Numbers go under the unit that the store has for the property, else under their base units. */
  private async columnsOf(keys: readonly string[], ids: readonly string[]): Promise<readonly Column[]> {
    const { definitions } = await this.definitions.list();
    const byName = new Map(definitions.map((definition) => [definition.name.toLowerCase(), definition]));
    const columns: Column[] = [];
    for (const key of keys) {
      if (!key.startsWith(PROPERTY)) {
        const isTime = key === 'changed';
        columns.push({ key, title: TITLES[key as TableColumn], ...(isTime ? { time: 'moment' } : {}) });
        continue;
      }
      const name = key.slice(PROPERTY.length);
      const definition = byName.get(name.toLowerCase());
      const base = await this.baseUnitOf(name, ids);
      const unit = definition?.unit ?? '';
      const meaning = unit === '' ? undefined : meaningOf(unit);
      if (base === null)
        columns.push({ key, title: name, ...(definition?.kind === 'date' ? { time: 'day' } : {}) });
      else if (meaning?.base === base) columns.push({ key, title: `${name} [${unit}]`, unit: meaning });
      else columns.push({ key, title: base === '' ? name : `${name} [${base}]`, unit: { step: 1, zero: 0 } });
    }
    return columns;
  }

  /** Base units of a property's numbers among the items; null where it has none, or several that are not one. */
  private async baseUnitOf(name: string, ids: readonly string[]): Promise<string | null> {
    const units = await readRows(
      this.database,
      { unit: orNull(text) },
      `SELECT DISTINCT CASE WHEN number IS NULL THEN NULL ELSE coalesce(unit, '') END AS unit
       FROM item_property WHERE key = $1 AND item_id = ANY($2::bigint[])`,
      [name.toLowerCase(), ids],
    );
    return units.length === 1 ? (units[0]?.unit ?? null) : null;
  }

  private async *cells(
    ids: readonly string[],
    columns: readonly Column[],
    match: Match,
  ): AsyncGenerator<Cell[]> {
    const names = columns.flatMap(({ key }) =>
      key.startsWith(PROPERTY) ? [key.slice(PROPERTY.length)] : [],
    );
    for (let at = 0; at < ids.length; at += CHUNK) {
      const some = ids.slice(at, at + CHUNK);
      const numbers = await this.numbersOf(some, columns, match);
      for (const [index, row] of (await this.finder.rows(some, names, match)).entries())
        yield columns.map((column) => cellOf(row, column, numbers.get(`${some[index]} ${column.key}`)));
    }
  }

  /** Numbers in base units, by item and column. */
  private async numbersOf(
    ids: readonly string[],
    columns: readonly Column[],
    { hiddenPlaces }: Match,
  ): Promise<ReadonlyMap<string, number>> {
    const keys = columns.flatMap(({ key, unit }) => (unit ? [key.slice(PROPERTY.length).toLowerCase()] : []));
    if (keys.length === 0) return new Map();
    const rows = await readRows(
      this.database,
      { id: text, key: text, value: number },
      `SELECT item_id AS id, key, number::float8 AS value FROM item_property p
       WHERE item_id = ANY($1::bigint[]) AND key = ANY($2::text[]) AND number IS NOT NULL AND ${mayBeTold('$3')}`,
      [ids, keys, hiddenPlaces],
    );
    const byKey = new Map(columns.map(({ key }) => [key.toLowerCase(), key]));
    return new Map(rows.map(({ id, key, value }) => [`${id} ${byKey.get(PROPERTY + key)}`, value]));
  }
}

/** How a unit's values lie in base units: `base = zero + value * step`. */
function meaningOf(
  unit: string,
): { readonly step: number; readonly zero: number; readonly base: string } | undefined {
  const [zero, one] = [toSi(0, unit), toSi(1, unit)];
  return zero && one && { zero: zero.value, step: one.value - zero.value, base: one.unit };
}

function cellOf(row: FoundRow, column: Column, value: number | undefined): Cell {
  const { key, unit, time } = column;
  if (key.startsWith(PROPERTY)) {
    if (unit) return value === undefined ? null : Number(((value - unit.zero) / unit.step).toPrecision(12));
    const shown = row.properties[key.slice(PROPERTY.length).toLowerCase()] ?? '';
    return time === 'day' && /^\d{4}-\d{2}-\d{2}$/.test(shown) ? new Date(`${shown}T00:00:00Z`) : shown;
  }
  switch (key as TableColumn) {
    case 'changed':
      return new Date(row.changedAt);
    case 'heldBy':
      return row.heldBy?.name ?? '';
    case 'class':
      return row.class ?? '';
    case 'version':
      return row.released === null ? row.version : `${row.version} (released ${row.released})`;
    default:
      return row[key as Exclude<TableColumn, 'changed' | 'heldBy' | 'class' | 'version'>];
  }
}

const FORMATS = { day: 'yyyy-mm-dd', moment: 'yyyy-mm-dd hh:mm' } as const;

function workbook(columns: readonly Column[], rows: AsyncGenerator<Cell[]>): Readable {
  const out = new PassThrough();
  const write = async (): Promise<void> => {
    const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out, useStyles: true });
    const sheet = book.addWorksheet('Found', { views: [{ state: 'frozen', ySplit: 1 }] });
    sheet.columns = columns.map(({ title, time }) => ({
      header: title,
      width: Math.max(12, title.length + 2),
      ...(time ? { style: { numFmt: FORMATS[time] } } : {}),
    }));
    for await (const row of rows) sheet.addRow(row).commit();
    sheet.commit();
    await book.commit();
  };
  write().catch((error: unknown) => out.destroy(error instanceof Error ? error : new Error(String(error))));
  return out;
}
