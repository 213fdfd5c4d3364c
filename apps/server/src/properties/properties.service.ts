import { Injectable } from '@nestjs/common';
import type { CustodyAnswer, EditPropertiesRequest } from '@stem-trace/contract';
import { withProperties } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { readRows, text } from '../database/read-rows.js';
import { VersionCopier } from '../store/version-copier.js';
import { refuseNotHeld, takeFree } from '../store/hold-for-save.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { searchText, withValues } from '../store/facts.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { DefinitionsService } from './definitions.service.js';
import { parseEntered } from './parse-entered.js';

/** Edits properties of held items: each gets a new version with the same file. */
@Injectable()
export class PropertiesService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly copier: VersionCopier,
    private readonly definitions: DefinitionsService,
  ) {}

  /**
   * All of the items, or none: values are checked first, then every item for its holder.
   *
   * @throws ProblemError INPUT_INVALID for a value that does not fit; NOT_HELD
   */
  async edit(request: EditPropertiesRequest, person: Person, at: Date = new Date()): Promise<CustodyAnswer> {
    const named = await this.catalogue.resolveAll(request.items, person, 'change');
    const itemIds = [...new Set(named.map(({ itemId }) => itemId))];
    return this.turn.take(async (manager) => {
      await lockItems(manager, itemIds);
      const changes = parseEntered(request.set, (await this.definitions.list(manager)).definitions);
      const free = request.checkOut
        ? await takeFree(manager, this.catalogue, itemIds, person, 'properties')
        : [];
      await refuseNotHeld(manager, named, person);
      await this.setClass(manager, itemIds, request.class);
      const done: CustodyAnswer['done'][number][] = [];
      for (const itemId of itemIds) {
        const item = await this.catalogue.newest(itemId, manager);
        const facts = withValues(item.facts, withProperties(item.facts.properties, changes));
        const version = await this.copier.copy(manager, item, {
          at,
          comment: request.comment || `Properties: ${[...changes.keys()].join(', ') || 'class'}`,
          person,
          links: 'recorded',
          facts,
        });
        await manager.query('UPDATE item SET search_text = $2 WHERE id = $1', [
          itemId,
          searchText(item.number, item.name, facts),
        ]);
        await record(manager, [
          {
            personId: person.id,
            kind: 'properties',
            itemId,
            says: `${person.name} changed properties of ${item.number}, as ${version}`,
            ...{ detail: { set: request.set, class: request.class }, at },
          },
        ]);
        done.push({ number: item.number, version });
      }
      await manager.query('DELETE FROM hold WHERE item_id = ANY($1::bigint[]) AND person_id = $2', [
        free,
        person.id,
      ]);
      await announce(manager, 'items', 'notices');
      return { done, refused: [] };
    });
  }

  private async setClass(
    manager: EntityManager,
    itemIds: readonly string[],
    name: string | undefined,
  ): Promise<void> {
    if (name === undefined) return;
    const [found] = await readRows(
      manager,
      { id: text },
      'SELECT id FROM class WHERE lower(name) = lower($1)',
      [name],
    );
    if (!found && name !== '')
      throw new ProblemError('INPUT_INVALID', `There is no class ${name}. Nothing was changed.`);
    await manager.query('UPDATE item SET class_id = $2 WHERE id = ANY($1::bigint[])', [
      itemIds,
      found?.id ?? null,
    ]);
  }
}
