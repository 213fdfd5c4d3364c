import { Injectable } from '@nestjs/common';
import type {
  AskedPerson,
  AnswerPointRequest,
  CheckPointRow,
  RaisePointRequest,
  SheetItem,
  SeenRequest,
  SheetRow,
  SheetView,
} from '@stem-trace/contract';
import type { ItemKind, Right } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isInLane, isReleased } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { flag, iso, json, number, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';
import { SignaturesService } from '../signatures/signatures.service.js';
import { decidesAt, offeredAt, standingsOf, takerAt } from '../store/standings.js';
import { record } from '../trail/record.js';
import { mayReceiveAll } from '../issued/issued.service.js';
import { holdsToday, isAsked } from './asked.js';
import { sheetAddress } from './open-sheet.js';

/** More are in the trail. */
const MOST_SHEETS = 300;

/** An item of a sheet as the database knows it. */
interface StoredItem {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly placeId: string;
  readonly version: string;
  readonly state: string;
  readonly isUndecided: boolean;
  readonly released: string | null;
  readonly versions: SheetItem['versions'];
  readonly seenBy: readonly {
    readonly login: string;
    readonly by: string;
    readonly at: string;
    readonly shown: string;
  }[];
  readonly points: readonly StoredPoint[];
  readonly issued: SheetItem['issued'];
}

type StoredPoint = Omit<CheckPointRow, 'mayAnswer' | 'mayClose' | 'isEarlier'> & {
  readonly login: string;
  readonly sheet: string;
};

/** Whether the version on a sheet still waits: it is the newest of its item, under check, and on no later sheet. */
export const UNDECIDED = `(i.newest_version_id = s.version_id AND ${isInLane('under check', 'i')}
  AND NOT EXISTS (SELECT FROM check_sheet_item later WHERE later.item_id = s.item_id AND later.sheet_id > s.sheet_id))`;

/** What is checked together: one page for those who decide, with what they need for that. */
@Injectable()
export class SheetsService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly catalogue: CatalogueService,
    private readonly signatures: SignaturesService,
  ) {}

  /** Those that wait for the asker first, then those that they sent; the newest first. */
  async list(person: Person): Promise<SheetRow[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const ids = await readRows(
      this.database,
      { id: text },
      `SELECT c.id FROM check_sheet c WHERE (c.person_id = $1 OR EXISTS (SELECT FROM check_sheet_item s JOIN item i ON i.id = s.item_id
         WHERE s.sheet_id = c.id AND i.place_id <> ALL($2::bigint[]) AND ${UNDECIDED})) ORDER BY c.id DESC LIMIT ${MOST_SHEETS}`,
      [person.id, hidden],
    );
    const rows = await this.rowsOf(
      ids.map(({ id }) => id),
      person,
    );
    return rows
      .filter(({ isMine, items }) => isMine || items > 0)
      .sort((a, b) => Number(b.isMine) - Number(a.isMine));
  }

  /** @throws ProblemError NOT_FOUND, also where the asker may see nothing of it */
  async view(id: string, person: Person): Promise<SheetView> {
    const { manager } = this.database;
    const [row] = await this.rowsOf([id], person);
    if (!row || row.items === 0) throw new ProblemError('NOT_FOUND', 'There is no such check sheet.');
    const rights = await this.rights.of(person);
    const all = await itemsOf(manager, id, rights.placesWithout('receive'));
    const seen = all.filter(({ placeId }) => rights.may('see', placeId));
    const newest = await this.catalogue.newestOf(
      seen.map(({ itemId }) => itemId),
      manager,
    );
    const standings = await standingsOf(manager, newest);
    const undecided = new Set(seen.flatMap(({ itemId, isUndecided }) => (isUndecided ? itemId : [])));
    const open = newest.filter(({ itemId }) => undecided.has(itemId));
    const shown = await this.signatures.shownOf(
      manager,
      open.map(({ id }) => id),
    );
    const shownByItem = new Map(open.map(({ id, itemId }) => [itemId, shown.get(id) ?? '']));
    return {
      ...row,
      hidden: all.length - seen.length,
      rows: seen.map(({ itemId, placeId, seenBy, points, ...item }) => {
        const at = standings.get(itemId);
        return {
          ...item,
          shown: shownByItem.get(itemId) ?? '',
          isSeen: seenBy.some(
            (each) =>
              each.login === person.login && (!item.isUndecided || each.shown === shownByItem.get(itemId)),
          ),
          seenBy: seenBy.map(({ by, at: when }) => ({ by, at: when })),
          points: points.map((point) => pointRow(point, { sheet: id, placeId, person, rights })),
          mayRaise: item.isUndecided && rights.may('release', placeId),
          steps: at && item.isUndecided ? offeredAt(at, takerAt(placeId, person, rights)) : [],
        };
      }),
    };
  }

  async noteSeen({ sheet, item, shown }: SeenRequest, person: Person): Promise<void> {
    const { itemId } = await this.itemOn(sheet, item, person);
    await this.database.query(
      `INSERT INTO check_seen (sheet_id, item_id, person_id, shown) VALUES ($1, $2, $3, $4)
       ON CONFLICT (sheet_id, item_id, person_id) DO UPDATE SET shown = excluded.shown`,
      [sheet, itemId, person.id, shown],
    );
    await announce(this.database.manager, 'sheets');
  }

  async raise({ sheet, item, words }: RaisePointRequest, person: Person): Promise<void> {
    const { itemId, number: of, sender } = await this.itemOn(sheet, item, person, 'release');
    await this.database.transaction(async (manager) => {
      await manager.query(
        `INSERT INTO check_point (sheet_id, item_id, version_id, words, person_id)
         SELECT sheet_id, item_id, version_id, $3, $4 FROM check_sheet_item WHERE sheet_id = $1 AND item_id = $2`,
        [sheet, itemId, words, person.id],
      );
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'check', itemId, address: sheetAddress(sheet), alsoTell: [sender] },
          says: `${person.name} raised a point about ${of}: ${words}`,
        },
      ]);
      await announce(manager, 'sheets', 'notices');
    });
  }

  /** @throws ProblemError STEP_REFUSED where it was closed */
  async answer({ point, words }: AnswerPointRequest, person: Person): Promise<void> {
    await this.onPoint(point, person, async (manager, found) => {
      (await this.rights.of(person, manager)).require('change', found.place);
      await manager.query(
        'UPDATE check_point SET answer = $2, answered_by = $3, answered_at = now() WHERE id = $1',
        [point, words, person.id],
      );
      return `answered about ${found.number}: ${words}`;
    });
  }

  /** By who raised it, or whoever may release there. */
  async close(point: string, person: Person): Promise<void> {
    await this.onPoint(point, person, async (manager, found) => {
      if (found.raisedBy !== person.id)
        (await this.rights.of(person, manager)).require('release', found.place);
      await manager.query('UPDATE check_point SET closed_by = $2, closed_at = now() WHERE id = $1', [
        point,
        person.id,
      ]);
      return `closed a point about ${found.number}: ${found.words}`;
    });
  }

  private async onPoint(
    point: string,
    person: Person,
    act: (manager: EntityManager, found: FoundPoint) => Promise<string>,
  ): Promise<void> {
    const rights = await this.rights.of(person);
    await this.database.transaction(async (manager) => {
      const [found] = await readRows<FoundPoint>(
        manager,
        {
          ...{ itemId: text, number: text, place: text, placeId: text, sheet: text, words: text },
          ...{ raisedBy: text, sender: text, isClosed: flag },
        },
        `SELECT i.id AS "itemId", i.number, p.path AS place, i.place_id AS "placeId", k.sheet_id AS sheet, k.words,
                k.person_id AS "raisedBy", c.person_id AS sender, k.closed_at IS NOT NULL AS "isClosed"
         FROM check_point k JOIN item i ON i.id = k.item_id JOIN place p ON p.id = i.place_id JOIN check_sheet c ON c.id = k.sheet_id
         WHERE k.id = $1 FOR UPDATE OF k`,
        [point],
      );
      if (!found || !rights.may('see', found.placeId))
        throw new ProblemError('NOT_FOUND', 'There is no such point.');
      if (found.isClosed)
        throw new ProblemError(
          'STEP_REFUSED',
          'The point is closed. Raise another one. Nothing was changed.',
        );
      const says = await act(manager, found);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'check', itemId: found.itemId, address: sheetAddress(found.sheet) },
          says: `${person.name} ${says}`,
          alsoTell: [found.raisedBy, found.sender],
        },
      ]);
      await announce(manager, 'sheets', 'notices');
    });
  }

  /** @throws ProblemError NOT_FOUND where the item is not on it, or may not be seen */
  private async itemOn(
    sheet: string,
    item: string,
    person: Person,
    right: Right = 'see',
  ): Promise<{ itemId: string; number: string; sender: string }> {
    const { itemId, number: of } = await this.catalogue.resolve(item, person, right);
    const [found] = await readRows(
      this.database,
      { sender: text },
      `SELECT c.person_id AS sender FROM check_sheet_item s JOIN check_sheet c ON c.id = s.sheet_id
       WHERE s.sheet_id = $1 AND s.item_id = $2`,
      [sheet, itemId],
    );
    if (!found) throw new ProblemError('NOT_FOUND', `${of} is not on that check sheet.`);
    return { itemId, number: of, sender: found.sender };
  }

  /** In the order of the ids, newest first. */
  private async rowsOf(ids: readonly string[], person: Person): Promise<SheetRow[]> {
    const rights = await this.rights.of(person);
    const rows = await readRows<SheetRow & { first: string; waits: string[] }>(
      this.database,
      {
        ...{ id: text, title: text, sentBy: text, sentAt: timeText, reason: text, items: number },
        ...{ undecided: number, seen: number, first: text, isMine: flag },
        ...{ waits: json<string[]>(), asked: json<AskedPerson[]>(), until: orNull(text), isLate: flag },
      },
      `SELECT c.id, '' AS title, ${isAsked('c.id', '$3')} AS "isMine", c.until::text,
              coalesce(c.until < site_day(now()) AND bool_or(${UNDECIDED}), false) AS "isLate",
              (SELECT coalesce(jsonb_agg(jsonb_build_object('login', a.login, 'name', a.name, 'substitute', n.name) ORDER BY k.at, a.login), '[]')
                FROM check_asked k JOIN person a ON a.id = k.person_id
                LEFT JOIN substitute b ON b.person_id = a.id AND ${holdsToday('b')} LEFT JOIN person n ON n.id = b.substitute_id
                WHERE k.sheet_id = c.id AND k.passed_on_at IS NULL) AS asked, p.name AS "sentBy", c.at AS "sentAt", c.reason, count(i.id)::int AS items,
              coalesce((array_agg(i.number || ' ' || i.name ORDER BY s.position) FILTER (WHERE i.id IS NOT NULL))[1], '') AS first,
              count(*) FILTER (WHERE ${UNDECIDED})::int AS undecided,
              count(*) FILTER (WHERE EXISTS (SELECT FROM check_seen e WHERE e.sheet_id = c.id AND e.item_id = i.id AND e.person_id = $3))::int AS seen,
              coalesce(jsonb_agg(i.id::text) FILTER (WHERE ${UNDECIDED}), '[]') AS waits
       FROM check_sheet c JOIN person p ON p.id = c.person_id JOIN check_sheet_item s ON s.sheet_id = c.id
       LEFT JOIN item i ON i.id = s.item_id AND i.place_id <> ALL($2::bigint[])
       WHERE c.id = ANY($1::bigint[]) GROUP BY c.id, p.name ORDER BY c.id DESC`,
      [ids, rights.placesWithout('see'), person.id],
    );
    const mine = await this.decidable(
      rows.flatMap(({ waits }) => waits),
      person,
      rights,
    );
    return rows.map(({ first, waits, ...row }) => ({
      ...row,
      title: row.items > 1 ? `${first} and ${row.items - 1} more` : first,
      isLate: row.isLate === true,
      isMine: row.isMine === true && waits.some((item) => mine.has(item)),
    }));
  }

  /** Items about which somebody may decide. */
  private async decidable(
    itemIds: readonly string[],
    person: Person,
    rights: Rights,
  ): Promise<ReadonlySet<string>> {
    const { manager } = this.database;
    const items = await this.catalogue.newestOf(itemIds, manager);
    const standings = await standingsOf(manager, items);
    return new Set(
      items.flatMap(({ itemId, placeId }) => {
        const at = standings.get(itemId);
        return at && decidesAt(at, takerAt(placeId, person, rights)) ? itemId : [];
      }),
    );
  }
}

interface FoundPoint {
  readonly itemId: string;
  readonly number: string;
  readonly place: string;
  readonly placeId: string;
  readonly sheet: string;
  readonly words: string;
  readonly raisedBy: string;
  readonly sender: string;
  readonly isClosed: boolean;
}

function pointRow(
  { login, sheet: raisedOn, ...point }: StoredPoint,
  { sheet, placeId, person, rights }: { sheet: string; placeId: string; person: Person; rights: Rights },
): CheckPointRow {
  const isOpen = point.closed === null;
  return {
    ...point,
    isEarlier: raisedOn !== sheet,
    mayAnswer: isOpen && rights.may('change', placeId) && person.role !== 'viewer',
    mayClose: isOpen && (login === person.login || rights.may('release', placeId)),
  };
}

/** With points of earlier sheets that are open, before those of this one. */
async function itemsOf(
  manager: EntityManager,
  sheet: string,
  withoutReceive: readonly string[],
): Promise<StoredItem[]> {
  return readRows<StoredItem>(
    manager,
    {
      ...{ itemId: text, number: text, name: text, kind: word<ItemKind>(), placeId: text, version: text },
      ...{ state: text, isUndecided: flag, released: orNull(text), versions: json<SheetItem['versions']>() },
      seenBy: json<StoredItem['seenBy']>(),
      points: json<readonly StoredPoint[]>(),
      issued: json<SheetItem['issued']>(),
    },
    `SELECT i.id AS "itemId", i.number, i.name, i.kind, i.place_id AS "placeId", ${LABEL} AS version, i.state,
            ${UNDECIDED} AS "isUndecided", last.label AS released,
            (SELECT jsonb_build_object('wanted', count(*), 'made', count(f.made_at), 'leftOut', count(f.left_out),
                'problem', min(coalesce(f.left_out, f.problem)) FILTER (WHERE f.made_at IS NULL AND ${mayReceiveAll('$2')}))
              FROM issued_file f WHERE f.version_id = s.version_id) AS issued,
            (SELECT coalesce(jsonb_agg(jsonb_build_object('version', wr.code || '/' || w.seq, 'comment', w.comment, 'by', a.name,
                'at', ${iso('w.created_at')}) ORDER BY w.ordinal DESC), '[]')
              FROM version w JOIN revision wr ON wr.id = w.revision_id JOIN person a ON a.id = w.author_id
              WHERE w.item_id = i.id AND w.ordinal <= v.ordinal AND w.ordinal > coalesce(last.ordinal, 0)) AS versions,
            (SELECT coalesce(jsonb_agg(jsonb_build_object('login', q.login, 'by', q.name, 'at', ${iso('e.at')}, 'shown', e.shown) ORDER BY e.at), '[]')
              FROM check_seen e JOIN person q ON q.id = e.person_id WHERE e.sheet_id = s.sheet_id AND e.item_id = i.id) AS "seenBy",
            (SELECT coalesce(jsonb_agg(jsonb_build_object('id', k.id::text, 'version', kr.code || '/' || kv.seq, 'words', k.words,
                'by', kp.name, 'login', kp.login, 'at', ${iso('k.at')}, 'sheet', k.sheet_id::text,
                'answer', CASE WHEN k.answer IS NOT NULL THEN jsonb_build_object('words', k.answer, 'by', ka.name, 'at', ${iso('k.answered_at')}) END,
                'closed', CASE WHEN k.closed_at IS NOT NULL THEN jsonb_build_object('by', kc.name, 'at', ${iso('k.closed_at')}) END)
                ORDER BY k.closed_at IS NOT NULL, k.id), '[]')
              FROM check_point k JOIN version kv ON kv.id = k.version_id JOIN revision kr ON kr.id = kv.revision_id
              JOIN person kp ON kp.id = k.person_id LEFT JOIN person ka ON ka.id = k.answered_by LEFT JOIN person kc ON kc.id = k.closed_by
              WHERE k.item_id = i.id AND (k.sheet_id = s.sheet_id OR (k.sheet_id < s.sheet_id
                AND (k.closed_at IS NULL OR k.closed_at > c.at)))) AS points
     FROM check_sheet_item s JOIN check_sheet c ON c.id = s.sheet_id JOIN item i ON i.id = s.item_id
     JOIN version v ON v.id = s.version_id JOIN revision r ON r.id = v.revision_id
     LEFT JOIN LATERAL (SELECT lv.ordinal, lr.code || '/' || lv.seq AS label FROM version lv JOIN revision lr ON lr.id = lv.revision_id
       WHERE lv.item_id = i.id AND lv.ordinal < v.ordinal AND lv.revision_id <> v.revision_id AND ${isReleased('lr')}
       ORDER BY lv.ordinal DESC LIMIT 1) last ON true
     WHERE s.sheet_id = $1 ORDER BY s.position`,
    [sheet, withoutReceive],
  );
}
