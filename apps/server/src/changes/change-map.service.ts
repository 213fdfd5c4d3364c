import { CHANGE_MAP_ROLES, type ChangeMapAnswer, type ChangeMapRole } from '@stem-trace/contract';
import { isChange, type ItemKind } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text, word } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';

/** More make no map that anybody reads. */
const MOST_NODES = 200;

/** Of several reasons for which something is there, the first is told. */
const WEIGHT: readonly ChangeMapRole[] = CHANGE_MAP_ROLES.toSorted(
  (a, b) =>
    Number(b === 'makes') - Number(a === 'makes') || Number(b === 'affects') - Number(a === 'affects'),
);

interface Touched {
  readonly from: string;
  readonly to: string;
  readonly role: ChangeMapRole;
  readonly says: string;
}

/** What a change touches: what it names and makes, and what hangs on that. */
export class ChangeMapService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** @throws ProblemError INPUT_INVALID where it is no change */
  async of(reference: string, person: Person): Promise<ChangeMapAnswer> {
    const { itemId, kind, number } = await this.catalogue.resolve(reference, person);
    if (!isChange(kind)) throw new ProblemError('INPUT_INVALID', `${number} is no change.`);
    const touched = await this.touched(itemId);
    const ids = [...new Set([itemId, ...touched.flatMap(({ from, to }) => [from, to])])];
    const rights = await this.rights.of(person);
    const rows = await readRows(
      this.database,
      { id: text, number: text, name: text, kind: word<ItemKind>(), state: text, placeId: text },
      'SELECT id, number, name, kind, state, place_id AS "placeId" FROM item WHERE id = ANY($1::bigint[])',
      [ids],
    );
    const known = new Map(rows.map((row) => [row.id, row]));
    const roles = new Map<string, ChangeMapRole>([[itemId, 'change']]);
    for (const { from, to, role } of touched.toSorted(
      (a, b) => WEIGHT.indexOf(a.role) - WEIGHT.indexOf(b.role),
    ))
      for (const id of [to, from]) if (!roles.has(id)) roles.set(id, role);
    const seen = ids.filter((id) => rights.may('see', known.get(id)?.placeId ?? ''));
    const shown = new Set(seen.slice(0, MOST_NODES));
    return {
      nodes: [...shown].flatMap((id) => {
        const row = known.get(id);
        if (!row) return [];
        const { placeId: _, id: key, ...node } = row;
        return [{ ...node, key, role: roles.get(id) ?? 'affects' }];
      }),
      edges: touched.flatMap(({ from, to, says }) =>
        shown.has(from) && shown.has(to) && from !== to ? [{ from, to, says }] : [],
      ),
      more: seen.length - shown.size,
      hidden: ids.length - seen.length,
    };
  }

  private async touched(changeId: string): Promise<Touched[]> {
    return readRows<Touched>(
      this.database,
      { from: text, to: text, role: word<ChangeMapRole>(), says: text },
      `WITH named AS (
         SELECT l.change_id AS "from", l.item_id AS "to", l.relation FROM change_line l WHERE l.change_id = $1
         UNION SELECT l.item_id, l.change_id, CASE l.relation WHEN 'joins' THEN 'joined' ELSE 'answered by' END
           FROM change_line l WHERE l.item_id = $1 AND l.relation IN ('answers', 'joins')
         UNION SELECT m.change_id, r.item_id, 'makes' FROM change_makes m JOIN revision r ON r.id = m.revision_id WHERE m.change_id = $1),
       core AS (SELECT DISTINCT "to" AS id FROM named WHERE relation IN ('shows in', 'affects', 'makes')),
       beside AS (
         SELECT DISTINCT ON (l.target_item_id, u.id) l.target_item_id AS "from", u.id AS "to",
           CASE WHEN l.relation = 'depicts' THEN 'shown on' WHEN l.relation = 'describes' THEN 'described in' ELSE 'used in' END AS says,
           CASE WHEN l.relation IN ('depicts', 'describes') THEN 'document' ELSE 'product' END AS role
         FROM core JOIN link l ON l.target_item_id = core.id JOIN item u ON u.newest_version_id = l.version_id
         WHERE l.relation IN ('depicts', 'describes', 'component')
         ORDER BY l.target_item_id, u.id),
       kin AS (
         SELECT core.id AS "from", c.id AS "to" FROM core JOIN version o ON o.item_id = core.id JOIN item c ON c.origin_version_id = o.id
         UNION SELECT i.id, o.item_id FROM core JOIN item i ON i.id = core.id JOIN version o ON o.id = i.origin_version_id),
       billed AS (
         SELECT DISTINCT u.item_id AS "from", i.id AS "to" FROM bill_use u JOIN version v ON v.sha256 = u.sha256
         JOIN item i ON i.newest_version_id = v.id WHERE u.item_id IN (SELECT id FROM core))
       SELECT "from"::text, "to"::text, CASE relation WHEN 'answers' THEN 'request' WHEN 'answered by' THEN 'order'
           WHEN 'joins' THEN 'request' WHEN 'joined' THEN 'request' ELSE relation END AS role, relation AS says FROM named
       UNION ALL SELECT "from"::text, "to"::text, role, says FROM beside
       UNION ALL SELECT "from"::text, "to"::text, 'variant', 'may need it too' FROM kin
       UNION ALL SELECT "from"::text, "to"::text, 'bill', 'in the bill' FROM billed`,
      [changeId],
    );
  }
}
