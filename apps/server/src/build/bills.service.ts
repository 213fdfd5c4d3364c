import type {
  BillSummary,
  BuildAnswer,
  NewBillRequest,
  SaveBillRequest,
  SavedBuildRow,
  VersionMade,
} from '@stem-trace/contract';
import {
  fileNameFor,
  newBill,
  numberKey,
  valueAt,
  withKeys,
  type BuildBill,
  type BuildRow,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { json, number, orNull, readRows, text, timeText } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import type { VersionFacts } from '../store/facts.js';
import { refuseNotHeld } from '../store/hold-for-save.js';
import { holderFor } from '../store/names.js';
import { heldBy } from '../store/holds.js';
import { LABEL } from '../store/item-row.js';
import { insertNewItem, requireNumber } from '../store/new-item.js';
import { insertVersions } from '../store/store-writer.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { record } from '../trail/record.js';
import type { BillContents } from './bill-contents.js';
import { rowsBehind, type EngineeringService } from './engineering.service.js';

interface Identified {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
}

const ENDING = '.bill.json';
const MOST_LISTED = 2000;

/** Bills: made of engineering, read, and saved version by version. */
export class BillsService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly contents: BillContents,
    private readonly engineering: EngineeringService,
  ) {}

  /** @param item that they are for; all bills where empty */
  async list(item: string, person: Person): Promise<BillSummary[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const of = item === '' ? null : (await this.catalogue.resolve(item, person)).itemId;
    return readRows<BillSummary>(
      this.database,
      {
        ...{ number: text, name: text, version: text, state: text, heldBy: orNull(json()) },
        ...{ forNumber: text, forName: text, changedBy: text, changedAt: timeText, releases: number },
      },
      `SELECT i.number, i.name, ${LABEL} AS version, r.state, ${heldBy('$1')}, a.name AS "changedBy", v.created_at AS "changedAt",
              CASE WHEN f.place_id = ANY($1::bigint[]) THEN '' ELSE f.number END AS "forNumber",
              CASE WHEN f.place_id = ANY($1::bigint[]) THEN '' ELSE f.name END AS "forName",
              (SELECT count(*)::int FROM bill_release WHERE item_id = i.id) AS releases
       FROM bill b JOIN item i ON i.id = b.item_id JOIN item f ON f.id = b.for_item_id
       JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id JOIN person a ON a.id = v.author_id
       WHERE i.place_id <> ALL($1::bigint[]) AND ($2::bigint IS NULL OR b.for_item_id = $2)
       ORDER BY i.number_key LIMIT ${MOST_LISTED}`,
      [hidden, of],
    );
  }

  /** @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, INPUT_INVALID */
  async open(reference: string, person: Person): Promise<BuildAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    const newest = await this.catalogue.newest(version.itemId);
    const bill = await this.contents.read(version);
    const newer = await this.engineering.newer(bill, person);
    const rights = await this.rights.of(person);
    const { bill: seen, hidden } = await this.asSeen(bill, rights);
    const { number, name, label, state } = version;
    return {
      item: {
        ...{ number, name, version: label, state, isNewest: newest.id === version.id },
        heldBy: holderFor(rights, version.heldBy),
        before: await this.labelBefore(version),
      },
      ...{ bill: seen, hidden },
      behind: newer ? rowsBehind(bill.base, newer.rows) : null,
      newest: newer?.engineering.version ?? bill.engineering.version,
    };
  }

  /** @throws ProblemError as `EngineeringService.rows`; INPUT_INVALID for a number that is none, or taken; NOT_ALLOWED at the place */
  async create(
    { item, lens, number: wanted, name, place }: NewBillRequest,
    person: Person,
    at = new Date(),
  ): Promise<VersionMade> {
    requireNumber(wanted);
    const { engineering, rows } = await this.engineering.rows(item, lens, person);
    const bill = newBill(engineering, withKeys(rows, engineering));
    return this.turn.take(async (manager) => {
      const of = await this.catalogue.newest(engineering.itemId, manager);
      const path = place === '' ? of.place : place;
      const itemId = await insertNewItem(
        manager,
        this.rights,
        {
          ...{ number: wanted, name, kind: 'bill', place: path, facts: FACTS },
          fileName: fileNameFor(wanted, ENDING),
        },
        person,
      );
      await manager.query('INSERT INTO bill (item_id, for_item_id) VALUES ($1, $2)', [
        itemId,
        engineering.itemId,
      ]);
      const version = await this.write(
        manager,
        { itemId, number: wanted, name, place: path, facts: FACTS },
        bill,
        {
          person,
          at,
          comment: `Taken from ${engineering.number} ${engineering.version}`,
        },
      );
      await manager.query('INSERT INTO hold (item_id, person_id, reason) VALUES ($1, $2, $3)', [
        itemId,
        person.id,
        'new bill',
      ]);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'bill' as const, itemId },
          says: `${person.name} made the bill ${wanted} of ${engineering.number} ${engineering.version}`,
          at,
        },
      ]);
      await announce(manager, 'items', 'holds', 'notices');
      return { number: wanted, version };
    });
  }

  /** @throws ProblemError NOT_HELD, NOT_ALLOWED, ITEM_UNKNOWN, INPUT_INVALID */
  async save(request: SaveBillRequest, person: Person, at = new Date()): Promise<VersionMade> {
    // A release reads templates for whoever takes the step, so whoever names them must be allowed to.
    await this.catalogue.resolveAll(
      request.outputs.filter((template) => template !== ''),
      person,
      'fetch',
    );
    return this.change(request, person, {
      comment: request.comment || 'Rows of the bill',
      says: 'changed the bill',
      at,
      next: async (bill, manager) => ({
        ...bill,
        columns: request.columns,
        rows: await this.identified(request.rows, bill, person, manager),
        reasons: request.reasons,
        outputs: request.outputs,
      }),
    });
  }

  /** A new version of a held bill. */
  async change(
    { bill: reference, version: seen }: { readonly bill: string; readonly version: string },
    person: Person,
    {
      comment,
      says,
      next,
      at,
    }: {
      readonly comment: string;
      readonly says: string;
      readonly at: Date;
      readonly next: (bill: BuildBill, manager: EntityManager) => Promise<BuildBill>;
    },
  ): Promise<VersionMade> {
    const named = await this.catalogue.resolve(reference, person, 'change');
    return this.turn.take(async (manager) => {
      await lockItems(manager, [named.itemId]);
      await refuseNotHeld(manager, [named], person);
      const newest = await this.catalogue.newest(named.itemId, manager);
      if (newest.label !== seen)
        throw new ProblemError(
          'INPUT_INVALID',
          `${named.number} is at ${newest.label} by now; you edited ${seen}. Nothing was saved. Open the newest version, and take your changes over.`,
        );
      const before = await this.contents.read(newest);
      const rights = await this.rights.of(person, manager);
      if ((await this.asSeen(before, rights, manager)).hidden > 0)
        throw new ProblemError(
          'NOT_ALLOWED',
          `${named.number} has rows that are not visible to you, so that you cannot save it. Ask for access to them.`,
        );
      const version = await this.write(manager, newest, await next(before, manager), {
        person,
        comment,
        at,
      });
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'bill' as const, itemId: named.itemId },
          says: `${person.name} ${says} ${named.number}, as ${version}`,
          at,
        },
      ]);
      await announce(manager, 'items', 'notices');
      return { number: named.number, version };
    });
  }

  private async write(
    manager: EntityManager,
    item: Pick<DescribedVersion, 'itemId' | 'number' | 'name' | 'place' | 'facts'>,
    bill: BuildBill,
    { person, comment, at }: { readonly person: Person; readonly comment: string; readonly at: Date },
  ): Promise<string> {
    const { sha256 } = await this.contents.write(manager, bill);
    const ids = await insertVersions(manager, [
      {
        ...{ itemId: item.itemId, comment, authorId: person.id, createdAt: at, sha256 },
        ...{ fileName: fileNameFor(item.number, ENDING), storedPlace: item.place, productRef: 0 },
        ...{ idInFile: item.number, nameInFile: item.name, carrierVersionId: null, originVersionId: null },
        facts: item.facts,
      },
    ]);
    const id = valueAt(ids, 0);
    return (await this.catalogue.describe([id], manager)).get(id)?.label ?? '';
  }

  /** Rows as they are sent, with the items that their numbers mean. */
  private async identified(
    rows: readonly SavedBuildRow[],
    before: BuildBill,
    person: Person,
    manager: EntityManager,
  ): Promise<BuildRow[]> {
    const known = new Map<string, string | undefined>();
    for (const row of [...before.rows, ...before.base])
      if (row.number !== '') known.set(numberKey(row.number), row.itemId);
    const named = await this.itemsOf(
      [...known.values()].flatMap((itemId) => itemId ?? []),
      manager,
    );
    const current = new Map<string, Identified>(
      [...named].map(([itemId, item]) => [numberKey(item.number), { itemId, ...item }]),
    );
    const fresh = rows.filter(
      (row) =>
        row.kind !== 'text' && !known.has(numberKey(row.number)) && !current.has(numberKey(row.number)),
    );
    const added = await this.catalogue.resolveAll(
      [...new Set(fresh.map((row) => row.number))],
      person,
      'see',
      manager,
    );
    for (const { itemId, number: of, name } of added)
      current.set(numberKey(of), { itemId, number: of, name });
    const keys = new Set(before.base.map(({ key }) => key));
    return rows.map((row) => {
      if (row.kind === 'text') return { ...row, number: '', version: '' };
      if (row.kind === 'engineering' && !keys.has(row.from ?? ''))
        throw new ProblemError(
          'INPUT_INVALID',
          `${row.number} is said to be from a row that engineering does not have. Nothing was saved.`,
        );
      const itemId = current.get(numberKey(row.number))?.itemId ?? known.get(numberKey(row.number));
      const item =
        itemId === undefined ? undefined : (named.get(itemId) ?? current.get(numberKey(row.number)));
      if (itemId === undefined && row.kind === 'item')
        throw new ProblemError(
          'ITEM_UNKNOWN',
          `There is no item ${row.number} in the store. Nothing was saved.`,
        );
      return {
        ...row,
        ...(itemId === undefined ? {} : { itemId }),
        ...(item ? { number: item.number, name: item.name } : {}),
      };
    });
  }

  private async itemsOf(
    itemIds: readonly string[],
    manager: EntityManager,
  ): Promise<Map<string, { readonly number: string; readonly name: string; readonly placeId: string }>> {
    const rows = await readRows(
      manager,
      { id: text, number: text, name: text, placeId: text },
      'SELECT id::text, number, name, place_id::text AS "placeId" FROM item WHERE id = ANY($1::bigint[])',
      [[...new Set(itemIds)]],
    );
    return new Map(rows.map(({ id, ...item }) => [id, item]));
  }

  /** A bill under the names that items have now, without what may not be seen. */
  async asSeen(
    bill: BuildBill,
    rights: Rights,
    manager: EntityManager = this.database.manager,
  ): Promise<{ readonly bill: BuildBill; readonly hidden: number }> {
    const of = [...bill.rows, ...bill.base, bill.engineering].flatMap(({ itemId }) => itemId ?? []);
    const items = await this.itemsOf(of, manager);
    let hidden = 0;
    const seen = <R extends { readonly itemId?: string; readonly number: string; readonly name: string }>(
      row: R,
    ): R => {
      if (row.itemId === undefined) return row;
      const item = items.get(row.itemId);
      // What is in the bin for good keeps the name that it had.
      if (!item) return row;
      if (rights.may('see', item.placeId)) return { ...row, number: item.number, name: item.name };
      hidden++;
      return { ...row, number: HIDDEN, name: '', version: '', designators: '' };
    };
    const rows = bill.rows.map((row) => {
      const told = seen(row);
      return told.number === HIDDEN ? { ...told, values: {} } : told;
    });
    const base = bill.base.map(seen);
    const engineering = seen({ ...bill.engineering, name: '' });
    return {
      bill: { ...bill, rows, base, engineering: { ...bill.engineering, number: engineering.number } },
      hidden,
    };
  }

  private async labelBefore({ itemId, id }: DescribedVersion): Promise<string | null> {
    const [row] = await readRows(
      this.database,
      { label: text },
      `SELECT ${LABEL} AS label FROM version v JOIN revision r ON r.id = v.revision_id
       WHERE v.item_id = $1 AND v.ordinal < (SELECT ordinal FROM version WHERE id = $2) ORDER BY v.ordinal DESC LIMIT 1`,
      [itemId, id],
    );
    return row?.label ?? null;
  }
}

const HIDDEN = 'not visible to you';

const FACTS: VersionFacts = {
  ...{ description: '', format: 'other', schema: '', versionText: '', source: 'unknown', properties: [] },
};
