import { Injectable } from '@nestjs/common';
import type { AlignAnswer, AlignRequest } from '@stem-trace/contract';
import {
  addTo,
  alignRevisions,
  revisionCode,
  revisionPosition,
  takeStated,
  type RevisionScheme,
  type StatedRevision,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { listOf, number, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { indexProperties } from '../database/property-index.js';
import { revisionProperty } from '../settings/settings.service.js';
import { revisionSchemes } from '../store/revision-schemes.js';
import { lockItems, StoreTurn } from '../store/turn.js';

/** Brings many items' revision codes into line with the scheme at once. */
@Injectable()
export class AlignService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
  ) {}

  /** What would change; nothing is written. */
  async preview(request: AlignRequest, person: Person): Promise<AlignAnswer> {
    return this.work(this.database.manager, request, person);
  }

  /** All of the items, or none. Every old code stays in the trail. */
  async carryOut(request: AlignRequest, person: Person): Promise<AlignAnswer> {
    return this.turn.take(async (manager) => {
      const answer = await this.work(manager, request, person);
      await lockItems(manager, [...new Set(answer.rows.map(({ itemId }) => itemId))]);
      // First out of the way, since two codes of an item may have to change places.
      for (const suffix of ['~', ''])
        await manager.query(
          `UPDATE revision SET code = r.code || $2 FROM jsonb_to_recordset($1::jsonb) AS r(id bigint, code text)
           WHERE revision.id = r.id`,
          [JSON.stringify(answer.rows.map(({ id, to }) => ({ id, code: to }))), suffix],
        );
      await writeCodes(manager, answer.rows);
      await record(
        manager,
        answer.rows.map(({ itemId, number, from, to }) => ({
          personId: person.id,
          kind: 'align',
          itemId,
          says: `${person.name} aligned revision ${from} of ${number} as ${to}`,
          detail: { from, to },
        })),
      );
      await announce(manager, 'items', 'notices');
      return answer;
    });
  }

  private async work(
    manager: EntityManager,
    { items, start, property }: AlignRequest,
    person: Person,
  ): Promise<AlignAnswer> {
    const named = await this.catalogue.resolveAll(items, person, 'release', manager);
    const numbers = new Map(named.map(({ itemId, number }) => [itemId, number]));
    const schemeOf = await revisionSchemes(manager, [...numbers.keys()]);
    const byItem = groupByItem(await statedRevisions(manager, [...numbers.keys()], property));
    const aligned = [...numbers].map(([itemId, number]) => {
      const own = byItem.get(itemId) ?? [];
      const scheme = schemeOf(itemId);
      return property === undefined
        ? { itemId, number, changes: alignRevisions(own, beginning(start, scheme), scheme), disagrees: [] }
        : { itemId, number, ...takeStated(own, scheme) };
    });
    return {
      rows: aligned.flatMap(({ itemId, number, changes }) =>
        changes.map((change) => ({ itemId, number, ...change })),
      ),
      unchanged: aligned.flatMap(({ number, changes, disagrees }) =>
        changes.length === 0 && disagrees.length === 0 ? number : [],
      ),
      disagrees: aligned.flatMap(({ number, disagrees }) => disagrees.map((says) => ({ number, says }))),
    };
  }
}

/** Where a property was set to the code of a revision, it says the new one. */
async function writeCodes(manager: EntityManager, rows: AlignAnswer['rows']): Promise<void> {
  const property = await revisionProperty(manager);
  if (property === '' || rows.length === 0) return;
  await manager.query(
    `UPDATE revision r SET set_values = (
       SELECT jsonb_agg(CASE WHEN lower(p->>'name') = lower($2) THEN p || jsonb_build_object('text', r.code) ELSE p END ORDER BY at)
       FROM jsonb_array_elements(r.set_values) WITH ORDINALITY AS n(p, at))
     WHERE r.id = ANY($1::bigint[]) AND r.set_values <> '[]'`,
    [rows.map(({ id }) => id), property],
  );
  const newest = await readRows(
    manager,
    { id: text },
    'SELECT newest_version_id AS id FROM item WHERE id = ANY($1::bigint[]) AND newest_version_id IS NOT NULL',
    [[...new Set(rows.map(({ itemId }) => itemId))]],
  );
  await indexProperties(
    manager,
    newest.map(({ id }) => id),
  );
}

/** Revisions of items, with what their versions say in a property; nothing where none is asked for. */
async function statedRevisions(
  manager: EntityManager,
  itemIds: readonly string[],
  property: string | undefined,
): Promise<(StatedRevision & { readonly itemId: string })[]> {
  return readRows(
    manager,
    { id: text, code: text, position: number, itemId: text, stated: listOf(text) },
    `SELECT r.id, r.item_id AS "itemId", r.code, r.position,
            ARRAY(SELECT DISTINCT coalesce(p->>'text', p->>'choice', p->>'value') FROM version v, jsonb_array_elements(
                -- What was set of the revision counts, not what a file of before goes on saying.
                CASE WHEN EXISTS (SELECT FROM jsonb_array_elements(r.set_values) q WHERE lower(q->>'name') = lower($2))
                  THEN r.set_values ELSE v.facts->'properties' END) p
              WHERE v.revision_id = r.id AND lower(p->>'name') = lower($2) AND coalesce(p->>'text', p->>'choice', p->>'value') <> '') AS stated
     FROM revision r WHERE r.item_id = ANY($1::bigint[]) ORDER BY r.position`,
    [itemIds, property ?? ''],
  );
}

/** @throws ProblemError INPUT_INVALID for what is no code of the scheme */
function beginning(start: string, scheme: RevisionScheme): number {
  const position = revisionPosition(start || revisionCode(1, scheme), scheme);
  if (position === undefined)
    throw new ProblemError(
      'INPUT_INVALID',
      `'${start}' is no revision of the scheme, which begins with ${revisionCode(1, scheme)}, ${revisionCode(2, scheme)}.`,
    );
  return position;
}

function groupByItem(
  rows: readonly (StatedRevision & { readonly itemId: string })[],
): Map<string, StatedRevision[]> {
  const byItem = new Map<string, StatedRevision[]>();
  for (const row of rows) addTo<string, StatedRevision>(byItem, row.itemId, row);
  return byItem;
}
