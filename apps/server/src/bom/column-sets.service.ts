import { Injectable } from '@nestjs/common';
import type { ColumnSet } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { flag, listOf, orNull, readRows, text } from '../database/read-rows.js';

/** Sets of columns under names, for oneself and for colleagues. */
@Injectable()
export class ColumnSetsService {
  constructor(private readonly database: DataSource) {}

  /** One's own, and what others share. */
  list(person: Person): Promise<ColumnSet[]> {
    return readRows<ColumnSet>(
      this.database,
      { name: text, columns: listOf(text), isShared: flag, by: orNull(text) },
      `SELECT s.name, s.columns, s.is_shared AS "isShared", CASE WHEN s.person_id = $1 THEN NULL ELSE p.name END AS "by"
       FROM column_set s JOIN person p ON p.id = s.person_id WHERE s.person_id = $1 OR s.is_shared
       ORDER BY s.person_id <> $1, lower(s.name), p.name`,
      [person.id],
    );
  }

  async put({ name, columns, isShared }: Omit<ColumnSet, 'by'>, person: Person): Promise<ColumnSet[]> {
    await this.database.query(
      `INSERT INTO column_set (person_id, name, columns, is_shared) VALUES ($1, $2, $3, $4)
       ON CONFLICT (person_id, name) DO UPDATE SET columns = EXCLUDED.columns, is_shared = EXCLUDED.is_shared`,
      [person.id, name, columns, isShared],
    );
    return this.list(person);
  }

  async remove(name: string, person: Person): Promise<ColumnSet[]> {
    await this.database.query('DELETE FROM column_set WHERE person_id = $1 AND name = $2', [person.id, name]);
    return this.list(person);
  }
}
