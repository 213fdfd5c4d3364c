import { Injectable } from '@nestjs/common';
import type { AlongRow, MoveItemsRequest, PlaceRow, RenameItemRequest } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { countRows, flag, listOf, number, readRows, text, word } from '../database/read-rows.js';
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

  /** Drawings and documents about items, which lie elsewhere than where these go. */
  async alongWith(
    { items, place }: Pick<MoveItemsRequest, 'items' | 'place'>,
    person: Person,
  ): Promise<AlongRow[]> {
    const named = await this.catalogue.resolveAll(items, person);
    const ids = named.map(({ itemId }) => itemId);
    return this.papersAbout(person, '$2::bigint[]', '$3', [ids, place]);
  }

  /** Drawings and documents about what lies in a place or below, which lie outside of it: who shuts it leaves those open. */
  async papersOutside(place: string, person: Person): Promise<AlongRow[]> {
    (await this.rights.of(person)).require('see', place);
    const within = `ARRAY(SELECT x.id FROM item x JOIN place y ON y.id = x.place_id
      WHERE $2 = '/' OR y.path = $2 OR starts_with(y.path, $2 || '/'))`;
    return this.papersAbout(person, within, '$2', [place]);
  }

  /** @param items SQL for their ids @param place SQL for the path of the place that papers lie outside of */
  private async papersAbout(
    person: Person,
    items: string,
    place: string,
    values: readonly unknown[],
  ): Promise<AlongRow[]> {
    const shut = (await this.rights.of(person)).placesWithout('change');
    return readRows<AlongRow>(
      this.database,
      { number: text, name: text, kind: word<AlongRow['kind']>(), place: text, of: text },
      `SELECT DISTINCT ON (i.number_key) i.number, i.name, i.kind, p.path AS place, t.number AS of
       FROM link l JOIN item i ON i.newest_version_id = l.version_id JOIN place p ON p.id = i.place_id
       JOIN item t ON t.id = l.target_item_id
       WHERE l.target_item_id = ANY(${items}) AND l.relation IN ('depicts', 'describes') AND i.id <> ALL(${items})
         AND p.path <> ${place} AND NOT starts_with(p.path, ${place} || '/') AND i.place_id <> ALL($1::bigint[])
         AND t.place_id <> ALL($1::bigint[]) ORDER BY i.number_key`,
      [shut, ...values],
    );
  }

  async moveItems({ items, place, along }: MoveItemsRequest, person: Person): Promise<void> {
    const papers = along ? await this.alongWith({ items, place }, person) : [];
    const all = [...items, ...papers.map(({ number }) => number)];
    const named = await this.catalogue.resolveAll(all, person, 'change');
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
      // What it was called finds it still.
      const former = [
        ...(named === newest.name ? [] : [newest.name]),
        ...(fileName === undefined || fileName === newest.fileName ? [] : [newest.fileName]),
      ].join('\n');
      await manager.query(
        `UPDATE item SET name = $2, file_name = $3, search_text = $4,
           former = CASE WHEN $5 = '' THEN former ELSE right(former || lower($5) || chr(10), ${MOST_FORMER}) END WHERE id = $1`,
        [
          target.itemId,
          named,
          fileName ?? newest.fileName,
          searchText(newest.number, named, newest.facts),
          former,
        ],
      );
      const said = [
        name === undefined ? '' : `‘${name}’, before ‘${newest.name}’`,
        fileName === undefined ? '' : `file ${fileName}, before ${newest.fileName}`,
      ]
        .filter(Boolean)
        .join('; ');
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

  /** Those who watch an item are told, and who holds it or a user of it: their working copies have old names now. */
  private async tell(
    manager: EntityManager,
    items: readonly { readonly id: string; readonly number: string }[],
    says: (number: string) => string,
    person: Person,
  ): Promise<void> {
    const concerned = await concernedBy(
      manager,
      items.map(({ id }) => id),
    );
    await record(
      manager,
      items.map(({ id, number }): Happening => ({
        personId: person.id,
        kind: 'move',
        itemId: id,
        says: says(number),
        alsoTell: concerned.get(id) ?? [],
      })),
    );
  }
}

/** Characters of former names that are kept; the oldest go first. */
const MOST_FORMER = 2000;

/** Who holds an item or a user of it, or watches a user of it, by item. */
async function concernedBy(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<Map<string, string[]>> {
  const rows = await readRows(
    manager,
    { itemId: text, people: listOf(text) },
    `SELECT near.item_id AS "itemId", array_agg(DISTINCT told.person_id::text) AS people
     FROM (
       SELECT id AS item_id, id AS user_id FROM unnest($1::bigint[]) AS id
       UNION SELECT l.target_item_id, u.id FROM link l JOIN item u ON u.newest_version_id = l.version_id
         WHERE l.target_item_id = ANY($1::bigint[])
     ) near
     JOIN LATERAL (
       SELECT h.person_id FROM hold h WHERE h.item_id = near.user_id
       UNION SELECT w.person_id FROM watch w WHERE w.item_id = near.user_id AND near.user_id <> near.item_id
     ) told ON true
     GROUP BY near.item_id`,
    [itemIds],
  );
  return new Map(rows.map(({ itemId, people }) => [itemId, people]));
}

function parentOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/')) || '/';
}
