import type { Mention } from '../trail/mentions.js';
import { Injectable } from '@nestjs/common';
import type { CheckOutRequest, CustodyAnswer, HoldRow } from '@stem-trace/contract';
import { refuseChange, type Right } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRows, text, timeText } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { counted, record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { problemOf } from '../problems/to-problem.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { VersionCopier } from '../store/version-copier.js';
import { holdsOf, insertHolds, requireHold } from '../store/holds.js';
import { heldFor } from '../store/changes.js';
import { stateBook } from '../database/state-book.js';

interface Done {
  readonly number: string;
  readonly version: string;
}

/** Who may change what: one holder an item, and what the holder may do without a file. */
@Injectable()
export class CustodyService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly copier: VersionCopier,
    private readonly rights: RightsService,
  ) {}

  async mine(person: Person): Promise<HoldRow[]> {
    return readRows<HoldRow>(
      this.database,
      {
        number: text,
        itemName: text,
        version: text,
        behind: number,
        login: text,
        name: text,
        initials: text,
        since: timeText,
        reason: text,
        change: orNull(text),
      },
      `SELECT p.login, p.name, p.initials, h.since, h.reason, (SELECT c.number FROM item c WHERE c.id = h.change_id) AS change, i.number, i.name AS "itemName", r.code || '/' || v.seq AS version,
              (SELECT count(*)::int FROM link l JOIN item t ON t.id = l.target_item_id
               WHERE l.version_id = v.id AND NOT l.carried AND t.newest_version_id <> l.target_version_id) AS behind
       FROM hold h JOIN person p ON p.id = h.person_id JOIN item i ON i.id = h.item_id
       JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       WHERE h.person_id = $1 ORDER BY h.since, i.number_key`,
      [person.id],
    );
  }

  /** Takes items for change, each for itself: some may be had while others are held by somebody else. */
  async checkOut({ items, reason, change }: CheckOutRequest, person: Person): Promise<CustodyAnswer> {
    const order = change === '' ? undefined : await this.catalogue.resolve(change, person);
    return this.onSet(items, { person, needs: 'change' }, async (manager, targets) => {
      const carriers = await this.carriersOf(manager, targets);
      const { orders, refusals: taken } = await heldFor(manager, targets, order);
      const refusals = new Map(taken);
      const book = await stateBook(manager);
      for (const item of targets) {
        const refusal = refuseChange(book, item.state) ?? livesIn(item, carriers);
        if (refusal !== undefined) refusals.set(item.itemId, refusal);
      }
      const free = targets.filter(({ itemId }) => !refusals.has(itemId));
      const held = new Set(
        await insertHolds(
          manager,
          free.map(({ itemId }) => itemId),
          { personId: person.id, reason, changes: orders },
        ),
      );
      const holders = await holdsOf(
        manager,
        free.map(({ itemId }) => itemId).filter((id) => !held.has(id)),
      );
      for (const [itemId, { personId, name }] of holders)
        if (personId !== person.id) refusals.set(itemId, `${name} holds it`);
      await record(
        manager,
        free
          .filter(({ itemId }) => held.has(itemId))
          .map(({ itemId, number }) => ({
            personId: person.id,
            kind: 'check out',
            itemId,
            says: `${person.name} checked out ${number}${order ? ` for ${order.number}` : ''}`,
            detail: { reason, ...(order ? { change: order.number } : {}) },
            ...mentionOf(order),
          })),
      );
      return refusals;
    });
  }

  async letGo(items: readonly string[], person: Person): Promise<CustodyAnswer> {
    return this.onSet(items, { person, needs: 'see' }, async (manager, targets) => {
      const gone = await readRows(
        manager,
        { id: text },
        'DELETE FROM hold WHERE item_id = ANY($1::bigint[]) AND person_id = $2 RETURNING item_id AS id',
        [targets.map(({ itemId }) => itemId), person.id],
      );
      const mine = new Set(gone.map(({ id }) => id));
      await record(
        manager,
        targets
          .filter(({ itemId }) => mine.has(itemId))
          .map(({ itemId, number }) => ({
            personId: person.id,
            kind: 'let go',
            itemId,
            says: `${person.name} let ${number} go`,
          })),
      );
      return new Map(
        targets.flatMap(({ itemId }) => (mine.has(itemId) ? [] : [[itemId, 'you do not hold it'] as const])),
      );
    });
  }

  /** An administrator takes a hold away from whoever has it; the holder is told why. */
  async breakHold(reference: string, reason: string, person: Person): Promise<void> {
    const item = await this.catalogue.resolve(reference, person);
    if (!(await this.rights.of(person)).may('administer', item.placeId))
      throw new ProblemError(
        'NOT_ALLOWED',
        'Only somebody who administers the place may break a hold. Ask the holder, or an administrator.',
      );
    await this.database.transaction(async (manager) => {
      await lockItems(manager, [item.itemId]);
      const holder = (await holdsOf(manager, [item.itemId])).get(item.itemId);
      if (!holder) throw new ProblemError('NOT_HELD', `Nobody holds ${item.number}.`);
      await manager.query('DELETE FROM hold WHERE item_id = $1', [item.itemId]);
      await record(manager, [
        {
          personId: person.id,
          kind: 'hold broken',
          itemId: item.itemId,
          says: `${person.name} broke the hold of ${holder.name} on ${item.number}: ${reason}`,
          detail: { reason, holder: holder.name },
          alsoTell: [holder.personId],
        },
      ]);
      await announce(manager, 'holds', 'notices');
    });
  }

  /** Opens the next revision of released items, beginning with what was released, and takes them for change. */
  async revise({ items, reason, change }: CheckOutRequest, person: Person): Promise<CustodyAnswer> {
    const order = change === '' ? undefined : await this.catalogue.resolve(change, person);
    return this.eachItem(items, person, async (manager, item) => {
      const lane = (await stateBook(manager)).get(item.state)?.lane;
      if (lane !== 'locked') return `it is ${item.state}, not locked; only what is locked is revised`;
      const carried = livesIn(item, await this.carriersOf(manager, [item]));
      if (carried !== undefined) return carried;
      const { orders, refusals } = await heldFor(manager, [item], order);
      const refusal = refusals.get(item.itemId);
      if (refusal !== undefined) return refusal;
      // Held before the version is made, so that it is made under the order.
      const taken = await insertHolds(manager, [item.itemId], {
        ...{ personId: person.id, reason: reason || 'revised', changes: orders },
      });
      if (taken.length === 0) return 'somebody holds it';
      const version = await this.copier.copy(manager, item, {
        comment: `Opened from ${item.label}`,
        person,
        links: 'recorded',
      });
      await record(manager, [
        {
          personId: person.id,
          kind: 'revise',
          itemId: item.itemId,
          ...mentionOf(order),
          says: `${person.name} revised ${item.number}: ${version} opened from ${item.label}${order ? ` for ${order.number}` : ''}${reason === '' ? '' : `: ${reason}`}`,
          detail: { reason, ...(order ? { change: order.number } : {}) },
        },
      ]);
      return { version };
    });
  }

  /** Makes an older version the newest again, as a version of its own that says where it came from. */
  async bringBack(reference: string, comment: string, person: Person): Promise<Done> {
    const version = await this.catalogue.resolve(reference, person, 'change');
    return this.turn.take(async (manager) => {
      await lockItems(manager, [version.itemId]);
      await requireHold(manager, version, person);
      const says = `Brought back from ${version.label}${comment === '' ? '' : `: ${comment}`}`;
      const label = await this.copier.copy(manager, version, { comment: says, person, links: 'recorded' });
      await record(manager, [
        {
          personId: person.id,
          kind: 'bring back',
          itemId: version.itemId,
          says: `${person.name} brought ${version.number} ${version.label} back as ${label}`,
        },
      ]);
      await announce(manager, 'items', 'notices');
      return { number: version.number, version: label };
    });
  }

  /** New versions of held items whose links record the newest versions of what they use. */
  async catchUp(items: readonly string[], person: Person): Promise<CustodyAnswer> {
    return this.eachItem(items, person, async (manager, item) => {
      const holder = (await holdsOf(manager, [item.itemId])).get(item.itemId);
      if (holder?.personId !== person.id) return holder ? `${holder.name} holds it` : 'it is not checked out';
      const behind = await this.catalogue.behindOf(item.id, manager);
      if (behind.length === 0) return 'it is not behind';
      // Whoever sees the version need not see what it uses, so that the comment names none of it.
      const comment = `Caught up with ${counted(behind.length, 'newer version')}`;
      const version = await this.copier.copy(manager, item, { comment, person, links: 'newest' });
      await record(manager, [
        {
          personId: person.id,
          kind: 'catch up',
          itemId: item.itemId,
          says: `${person.name} caught up ${item.number} as ${version}`,
        },
      ]);
      return { version };
    });
  }

  /** Items that others live in, by the version of their file. */
  private async carriersOf(
    manager: EntityManager,
    items: readonly DescribedVersion[],
  ): Promise<Map<string, DescribedVersion>> {
    return this.catalogue.describe(
      items.flatMap(({ carrierVersion }) => carrierVersion ?? []),
      manager,
    );
  }

  /**
   * Does one thing to many items in one short transaction that waits for nobody who writes structure. What somebody is
   * changing right now is refused like what somebody holds.
   *
   * @param act gives the refusals, by item
   */
  private async onSet(
    references: readonly string[],
    { person, needs }: { person: Person; needs: Right },
    act: (manager: EntityManager, items: readonly DescribedVersion[]) => Promise<ReadonlyMap<string, string>>,
  ): Promise<CustodyAnswer> {
    const { allowed, refused } = await this.judge(references, person, needs);
    const ids = allowed.map(({ itemId }) => itemId);
    const work = (isPatient: boolean): Promise<CustodyAnswer> =>
      this.database.transaction(async (manager) => {
        const free = isPatient ? await lockPatiently(manager, ids) : await lockFree(manager, ids);
        const targets = await this.catalogue.newestOf(
          ids.filter((id) => free.has(id)),
          manager,
        );
        const refusals = await act(manager, targets);
        await announce(manager, 'holds', 'notices');
        return {
          done: targets.flatMap(({ itemId, number, label }) =>
            refusals.has(itemId) ? [] : [{ number, version: label }],
          ),
          refused: [
            ...refused,
            ...targets.flatMap(({ itemId, number }) => {
              const reason = refusals.get(itemId);
              return reason === undefined ? [] : [{ number, reason }];
            }),
            ...allowed.flatMap(({ itemId, number }) =>
              free.has(itemId)
                ? []
                : [{ number, reason: 'somebody is changing it at this moment; try again' }],
            ),
          ],
        };
      });
    try {
      return await work(true);
    } catch (error) {
      if (problemOf(error)?.code === 'BUSY') return work(false);
      throw error;
    }
  }

  /**
   * Does one thing to each item in a turn of its own, so that one refusal does not undo the rest. `act` gives the refusal,
   * or the new version.
   */
  private async eachItem(
    references: readonly string[],
    person: Person,
    act: (
      manager: EntityManager,
      item: DescribedVersion,
    ) => Promise<string | { version: string } | undefined>,
  ): Promise<CustodyAnswer> {
    const { allowed, refused } = await this.judge(references, person, 'change');
    const done: Done[] = [];
    for (const named of allowed) {
      const outcome = await this.onItem(named, act);
      if (typeof outcome.result === 'string')
        refused.push({ number: outcome.item.number, reason: outcome.result });
      else done.push({ number: outcome.item.number, version: outcome.result?.version ?? outcome.item.label });
    }
    return { done, refused };
  }

  private async judge(
    references: readonly string[],
    person: Person,
    needs: Right,
  ): Promise<{ allowed: DescribedVersion[]; refused: { number: string; reason: string }[] }> {
    const named = await this.catalogue.resolveAll(references, person);
    const rights = await this.rights.of(person);
    const [allowed, refused] = [new Map<string, DescribedVersion>(), []] as [
      Map<string, DescribedVersion>,
      { number: string; reason: string }[],
    ];
    for (const item of named) {
      if (rights.may(needs, item.placeId)) allowed.set(item.itemId, item);
      else
        refused.push({
          number: item.number,
          reason: 'your access at its place does not allow you to change it',
        });
    }
    return { allowed: [...allowed.values()], refused };
  }

  private async onItem(
    named: DescribedVersion,
    act: (
      manager: EntityManager,
      item: DescribedVersion,
    ) => Promise<string | { version: string } | undefined>,
  ): Promise<{ item: DescribedVersion; result: string | { version: string } | undefined }> {
    try {
      return await this.turn.take(async (manager) => {
        await lockItems(manager, [named.itemId]);
        // What was read before the turn may be old by now.
        const item = await this.catalogue.newest(named.itemId, manager);
        const result = await act(manager, item);
        await announce(manager, 'holds', 'items', 'notices');
        return { result, item };
      });
    } catch (error) {
      const problem = problemOf(error);
      if (problem) return { item: named, result: problem.message };
      throw error;
    }
  }
}

/** Nobody waits longer than this for others who are at the same items. */
const PATIENCE_MS = 1500;

async function lockPatiently(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<ReadonlySet<string>> {
  await manager.query(`SELECT set_config('lock_timeout', $1, true)`, [`${PATIENCE_MS}ms`]);
  await lockItems(manager, itemIds);
  return new Set(itemIds);
}

/** Locks those that nobody is at. */
async function lockFree(manager: EntityManager, itemIds: readonly string[]): Promise<ReadonlySet<string>> {
  const rows = await readRows(
    manager,
    { id: text },
    'SELECT id FROM item WHERE id = ANY($1::bigint[]) ORDER BY id FOR NO KEY UPDATE SKIP LOCKED',
    [itemIds],
  );
  return new Set(rows.map(({ id }) => id));
}

function livesIn(
  { carrierVersion }: DescribedVersion,
  carriers: ReadonlyMap<string, DescribedVersion>,
): string | undefined {
  if (carrierVersion === null) return undefined;
  return `it lives in the file of ${carriers.get(carrierVersion)?.number}; take that instead`;
}

/** The change order that a sentence names. */
function mentionOf(order: { readonly itemId: string; readonly number: string } | undefined | null): {
  readonly mentions?: readonly Mention[];
} {
  return order ? { mentions: [{ item: order.itemId, number: order.number }] } : {};
}
