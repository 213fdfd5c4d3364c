import type { ChangeMakesRequest, CustodyAnswer } from '@stem-trace/contract';
import { isChange } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { flag, readRows } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, notAllowed, type DescribedVersion } from '../store/catalogue.service.js';
import { ordersOf, requireOpenOrder } from '../store/changes.js';
import { lockItems } from '../store/turn.js';
import { record } from '../trail/record.js';
import { changeAddress } from './change-address.js';

/** What an order makes, where that does not follow from a check-out for it. */
export class MakesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** Open revisions that were begun before the order, or beside it, are counted as made by it. */
  async add(request: ChangeMakesRequest, person: Person): Promise<CustodyAnswer> {
    return this.each(request, person, 'counts as made by', async (manager, order, item) => {
      if (isChange(item.kind)) return 'a change is not made by another change';
      const lane = (await stateBook(manager)).get(item.state)?.lane;
      if (lane !== 'open') return `it is ${item.state}; revise it for ${order.number} instead`;
      const other = (await ordersOf(manager, [item.itemId])).get(item.itemId);
      if (other)
        return other.orderId === order.itemId
          ? `${order.number} makes it already`
          : `${other.order} makes it`;
      await manager.query(
        `INSERT INTO change_makes (change_id, revision_id, since_version_id)
         SELECT $1, v.revision_id, (SELECT w.id FROM version w WHERE w.item_id = v.item_id AND w.revision_id <> v.revision_id
           AND w.ordinal < v.ordinal ORDER BY w.ordinal DESC LIMIT 1) FROM version v WHERE v.id = $2`,
        [order.itemId, item.id],
      );
      await manager.query('UPDATE hold SET change_id = $1 WHERE item_id = $2', [order.itemId, item.itemId]);
      return undefined;
    });
  }

  /** Only what has no version under the order leaves it: what was made stays told. */
  async leave(request: ChangeMakesRequest, person: Person): Promise<CustodyAnswer> {
    return this.each(request, person, 'does not count any more as made by', async (manager, order, item) => {
      const [made] = await readRows(
        manager,
        { worked: flag },
        `SELECT EXISTS (SELECT FROM change_version c JOIN version v ON v.id = c.version_id
           WHERE c.change_id = m.change_id AND v.revision_id = m.revision_id) AS worked
         FROM change_makes m JOIN version n ON n.revision_id = m.revision_id WHERE m.change_id = $1 AND n.id = $2`,
        [order.itemId, item.id],
      );
      if (!made) return `${order.number} does not make it`;
      if (made.worked === true) return `it has versions that were made under ${order.number}`;
      await manager.query(
        'DELETE FROM change_makes m USING version v WHERE m.change_id = $1 AND v.id = $2 AND m.revision_id = v.revision_id',
        [order.itemId, item.id],
      );
      await manager.query('UPDATE hold SET change_id = NULL WHERE item_id = $2 AND change_id = $1', [
        order.itemId,
        item.itemId,
      ]);
      return undefined;
    });
  }

  private async each(
    { change, items }: ChangeMakesRequest,
    person: Person,
    says: string,
    act: (
      manager: EntityManager,
      order: DescribedVersion,
      item: DescribedVersion,
    ) => Promise<string | undefined>,
  ): Promise<CustodyAnswer> {
    const order = await this.catalogue.resolve(change, person, 'change');
    const named = await this.catalogue.resolveAll(items, person);
    const rights = await this.rights.of(person);
    return this.database.transaction(async (manager) => {
      await lockItems(
        manager,
        [order, ...named].map(({ itemId }) => itemId),
      );
      await requireOpenOrder(manager, order);
      const done: { number: string; version: string }[] = [];
      const refused: { number: string; reason: string }[] = [];
      for (const item of await this.catalogue.newestOf(
        named.map(({ itemId }) => itemId),
        manager,
      )) {
        const { number, label, itemId } = item;
        const reason = rights.may('change', item.placeId)
          ? await act(manager, order, item)
          : notAllowed(number, 'change');
        if (reason !== undefined) refused.push({ number, reason });
        else {
          done.push({ number, version: label });
          await record(manager, [
            {
              ...{
                personId: person.id,
                kind: 'change' as const,
                itemId,
                address: changeAddress(order.number),
              },
              says: `${number} ${label} ${says} ${order.number}, says ${person.name}`,
            },
          ]);
        }
      }
      await announce(manager, 'items', 'notices', 'changes');
      return { done, refused };
    });
  }
}
