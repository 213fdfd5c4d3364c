import type { DataSource, EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { readRow, readRows, text } from '../database/read-rows.js';
import { recordQuietly } from '../trail/record.js';
import type { DemoCheck } from './demo-people.js';

interface Sent {
  readonly itemId: string;
  readonly versionId: string;
  readonly number: string;
  readonly label: string;
}

interface Move {
  readonly step: string;
  readonly from: string;
  readonly to: string;
  readonly says: (what: string) => string;
  readonly reason: string;
  readonly at: string;
}

/** A round of checking as it was in the demo's history: sent together, and perhaps sent back with a point that was answered. */
export async function check(
  database: DataSource,
  { items, reason, at, sentBack }: DemoCheck,
  person: Person,
  people: ReadonlyMap<string, Person>,
): Promise<void> {
  await database.transaction(async (manager) => {
    const sent = await readRows<Sent>(
      manager,
      { itemId: text, versionId: text, number: text, label: text },
      `SELECT i.id AS "itemId", v.id AS "versionId", i.number, r.code || '/' || v.seq AS label FROM unnest($1::text[]) WITH ORDINALITY AS n(number, at)
       JOIN item i ON i.number = n.number JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       ORDER BY n.at`,
      [items],
    );
    await move(manager, sent, person, {
      ...{ step: 'ask for check', from: 'draft', to: 'in check', reason, at },
      says: (what) => `sent ${what} for checking`,
    });
    const { id: sheet } = await readRow(
      manager,
      { id: text },
      'INSERT INTO check_sheet (person_id, reason, at) VALUES ($1, $2, $3) RETURNING id',
      [person.id, reason, at],
    );
    await manager.query(
      `INSERT INTO check_sheet_item (sheet_id, item_id, version_id, position)
       SELECT $1, i.item, i.version, i.at FROM unnest($2::bigint[], $3::bigint[]) WITH ORDINALITY AS i(item, version, at)`,
      [sheet, sent.map(({ itemId }) => itemId), sent.map(({ versionId }) => versionId)],
    );
    const checker = people.get(sentBack?.by ?? '');
    if (!sentBack || !checker) return;
    const about = sent.find(({ number }) => number === sentBack.about);
    await manager.query(
      `INSERT INTO check_seen (sheet_id, item_id, person_id, at) SELECT $1, unnest($2::bigint[]), $3, $4`,
      [sheet, sent.map(({ itemId }) => itemId), checker.id, sentBack.at],
    );
    await manager.query(
      `INSERT INTO check_point (sheet_id, item_id, version_id, words, person_id, at, answer, answered_by, answered_at)
       VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [
        ...[sheet, about?.itemId, about?.versionId, sentBack.point, checker.id, sentBack.at],
        ...[sentBack.answer, person.id, sentBack.answeredAt],
      ],
    );
    await move(manager, sent, checker, {
      ...{ step: 'send back', from: 'in check', to: 'draft', reason: sentBack.reason, at: sentBack.at },
      says: (what) => `sent ${what} back`,
    });
  });
}

async function move(
  manager: EntityManager,
  sent: readonly Sent[],
  person: Person,
  { step, from, to, says, reason, at }: Move,
): Promise<void> {
  await manager.query(
    'UPDATE revision SET state = $2 FROM version v WHERE revision.id = v.revision_id AND v.id = ANY($1::bigint[])',
    [sent.map(({ versionId }) => versionId), to],
  );
  await recordQuietly(
    manager,
    sent.map(({ itemId, number, label }) => ({
      ...({ personId: person.id, kind: 'step', itemId, at: new Date(at) } as const),
      says: `${person.name} ${says(`${number} ${label}`)}: ${reason}`,
      detail: { step, from, to, version: label, reason },
    })),
  );
}
