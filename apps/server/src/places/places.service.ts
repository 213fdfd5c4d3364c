import { Injectable } from '@nestjs/common';
import type { MoveItemsRequest, PlaceRow, RenameItemRequest } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { countRows, flag, number, readRows, text } from '../database/read-rows.js';
import { holdsOf } from '../store/holds.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { searchText } from '../store/facts.js';
import { record, type Happening } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { placeIds } from '../store/store-writer.js';
import { StoreTurn } from '../store/turn.js';

/**
 * Where items lie and what they are called. Links are by identity, so none of this touches one; files that are fetched
 * afterwards refer to the new names and places.
 */
@Injectable()
export class PlacesService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** Every place, and those above it, with how many items lie right in it. */
  async list(person: Person): Promise<PlaceRow[]> {
    const rights = await this.rights.of(person);
    const stored = await readRows<PlaceRow & { id: string }>(
      this.database,
      { path: text, watched: flag, items: number, id: text },
      `SELECT p.id, p.path, (SELECT count(*)::int FROM item WHERE place_id = p.id) AS items,
              EXISTS (SELECT 1 FROM place_watch WHERE place_id = p.id AND person_id = $1) AS watched
       FROM place p`,
      [person.id],
    );
    const rows = stored.flatMap(({ id, ...row }): PlaceRow[] => (rights.may('see', id) ? [row] : []));
    const all = new Map(rows.map((row) => [row.path, row]));
    for (const { path } of rows) {
      for (let above = parentOf(path); !all.has(above); above = parentOf(above))
        all.set(above, { path: above, items: 0, watched: false });
    }
    return [...all.values()].sort((a, b) => a.path.localeCompare(b.path));
  }

  async create(path: string, person: Person): Promise<void> {
    (await this.rights.of(person)).require('change', path);
    await this.database.transaction(async (manager) => {
      const taken = 'SELECT 1 FROM place WHERE lower(path) = lower($1)';
      if ((await countRows(manager, taken, [path])) > 0)
        throw new ProblemError('PLACE_TAKEN', `There is a place ${path} already. Choose another name.`);
      await placeIds(manager, [path]);
      await record(manager, [
        { personId: person.id, kind: 'place', itemId: null, says: `${person.name} made the place ${path}` },
      ]);
      await announce(manager, 'items');
    });
  }

  /** Gives a place, with everything in and below it, another path. */
  async move(from: string, to: string, person: Person): Promise<void> {
    if (from === '/')
      throw new ProblemError('INPUT_INVALID', 'The whole store cannot be moved. Nothing was changed.');
    if (`${to}/`.toLowerCase().startsWith(`${from}/`.toLowerCase())) {
      throw new ProblemError('INPUT_INVALID', `${from} cannot be moved into itself. Nothing was changed.`);
    }
    const rights = await this.rights.of(person);
    rights.requireWithin('change', from);
    rights.require('change', to);
    await this.turn.take(async (manager) => {
      const within = `path = $1 OR starts_with(path, $1 || '/')`;
      const places = await readRows(
        manager,
        { id: text, path: text },
        `SELECT id, path FROM place WHERE ${within}`,
        [from],
      );
      if (places.length === 0)
        throw new ProblemError('PLACE_UNKNOWN', `There is no place ${from}. Look at the tree of places.`);
      const [taken] = await readRows(
        manager,
        { path: text },
        `SELECT path FROM place WHERE lower(path) = ANY($1::text[]) LIMIT 1`,
        [places.map(({ path }) => (to + path.slice(from.length)).toLowerCase())],
      );
      if (taken)
        throw new ProblemError(
          'PLACE_TAKEN',
          `There is a place ${taken.path} already. Nothing was changed; choose another name.`,
        );
      const moved = await readRows(
        manager,
        { id: text, number: text },
        'SELECT id, number FROM item WHERE place_id = ANY($1::bigint[])',
        [places.map(({ id }) => id)],
      );
      await manager.query(`UPDATE place SET path = $2 || substr(path, length($1) + 1) WHERE ${within}`, [
        from,
        to,
      ]);
      await this.tell(
        manager,
        moved,
        (number) => `${person.name} moved ${number} with ${from} to ${to}`,
        person,
      );
      await record(manager, [
        { personId: person.id, kind: 'place', itemId: null, says: `${person.name} moved ${from} to ${to}` },
      ]);
      await announce(manager, 'items', 'notices');
    });
  }

  async moveItems({ items, place }: MoveItemsRequest, person: Person): Promise<void> {
    const named = await this.catalogue.resolveAll(items, person, 'change');
    (await this.rights.of(person)).require('change', place);
    await this.turn.take(async (manager) => {
      await this.refuseHeldByOthers(manager, named, person);
      const placeId = (await placeIds(manager, [place])).get(place);
      await manager.query('UPDATE item SET place_id = $2 WHERE id = ANY($1::bigint[])', [
        named.map(({ itemId }) => itemId),
        placeId,
      ]);
      await this.tell(
        manager,
        named.map(({ itemId, number }) => ({ id: itemId, number })),
        (number) => `${person.name} moved ${number} to ${place}`,
        person,
      );
      await announce(manager, 'items', 'notices');
    });
  }

  /** Another name, or another file name. The number stays: an item has one for life. */
  async rename({ item, name, fileName }: RenameItemRequest, person: Person): Promise<void> {
    const target = await this.catalogue.resolve(item, person, 'change');
    if (target.carrierVersion !== null && fileName !== undefined) {
      throw new ProblemError(
        'INPUT_INVALID',
        `${target.number} has no file of its own. Nothing was changed; rename the file of what it lives in.`,
      );
    }
    await this.turn.take(async (manager) => {
      await this.refuseHeldByOthers(manager, [target], person);
      const newest = await this.catalogue.newest(target.itemId, manager);
      const named = name ?? newest.name;
      await manager.query('UPDATE item SET name = $2, file_name = $3, search_text = $4 WHERE id = $1', [
        target.itemId,
        named,
        fileName ?? newest.fileName,
        searchText(newest.number, named, newest.facts),
      ]);
      const said = [name === undefined ? '' : `‘${name}’`, fileName === undefined ? '' : `file ${fileName}`]
        .filter(Boolean)
        .join(', ');
      await this.tell(
        manager,
        [{ id: target.itemId, number: target.number }],
        (number) => `${person.name} renamed ${number}: ${said}`,
        person,
      );
      await announce(manager, 'items', 'notices');
    });
  }

  private async refuseHeldByOthers(
    manager: EntityManager,
    items: readonly DescribedVersion[],
    person: Person,
  ): Promise<void> {
    const holds = await holdsOf(
      manager,
      items.map(({ itemId }) => itemId),
    );
    const refused = items.flatMap(({ itemId, number }) => {
      const hold = holds.get(itemId);
      return hold && hold.personId !== person.id ? [`${number}: ${hold.name} holds it`] : [];
    });
    if (refused.length > 0)
      throw new ProblemError('NOT_HELD', `${refused.join('; ')}. Nothing was changed.`, refused);
  }

  /** Those who watch an item are told, and who holds it: their working copy has old names now. */
  private async tell(
    manager: EntityManager,
    items: readonly { readonly id: string; readonly number: string }[],
    says: (number: string) => string,
    person: Person,
  ): Promise<void> {
    const holds = await holdsOf(
      manager,
      items.map(({ id }) => id),
    );
    await record(
      manager,
      items.map(({ id, number }): Happening => {
        const holder = holds.get(id)?.personId;
        return {
          personId: person.id,
          kind: 'move',
          itemId: id,
          says: says(number),
          ...(holder === undefined ? {} : { alsoTell: [holder] }),
        };
      }),
    );
  }
}

function parentOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/')) || '/';
}
