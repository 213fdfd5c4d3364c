import type { AuditKind, NoticeKind } from '@stem-trace/contract';
import type { EntityManager } from 'typeorm';
import type { Mention } from './mentions.js';

export interface Happening {
  readonly personId: string;
  readonly kind: AuditKind;
  readonly itemId: string | null;
  /** What happened, as those who watch the item read it: `Ines Halvorsen released FM-2300 B/2`. */
  readonly says: string;
  /** What others are told instead, where what happened names something that they need not be able to see. */
  readonly tells?: string;
  readonly detail?: Readonly<Record<string, unknown>>;
  /** Other items that the sentences name; readers who may not see one are not told its number. */
  readonly mentions?: readonly Mention[];
  /** The view that those who are told open; the item where absent. */
  readonly address?: string;
  /** People who are told though they may not watch. */
  readonly alsoTell?: readonly string[];
  /** What it is about for those; `decided` where absent. */
  readonly tellsOf?: NoticeKind;
  /** When; now where absent. */
  readonly at?: Date;
}

/** What gives an item another version that a variant may want too. */
const CHANGES: readonly AuditKind[] = ['check in', 'intake', 'properties', 'bring back', 'align'];

/**
 * Writes what happened to the audit trail, and a notice for everybody who watches the item or is named, but for the one who
 * did it; where it changes the item, also for everybody who watches a copy of it, or the variant that the copy was made for. Inside the caller's transaction, so that trail and deed stand or fall together.
 */
export async function record(manager: EntityManager, happenings: readonly Happening[]): Promise<void> {
  if (happenings.length === 0) return;
  await recordQuietly(manager, happenings);
  const rows = JSON.stringify(
    happenings.map(
      ({
        personId,
        kind,
        itemId,
        says,
        tells = says,
        address = null,
        alsoTell = [],
        tellsOf = 'decided',
        mentions = [],
        at,
      }) => ({
        person: personId,
        item: itemId,
        says: tells,
        tell: alsoTell,
        about: tellsOf,
        address,
        changes: CHANGES.includes(kind),
        mentions,
        at,
      }),
    ),
  );
  await manager.query(
    `INSERT INTO notice (person_id, item_id, says, address, at, kind, mentions)
     SELECT DISTINCT ON (told.person_id, r.item, r.says) told.person_id, r.item, r.says || told.more, r.address, coalesce(r.at, now()),
       told.about, r.mentions
     FROM jsonb_to_recordset($1::jsonb) AS r(person bigint, item bigint, says text, tell jsonb, about text, address text, changes boolean, mentions jsonb, at timestamptz)
     CROSS JOIN LATERAL (
       SELECT w.person_id, '' AS more, 'watched' AS about FROM watch w WHERE w.item_id = r.item
       UNION SELECT w.person_id, '; ' || i.number || ' has a copy of it', 'watched' FROM version o
         JOIN item c ON c.origin_version_id = o.id JOIN derivation d ON d.id = c.derivation_id
         JOIN item i ON i.derivation_id = d.id AND (i.id = c.id
           OR EXISTS (SELECT FROM version v WHERE v.item_id = i.id AND v.origin_version_id = d.origin_version_id))
         JOIN watch w ON w.item_id = i.id
         WHERE r.changes AND o.item_id = r.item
       UNION SELECT w.person_id, '', 'watched' FROM place_watch w JOIN place p ON p.id = w.place_id, item i JOIN place q ON q.id = i.place_id
         WHERE i.id = r.item AND (p.path = '/' OR q.path = p.path OR starts_with(q.path, p.path || '/'))
       UNION SELECT value::bigint, '', r.about FROM jsonb_array_elements_text(r.tell)
     ) told
     WHERE told.person_id <> r.person
     ORDER BY told.person_id, r.item, r.says, told.more DESC, told.about = 'watched'`,
    [rows],
  );
}

/** `1 item`, `3 items`. */
export const counted = (count: number, noun: string): string => `${count} ${noun}${count === 1 ? '' : 's'}`;

/** Writes what happened to the audit trail alone: nobody is told. */
export async function recordQuietly(manager: EntityManager, happenings: readonly Happening[]): Promise<void> {
  const rows = happenings.map(({ personId, kind, itemId, says, detail = {}, mentions = [], at }) => ({
    at,
    person: personId,
    kind,
    item: itemId,
    detail: { ...detail, says, ...(mentions.length === 0 ? {} : { mentions }) },
  }));
  await manager.query(
    `INSERT INTO event (person_id, kind, item_id, detail, at)
     SELECT person, kind, item, detail, coalesce(at, now())
     FROM jsonb_to_recordset($1::jsonb) AS r(person bigint, kind text, item bigint, detail jsonb, at timestamptz)`,
    [JSON.stringify(rows)],
  );
}

/** A notice to one person about a view. */
export async function tellOne(
  manager: EntityManager,
  {
    personId,
    says,
    address,
    about,
  }: {
    readonly personId: string;
    readonly says: string;
    readonly address: string;
    readonly about: NoticeKind;
  },
): Promise<void> {
  await manager.query('INSERT INTO notice (person_id, says, address, kind) VALUES ($1, $2, $3, $4)', [
    personId,
    says,
    address,
    about,
  ]);
}
