import { Injectable } from '@nestjs/common';
import type { DeriveRequest, KeepPlanRequest, PlanDraft } from '@stem-trace/contract';
import { known } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { flag, json, readRow, readRows, text, timeText } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { seenRequest } from './seen-request.js';

/** A draft as it lies in the database; the origin is there as an id, whatever it is called by now. */
interface Kept {
  readonly item: string;
  readonly draft: DeriveRequest;
}

/** Plans that people keep, go on with and share. */
@Injectable()
export class DraftsService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** The last changed first. @throws ProblemError ITEM_UNKNOWN */
  async list(item: string, person: Person): Promise<PlanDraft[]> {
    const origin = await this.catalogue.resolve(item, person, 'fetch');
    return this.rows(origin.itemId, person);
  }

  /** @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN */
  async keep({ item, name, isShared, request }: KeepPlanRequest, person: Person): Promise<PlanDraft> {
    const origin = await this.catalogue.resolve(item, person, 'fetch');
    const { id } = await readRow(
      this.database,
      { id: text },
      `INSERT INTO plan_draft (name, item_id, version_id, person_id, shared, draft) VALUES ($1, $2, $3, $4, $5, $6)
       ON CONFLICT (person_id, item_id, name) DO UPDATE
       SET version_id = excluded.version_id, shared = excluded.shared, draft = excluded.draft, changed_at = now()
       RETURNING id`,
      // The key is of one attempt to make a variant.
      [name.trim(), origin.itemId, origin.id, person.id, isShared, JSON.stringify({ ...request, key: '' })],
    );
    const rows = await this.rows(origin.itemId, person);
    return known(new Map(rows.map((row) => [row.id, row])), id);
  }

  /**
   * @returns what was kept, about the origin's newest version
   * @throws ProblemError NOT_FOUND where there is none, or it is not the asker's to see
   */
  async open(id: string, person: Person): Promise<DeriveRequest> {
    const [kept] = await readRows<Kept>(
      this.database,
      { item: text, draft: json<DeriveRequest>() },
      `SELECT i.number AS item, d.draft FROM plan_draft d JOIN item i ON i.id = d.item_id
       WHERE d.id = $1 AND (d.shared OR d.person_id = $2)`,
      [id, person.id],
    );
    if (!kept) throw unknown();
    const { item, draft } = kept;
    await this.catalogue.resolve(item, person, 'fetch').catch(() => {
      throw unknown();
    });
    const hidden = (await this.rights.of(person)).placesWithout('see');
    return seenRequest(this.database, { ...draft, item }, hidden);
  }

  /** @throws ProblemError NOT_FOUND where the asker has no such plan */
  async remove(id: string, person: Person): Promise<void> {
    const gone = await readRows(
      this.database,
      { id: text },
      'WITH gone AS (DELETE FROM plan_draft WHERE id = $1 AND person_id = $2 RETURNING id) SELECT id FROM gone',
      [id, person.id],
    );
    if (gone.length === 0) throw unknown();
  }

  private rows(itemId: string, person: Person): Promise<PlanDraft[]> {
    return readRows<PlanDraft>(
      this.database,
      {
        ...{ id: text, name: text, by: text, isMine: flag, isShared: flag },
        ...{ at: timeText, version: text, isBehind: flag },
      },
      `SELECT d.id, d.name, p.name AS "by", d.person_id = $2 AS "isMine", d.shared AS "isShared", d.changed_at AS at,
              r.code || '/' || v.seq AS version,
              i.newest_version_id <> d.version_id OR EXISTS (
                WITH RECURSIVE below AS (
                  SELECT d.version_id AS id
                  UNION
                  SELECT l.target_version_id FROM below JOIN link l ON l.version_id = below.id
                  WHERE l.target_version_id IS NOT NULL)
                SELECT FROM below JOIN version b ON b.id = below.id JOIN item m ON m.id = b.item_id
                JOIN version n ON n.id = m.newest_version_id WHERE n.id <> b.id AND n.created_at > d.changed_at
              ) AS "isBehind"
       FROM plan_draft d JOIN person p ON p.id = d.person_id JOIN item i ON i.id = d.item_id
       JOIN version v ON v.id = d.version_id JOIN revision r ON r.id = v.revision_id
       WHERE d.item_id = $1 AND (d.shared OR d.person_id = $2) ORDER BY d.changed_at DESC, d.id DESC`,
      [itemId, person.id],
    );
  }
}

function unknown(): ProblemError {
  return new ProblemError(
    'NOT_FOUND',
    'There is no such plan, or nobody shares it with you. Look at the plans of the item.',
  );
}
