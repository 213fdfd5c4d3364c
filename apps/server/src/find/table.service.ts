import { PassThrough, pipeline, Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import type { FoundRow } from '@stem-trace/contract';
import { stringify } from 'csv-stringify';
import ExcelJS from 'exceljs';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { record } from '../trail/record.js';
import { FindService, type FindOrder } from './find.service.js';
import { Matching } from './matching.js';

export interface TableRequest extends FindOrder {
  readonly words: string;
  readonly place?: string;
  readonly columns: readonly string[];
  readonly format: 'csv' | 'xlsx';
}

const CHUNK = 2000;
const MOST = 1_000_000;

/** What was found as a table to take away. */
@Injectable()
export class FindTableService {
  constructor(
    private readonly database: DataSource,
    private readonly matching: Matching,
    private readonly finder: FindService,
  ) {}

  /** All that a search finds, as it comes from the database. @throws ProblemError QUERY_WRONG */
  async table(request: TableRequest, person: Person): Promise<Readable> {
    const match = await this.matching.of(request.words, person, request.place);
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
    const rows = this.cells(ids, request.columns);
    if (request.format === 'xlsx') return workbook(rows);
    const out = stringify({ bom: true, record_delimiter: '\r\n', escape_formulas: true });
    // A failure in the middle breaks the download off; the log has it.
    pipeline(Readable.from(rows), out, () => undefined);
    return out;
  }

  private async *cells(ids: readonly string[], columns: readonly string[]): AsyncGenerator<string[]> {
    yield [
      'Number',
      'Name',
      'Kind',
      'Version',
      'State',
      'Class',
      'Place',
      'Held by',
      'Changed',
      'By',
      ...columns,
    ];
    for (let at = 0; at < ids.length; at += CHUNK)
      for (const row of await this.finder.rows(ids.slice(at, at + CHUNK), columns))
        yield cellsOf(row, columns);
  }
}

function cellsOf(row: FoundRow, columns: readonly string[]): string[] {
  return [
    row.number,
    row.name,
    row.kind,
    row.version,
    row.state,
    row.class ?? '',
    row.place,
    row.heldBy?.name ?? '',
    new Date(row.changedAt).toISOString(),
    row.changedBy,
    ...columns.map((name) => row.properties[name.toLowerCase()] ?? ''),
  ];
}

function workbook(rows: AsyncGenerator<string[]>): Readable {
  const out = new PassThrough();
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out });
  const sheet = book.addWorksheet('Found', { views: [{ state: 'frozen', ySplit: 1 }] });
  const write = async (): Promise<void> => {
    for await (const row of rows) sheet.addRow(row).commit();
    sheet.commit();
    await book.commit();
  };
  write().catch((error: unknown) => out.destroy(error instanceof Error ? error : new Error(String(error))));
  return out;
}
