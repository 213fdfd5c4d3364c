/**
 * Walks the seals of the trail and works each out again, by other means than the database made it: it shares with the
 * triggers no more than what the chain is made of.
 */
import { createHash } from 'node:crypto';
import type { EntityManager } from 'typeorm';
import { number, orNull, readRow, readRows, text } from '../database/read-rows.js';

interface SealedEvent {
  readonly seal: string;
  readonly id: string;
  readonly at: string;
  readonly person: string;
  readonly kind: string;
  readonly item: string | null;
  readonly detail: string;
}

const BATCH = 2000;

/**
 * @returns what is wrong, as sentences; empty where the trail is as it was written
 */
export async function checkSeals(manager: EntityManager): Promise<string[]> {
  let before = Buffer.alloc(0);
  let expected = 1;
  let after = '0';
  for (;;) {
    const seals = await readRows(
      manager,
      { position: text, id: text, hash: text },
      `SELECT position, id, encode(hash, 'hex') AS hash FROM seal WHERE position > $1 ORDER BY position LIMIT ${BATCH}`,
      [after],
    );
    if (seals.length === 0) break;
    const events = await eventsOf(
      manager,
      seals.map(({ id }) => id),
    );
    for (const { position, id, hash } of seals) {
      if (Number(position) !== expected) return [`the trail: its seal ${expected} is missing`];
      const text = (events.get(id) ?? []).map(textOf).join('\n');
      const digest = createHash('sha256').update(text, 'utf8').digest();
      before = createHash('sha256')
        .update(Buffer.concat([before, digest]))
        .digest();
      if (before.toString('hex') !== hash)
        return [`the trail: what it says under seal ${position} is not what was written there`];
      expected++;
      after = position;
    }
  }
  const loose = await readRow(
    manager,
    { count: number },
    'SELECT count(*)::int AS count FROM seal WHERE position IS NULL',
  );
  return loose.count > 0 ? ['the trail: something of it was never sealed'] : [];
}

async function eventsOf(
  manager: EntityManager,
  seals: readonly string[],
): Promise<Map<string, SealedEvent[]>> {
  const rows = await readRows<SealedEvent>(
    manager,
    { seal: text, id: text, at: text, person: text, kind: text, item: orNull(text), detail: text },
    `SELECT e.seal_id AS seal, e.id, e.person_id AS person, e.kind, e.item_id AS item, e.detail::text AS detail,
            to_char(e.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US') AS at
     FROM event e WHERE e.seal_id = ANY($1::bigint[]) ORDER BY e.id`,
    [seals],
  );
  const events = new Map<string, SealedEvent[]>();
  for (const row of rows) {
    const list = events.get(row.seal);
    if (list) list.push(row);
    else events.set(row.seal, [row]);
  }
  return events;
}

function textOf({ id, at, person, kind, item, detail }: SealedEvent): string {
  return [id, at, person, kind, item ?? '-', detail].join('|');
}
