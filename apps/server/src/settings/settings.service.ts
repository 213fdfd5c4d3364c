import { Injectable } from '@nestjs/common';
import { DEFAULT_TITLE_BLOCK, type TitleBlockRule } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { record } from '../notices/record.js';
import { ProblemError } from '../problems/problem.js';

const TITLE_BLOCK = 'title block';

/** What is set for the whole store. */
@Injectable()
export class SettingsService {
  constructor(private readonly database: DataSource) {}

  /** What the fields of title blocks mean here. */
  async titleBlock(manager: EntityManager = this.database.manager): Promise<readonly TitleBlockRule[]> {
    const [row]: { value: TitleBlockRule[] }[] = await manager.query(
      'SELECT value FROM setting WHERE name = $1',
      [TITLE_BLOCK],
    );
    return row?.value ?? DEFAULT_TITLE_BLOCK;
  }

  /** Holds for what is read from now on, sheets that wait included. */
  async setTitleBlock(rules: readonly TitleBlockRule[], by: Person): Promise<readonly TitleBlockRule[]> {
    if (by.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may set what title blocks mean.');
    await this.database.transaction(async (manager) => {
      await manager.query(
        'INSERT INTO setting (name, value) VALUES ($1, $2) ON CONFLICT (name) DO UPDATE SET value = $2',
        [TITLE_BLOCK, JSON.stringify(rules)],
      );
      await record(manager, [
        {
          personId: by.id,
          kind: 'setting',
          itemId: null,
          says: `${by.name} set what the fields of title blocks mean`,
          detail: { rules },
        },
      ]);
    });
    return rules;
  }
}
