import { type TakesEffect } from '@stem-trace/core';
import { holderFor, isHiddenNumber, type StoredHolder } from '../store/names.js';
import type { ChangeLineView, ChangeTaskView, ChangeView, MadeRow, OtherChange } from '@stem-trace/contract';
import {
  isChange,
  sumCosts,
  type ChangeContents,
  type ChangeLine,
  type ChangeRelation,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { iso, json, orNull, readRow, readRows, text, timeText, word } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { HELD_BY } from '../store/holds.js';
import { LABEL } from '../store/item-row.js';
import type { ChangeFiles } from './change-contents.js';
import { whyLocked } from './why-locked.js';

/** One change as it is looked at. */
export class ChangeViewService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly files: ChangeFiles,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, INPUT_INVALID where it is no change */
  async view(reference: string, person: Person): Promise<ChangeView> {
    const { manager } = this.database;
    const version = await this.catalogue.resolve(reference, person);
    const { kind, itemId } = version;
    if (!isChange(kind)) throw new ProblemError('INPUT_INVALID', `${version.number} is no change.`);
    const rights = await this.rights.of(person);
    const newest = await this.catalogue.newest(itemId);
    const { lines, tasks, ...written } = await this.files.read(version);
    const contents = { ...written, takesEffect: await effectFor(manager, written.takesEffect, rights) };
    const seen = await linesOf(manager, lines, rights);
    const made = await madeBy(manager, itemId);
    const visible = made.filter(({ placeId }) => rights.may('see', placeId));
    const locked = await whyLocked(manager, newest, person, rights);
    return {
      ...{ kind, number: version.number, name: version.name, version: version.label, state: newest.state },
      lane: (await stateBook(manager)).get(newest.state)?.lane ?? 'open',
      ...{ place: version.place, isNewest: newest.id === version.id, contents },
      ...(await raised(manager, itemId)),
      lines: seen,
      hidden: lines.length - seen.length,
      tasks: await tasksOf(manager, version, tasks, {
        person,
        mayChange: rights.may('change', version.placeId),
      }),
      sums: sumCosts(contents.costs),
      makes: visible.map(({ placeId: _, ...row }) => ({ ...row, heldBy: holderFor(rights, row.heldBy) })),
      makesHidden: made.length - visible.length,
      heldFor: await heldFor(manager, itemId, rights),
      others: await othersOf(manager, itemId, rights),
      sheet: await sheetOf(manager, itemId),
      locked: newest.id === version.id ? (locked?.says ?? null) : `${newest.label} is the newest`,
    };
  }
}

/** Without the number of a product that the reader may not see. */
async function effectFor(manager: EntityManager, effect: TakesEffect, rights: Rights): Promise<TakesEffect> {
  if (effect.kind !== 'from serial') return effect;
  return (await isHiddenNumber(manager, effect.product, rights.placesWithout('see')))
    ? { ...effect, product: '' }
    : effect;
}

async function linesOf(
  manager: EntityManager,
  lines: readonly ChangeLine[],
  rights: Rights,
): Promise<ChangeLineView[]> {
  const rows = await readRows<
    Omit<ChangeLineView, 'relation' | 'note' | 'inStock' | 'inWork' | 'heldBy'> & {
      id: string;
      placeId: string;
      heldBy: StoredHolder | null;
    }
  >(
    manager,
    {
      ...{ id: text, placeId: text, number: text, name: text, kind: word<ChangeLineView['kind']>() },
      ...{ version: text, state: text, heldBy: orNull(json<StoredHolder>()) },
    },
    `SELECT i.id, i.place_id AS "placeId", i.number, i.name, i.kind, ${LABEL} AS version, i.state, ${HELD_BY}
     FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
     WHERE i.id = ANY($1::bigint[])`,
    [[...new Set(lines.map(({ itemId }) => itemId))]],
  );
  const known = new Map(
    rows.map(({ id, placeId, ...row }) => [
      id,
      rights.may('see', placeId) ? { ...row, heldBy: holderFor(rights, row.heldBy) } : undefined,
    ]),
  );
  return lines.flatMap(({ itemId, ...line }) => {
    const row = known.get(itemId);
    return row ? [{ ...line, ...row }] : [];
  });
}

async function raised(
  manager: EntityManager,
  itemId: string,
): Promise<{ raisedBy: string; raisedAt: string }> {
  return readRow(
    manager,
    { raisedBy: text, raisedAt: timeText },
    `SELECT p.name AS "raisedBy", v.created_at AS "raisedAt" FROM version v JOIN person p ON p.id = v.author_id
     WHERE v.item_id = $1 AND v.ordinal = 1`,
    [itemId],
  );
}

async function tasksOf(
  manager: EntityManager,
  { itemId }: DescribedVersion,
  tasks: ChangeContents['tasks'],
  { person, mayChange }: { readonly person: Person; readonly mayChange: boolean },
): Promise<ChangeTaskView[]> {
  const rows = await readRows(
    manager,
    { key: text, by: text, at: timeText },
    'SELECT d.key, p.name AS by, d.at FROM change_task_done d JOIN person p ON p.id = d.person_id WHERE d.change_id = $1',
    [itemId],
  );
  const done = new Map(rows.map(({ key, ...who }) => [key, who]));
  return tasks.map((task) => ({
    ...task,
    done: done.get(task.key) ?? null,
    mayTick: mayChange || task.who === person.login,
  }));
}

interface StoredMade extends Omit<MadeRow, 'heldBy'> {
  readonly placeId: string;
  readonly heldBy: StoredHolder | null;
}

/** Revisions that an order makes, with their newest versions. */
async function madeBy(manager: EntityManager, orderId: string): Promise<StoredMade[]> {
  return readRows<StoredMade>(
    manager,
    {
      ...{ placeId: text, number: text, name: text, kind: word<MadeRow['kind']>(), revision: text },
      format: word<MadeRow['format']>(),
      ...{
        from: orNull(text),
        to: text,
        state: text,
        heldBy: orNull(json<StoredHolder>()),
      },
      versions: json<MadeRow['versions']>(),
    },
    `SELECT i.place_id AS "placeId", i.number, i.name, i.kind, coalesce(v.facts->>'format', 'step') AS format, r.code AS revision, fr.code || '/' || f.seq AS "from",
            ${LABEL} AS "to", r.state, ${HELD_BY},
            (SELECT coalesce(jsonb_agg(jsonb_build_object('version', wr.code || '/' || w.seq, 'comment', w.comment, 'by', a.name,
                'at', ${iso('w.created_at')}) ORDER BY w.ordinal DESC), '[]')
              FROM change_version cv JOIN version w ON w.id = cv.version_id JOIN revision wr ON wr.id = w.revision_id
              JOIN person a ON a.id = w.author_id WHERE cv.change_id = m.change_id AND w.revision_id = r.id) AS versions
     FROM change_makes m JOIN revision r ON r.id = m.revision_id JOIN item i ON i.id = r.item_id
     JOIN LATERAL (SELECT * FROM version w WHERE w.revision_id = r.id ORDER BY w.ordinal DESC LIMIT 1) v ON true
     LEFT JOIN version f ON f.id = m.since_version_id LEFT JOIN revision fr ON fr.id = f.revision_id
     WHERE m.change_id = $1 ORDER BY i.number_key`,
    [orderId],
  );
}

async function heldFor(
  manager: EntityManager,
  orderId: string,
  rights: Rights,
): Promise<ChangeView['heldFor']> {
  const rows = await readRows(
    manager,
    { number: text, name: text, by: text, placeId: text },
    `SELECT i.number, i.name, p.name AS by, i.place_id AS "placeId" FROM hold h JOIN item i ON i.id = h.item_id
     JOIN person p ON p.id = h.person_id JOIN version v ON v.id = i.newest_version_id
     WHERE h.change_id = $1 AND NOT EXISTS (SELECT FROM change_makes m WHERE m.change_id = $1 AND m.revision_id = v.revision_id)
     ORDER BY i.number_key`,
    [orderId],
  );
  return rows.flatMap(({ placeId, ...row }) => (rights.may('see', placeId) ? [row] : []));
}

/** Changes that say that they answer this one, or were joined with it. */
async function othersOf(manager: EntityManager, itemId: string, rights: Rights): Promise<OtherChange[]> {
  const relations: readonly ChangeRelation[] = ['answers', 'joins'];
  const rows = await readRows<OtherChange & { placeId: string }>(
    manager,
    { number: text, name: text, kind: word<OtherChange['kind']>(), state: text, placeId: text },
    `SELECT c.number, c.name, c.kind, c.state, c.place_id AS "placeId" FROM change_line l JOIN item c ON c.id = l.change_id
     WHERE l.item_id = $1 AND l.relation = ANY($2::text[]) ORDER BY c.number_key`,
    [itemId, relations],
  );
  return rows.flatMap(({ placeId, ...row }) => (rights.may('see', placeId) ? [row] : []));
}

async function sheetOf(manager: EntityManager, itemId: string): Promise<string | null> {
  const [row] = await readRows(
    manager,
    { id: orNull(text) },
    'SELECT max(sheet_id)::text AS id FROM check_sheet_item WHERE item_id = $1',
    [itemId],
  );
  return row?.id ?? null;
}
