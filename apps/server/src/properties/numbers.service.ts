import { Injectable } from '@nestjs/common';
import type { NumberSchemeRow, ReserveRequest } from '@stem-trace/contract';
import { serialNumber, validateScheme, type ChangeKind, type NumberScheme } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRow, readRows, text, word } from '../database/read-rows.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { freeOf, nextNumbers, noScheme, SCHEME, type SchemeRow } from './next-numbers.js';

/** Serial numbers: each is given once, to whoever asks first, and never again, used or not. */
@Injectable()
export class NumbersService {
  constructor(private readonly database: DataSource) {}

  async list(): Promise<NumberSchemeRow[]> {
    const rows = await readRows<NumberScheme & { class: string | null; for: ChangeKind | null }>(
      this.database,
      {
        name: text,
        prefix: text,
        digits: number,
        suffix: text,
        class: orNull(text),
        for: orNull(word<ChangeKind>()),
      },
      `SELECT s.name, s.prefix, s.digits, s.suffix, c.name AS class, s.kind AS "for"
       FROM number_scheme s LEFT JOIN class c ON c.id = s.class_id ORDER BY lower(s.name)`,
    );
    return Promise.all(
      rows.map(async ({ for: kind, ...scheme }) => {
        const [next = ''] = await nextNumbers(this.database, scheme.name, 1);
        return { ...scheme, next, ...(kind === null ? {} : { for: kind }) };
      }),
    );
  }

  /** Makes a scheme, or changes how one looks; its counter goes on from where it is. */
  async set(scheme: NumberScheme & { readonly class: string }, by: Person): Promise<NumberSchemeRow[]> {
    if (by.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may set number schemes.');
    const invalid = validateScheme(scheme);
    if (invalid !== undefined)
      throw new ProblemError('INPUT_INVALID', `With ${scheme.prefix}…${scheme.suffix} ${invalid}.`);
    await this.database.transaction(async (manager) => {
      await manager.query(
        `INSERT INTO number_scheme (name, prefix, digits, suffix, class_id)
         VALUES ($1, $2, $3, $4, (SELECT id FROM class WHERE lower(name) = lower($5)))
         ON CONFLICT (lower(name)) DO UPDATE SET name = $1, prefix = $2, digits = $3, suffix = $4, class_id = excluded.class_id`,
        [scheme.name, scheme.prefix, scheme.digits, scheme.suffix, scheme.class],
      );
      await record(manager, [
        { personId: by.id, kind: 'setting', itemId: null, says: `${by.name} set the numbers ${scheme.name}` },
      ]);
    });
    return this.list();
  }

  /** The next number of the scheme for change requests, or orders. */
  async next(kind: ChangeKind): Promise<string> {
    const { name } = await readRow(
      this.database,
      { name: text },
      'SELECT name FROM number_scheme WHERE kind = $1',
      [kind],
    );
    const [given = ''] = await this.reserve({ scheme: name, count: 1 });
    return given;
  }

  /**
   * Takes the next numbers of a scheme. The counter moves in a statement of its own, so that no two ever get the same;
   * numbers that items have already are passed over.
   */
  async reserve({ scheme: name, count }: ReserveRequest): Promise<string[]> {
    const numbers: string[] = [];
    while (numbers.length < count) {
      const wanted = count - numbers.length;
      const [scheme] = await readRows<SchemeRow>(
        this.database,
        SCHEME,
        'UPDATE number_scheme SET next = next + $2 WHERE lower(name) = lower($1) RETURNING name, prefix, digits, suffix, next',
        [name, wanted],
      );
      if (!scheme) throw noScheme(name);
      const first = Number(scheme.next) - wanted;
      const candidates = Array.from({ length: wanted }, (_, index) => serialNumber(scheme, first + index));
      numbers.push(...(await freeOf(this.database, candidates)));
    }
    return numbers;
  }
}
