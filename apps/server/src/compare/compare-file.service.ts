import { Injectable } from '@nestjs/common';
import type { CompareRow, CompareRowSide, FileAnswer } from '@stem-trace/contract';
import { sayPairedBy, sayWhat } from '@stem-trace/core';
import { writeCsv, writePdf, writeXlsx, type Cell, type OutTable } from '@stem-trace/formats';
import { sayLens } from '../bom/bill-file.service.js';
import type { Person } from '../database/entities/person.js';
import { CompareService, type CompareRequest } from './compare.service.js';

export interface CompareFileRequest extends CompareRequest {
  readonly format: 'csv' | 'xlsx' | 'pdf';
  /** Whether rows that are the same stand there too. */
  readonly same: boolean;
}

const MEDIA = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  pdf: 'application/pdf',
} as const;

/** A comparison as a file, with signs, colours and their legend. */
@Injectable()
export class CompareFileService {
  constructor(private readonly comparisons: CompareService) {}

  async file(request: CompareFileRequest, person: Person): Promise<FileAnswer> {
    const table = await this.table(request, person);
    const name = `${table.title.replace(/[/:]/g, '-')}.${request.format}`;
    const bytes = await bytesOf(table, request.format);
    return { name, media: MEDIA[request.format], base64: Buffer.from(bytes).toString('base64') };
  }

  private async table(request: CompareFileRequest, person: Person): Promise<OutTable> {
    const { from, to, sentence, rows, whole } = await this.comparisons.compare(request, person);
    const called = ({ number, version }: { number: string; version: string }): string =>
      `${number} ${version}`.trim();
    const shown = request.same ? rows : rows.filter(({ sign }) => sign !== 'same');
    const said = (side: typeof from): string => [called(side), side.name, side.at.slice(0, 10), side.author, sayLens(side.lens)].filter(Boolean).join(', '); // prettier-ignore
    return {
      title: `Differences from ${called(from)} to ${called(to)}`,
      says: [
        sentence,
        `From: ${said(from)}`,
        `To: ${said(to)}`,
        ...(whole.length > 0
          ? [`The two themselves: ${whole.map(({ what, before, after }) => `${what} ${before || 'none'} → ${after || 'none'}`).join('; ')}`] // prettier-ignore
          : []),
      ],
      columns: [
        { title: 'Sign', width: 6 },
        { title: 'Find', width: 6 },
        { title: 'Number', width: 22, isTree: true },
        { title: 'Name', width: 26 },
        { title: 'Version from', width: 9 },
        { title: 'Version to', width: 9 },
        { title: 'Quantity from', width: 10, align: 'right' },
        { title: 'Quantity to', width: 10, align: 'right' },
        ...request.columns.flatMap((name) => [
          { title: `${name} from`, width: 12 },
          { title: `${name} to`, width: 12 },
        ]),
        { title: 'What', width: 34 },
      ],
      rows: shown.map((row) => ({
        level: row.level,
        ...(row.sign === 'same' ? {} : { mark: row.sign }),
        cells: cellsOf(row, request.columns),
      })),
    };
  }
}

const SIGNS = { added: '+', removed: '−', changed: '≠', replaced: '⇄', moved: '↕', same: '=' } as const;

function cellsOf(row: CompareRow, columns: readonly string[]): Cell[] {
  const { before, after } = row;
  const both = (of: (side: CompareRowSide) => string): [Cell, Cell] => [
    before ? of(before) : null,
    after ? of(after) : null,
  ];
  return [
    SIGNS[row.sign],
    (after ?? before)?.find ?? '',
    row.number,
    (after ?? before)?.name ?? '',
    ...both(({ version }) => version),
    ...both(({ amount }) => amount),
    ...columns.flatMap((name) => both(({ values }) => values[name] ?? '')),
    [row.sign === 'same' ? '' : sayWhat(row).join('; '), sayPairedBy(row.by)].filter(Boolean).join(' · '),
  ];
}

async function bytesOf(table: OutTable, format: CompareFileRequest['format']): Promise<string | Uint8Array> {
  if (format === 'csv') return writeCsv(table);
  return format === 'xlsx' ? writeXlsx(table) : writePdf(table, new Date().toISOString().slice(0, 10));
}
