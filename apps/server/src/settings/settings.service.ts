import { Injectable } from '@nestjs/common';
import {
  ALL_RULES,
  DEFAULT_ISSUED,
  DEFAULT_TITLE_BLOCK,
  type IssuedSetting,
  type ReadinessRule,
  type RevisionScheme,
  type TitleBlockRule,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, readRows, text } from '../database/read-rows.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

const TITLE_BLOCK = 'title block';
const REVISIONS = 'revision scheme';
const REVISION_PROPERTY = 'revision property';
const READINESS = 'readiness of bills';
const ISSUED = 'issued files';
const ZONE = 'site zone';

/** What is set for the whole store. */
@Injectable()
export class SettingsService {
  constructor(private readonly database: DataSource) {}

  /** What the fields of title blocks mean here. */
  async titleBlock(manager: EntityManager = this.database.manager): Promise<readonly TitleBlockRule[]> {
    return (await read<readonly TitleBlockRule[]>(manager, TITLE_BLOCK)) ?? DEFAULT_TITLE_BLOCK;
  }

  /** Holds for what is read from now on, sheets that wait included. */
  async setTitleBlock(rules: readonly TitleBlockRule[], by: Person): Promise<readonly TitleBlockRule[]> {
    await this.set(TITLE_BLOCK, rules, by);
    return rules;
  }

  /** How revisions are called that are opened from now on; those there are can be aligned. */
  async setRevisionScheme(scheme: RevisionScheme, by: Person): Promise<RevisionScheme> {
    await this.set(REVISIONS, scheme, by);
    return scheme;
  }

  /** The property into which the code of a revision is written when one is opened after another; none where it is empty. */
  async setRevisionProperty(property: string, by: Person): Promise<string> {
    await this.set(REVISION_PROPERTY, property, by);
    return property;
  }

  /** What bills are checked for before their release; everything where nobody said otherwise. */
  async readiness(manager: EntityManager = this.database.manager): Promise<readonly ReadinessRule[]> {
    return (await read<readonly ReadinessRule[]>(manager, READINESS)) ?? ALL_RULES;
  }

  async setReadiness(rules: readonly ReadinessRule[], by: Person): Promise<readonly ReadinessRule[]> {
    await this.set(READINESS, rules, by);
    return rules;
  }

  /** Which files are made of what is released. */
  async issued(manager: EntityManager = this.database.manager): Promise<IssuedSetting> {
    return (await read<IssuedSetting>(manager, ISSUED)) ?? DEFAULT_ISSUED;
  }

  /** Holds for what is released from now on. */
  async setIssued(setting: IssuedSetting, by: Person): Promise<IssuedSetting> {
    await this.set(ISSUED, setting, by);
    return setting;
  }

  /** The zone in which days begin and end here. */
  async zone(): Promise<string> {
    return (await read<string>(this.database.manager, ZONE)) ?? 'UTC';
  }

  /** Holds for days from now on; moments stay what they are. @throws ProblemError INPUT_INVALID for a zone that nobody knows */
  async setZone(zone: string, by: Person): Promise<string> {
    const known = await readRows(
      this.database,
      { name: text },
      'SELECT name FROM pg_timezone_names WHERE name = $1',
      [zone],
    );
    if (known.length === 0)
      throw new ProblemError('INPUT_INVALID', `${zone} is no time zone. Choose one such as Europe/Berlin.`);
    await this.set(ZONE, zone, by);
    return zone;
  }

  private async set(name: string, value: unknown, by: Person): Promise<void> {
    if (by.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may change what is set for the store.');
    await this.database.transaction(async (manager) => {
      await manager.query(
        'INSERT INTO setting (name, value) VALUES ($1, $2) ON CONFLICT (name) DO UPDATE SET value = $2',
        [name, JSON.stringify(value)],
      );
      await record(manager, [
        {
          personId: by.id,
          kind: 'setting',
          itemId: null,
          says: `${by.name} changed the setting ${name}`,
          detail: { value },
        },
      ]);
    });
  }
}

/** How revisions are called in this store. */
export async function revisionScheme(manager: EntityManager): Promise<RevisionScheme> {
  return (await read<RevisionScheme>(manager, REVISIONS)) ?? 'letters';
}

/** Name of the property that says the revision; empty where none does. */
export async function revisionProperty(manager: EntityManager): Promise<string> {
  return (await read<string>(manager, REVISION_PROPERTY)) ?? '';
}

async function read<T>(manager: EntityManager, name: string): Promise<T | undefined> {
  const [row] = await readRows(manager, { value: json<T>() }, 'SELECT value FROM setting WHERE name = $1', [
    name,
  ]);
  return row?.value;
}
