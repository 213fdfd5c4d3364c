import { once } from 'node:events';
import type { Readable } from 'node:stream';
import { Injectable, Logger } from '@nestjs/common';
import type { AuditAnswer, AuditQuery, AuditRow } from '@stem-trace/contract';
import { stringify } from 'csv-stringify';
import { DataSource } from 'typeorm';
import { orNull, readRows, text, timeText, word } from '../database/read-rows.js';

export interface AuditPage extends AuditQuery {
  /** Id of the last row of the page before. */
  readonly before?: string;
  readonly limit: number;
}

/** Rows of the CSV that are read at a time. */
const BATCH = 1000;

/** Reads the audit trail; it is written by `record` alone. */
@Injectable()
export class AuditService {
  private readonly logger = new Logger('audit');

  constructor(private readonly database: DataSource) {}

  /** One page, newest first, by key: the cost of a page does not grow with how far back it lies. */
  async list({ limit, before, item, person, kind, since, until }: AuditPage): Promise<AuditAnswer> {
    const rows = await readRows<AuditRow>(
      this.database,
      {
        id: text,
        at: timeText,
        person: text,
        kind: word<AuditRow['kind']>(),
        number: orNull(text),
        says: text,
      },
      `SELECT e.id, e.at, p.login AS person, e.kind, i.number, e.detail->>'says' AS says
       FROM event e JOIN person p ON p.id = e.person_id LEFT JOIN item i ON i.id = e.item_id
       WHERE ($1::bigint IS NULL OR e.id < $1)
         AND ($2::text IS NULL OR lower(i.number) = lower($2))
         AND ($3::text IS NULL OR p.login = $3)
         AND ($4::text IS NULL OR e.kind = $4)
         AND ($5::date IS NULL OR e.at >= site_midnight($5::date))
         AND ($6::date IS NULL OR e.at < site_midnight($6::date + 1))
       ORDER BY e.id DESC LIMIT $7`,
      [before, item, person, kind, since, until, limit + 1].map((value) => value ?? null),
    );
    return { rows: rows.slice(0, limit), more: rows.length > limit };
  }

  /**
   * Everything that matches as CSV (RFC 4180) with a header, written while it is read. Texts that a spreadsheet would
   * take for a formula are escaped.
   */
  csv(query: AuditQuery): Readable {
    const csv = stringify({
      header: true,
      columns: ['at', 'person', 'kind', 'number', 'says'],
      record_delimiter: 'windows',
      escape_formulas: true,
      cast: { date: (value) => value.toISOString() },
    });
    void this.fill(csv, query).catch((error: unknown) => {
      this.logger.error(error instanceof Error ? error.stack : error);
      csv.destroy(error instanceof Error ? error : new Error(String(error)));
    });
    return csv;
  }

  private async fill(csv: ReturnType<typeof stringify>, query: AuditQuery): Promise<void> {
    let before: string | undefined;
    for (;;) {
      const { rows, more } = await this.list({
        ...query,
        limit: BATCH,
        ...(before === undefined ? {} : { before }),
      });
      for (const row of rows) if (!csv.write(row)) await once(csv, 'drain');
      before = rows.at(-1)?.id;
      if (!more) break;
    }
    csv.end();
  }
}
