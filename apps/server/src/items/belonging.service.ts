import { Injectable } from '@nestjs/common';
import type { CustodyAnswer } from '@stem-trace/contract';
import { isModel, relationOf } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { requireHold } from '../store/holds.js';
import { VersionCopier } from '../store/version-copier.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { CatalogueService } from '../store/catalogue.service.js';

/** Says by hand which model a held drawing or document belongs to, for files that cannot say it themselves. */
@Injectable()
export class BelongingService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly copier: VersionCopier,
  ) {}

  /**
   * A new version with the same file that belongs to the model, or to none where it is empty.
   *
   * @throws ProblemError NOT_HELD; INPUT_INVALID where the one is no document or the other no model
   */
  async set(reference: string, model: string, person: Person): Promise<CustodyAnswer> {
    const item = await this.catalogue.resolve(reference, person, 'change');
    const target = model === '' ? undefined : await this.catalogue.resolve(model, person);
    if (isModel(item.kind))
      throw new ProblemError(
        'INPUT_INVALID',
        `${item.number} is a ${item.kind}; only drawings and documents belong to a model.`,
      );
    if (target && !isModel(target.kind))
      throw new ProblemError(
        'INPUT_INVALID',
        `${target.number} is a ${target.kind}, not a part or an assembly.`,
      );
    return this.turn.take(async (manager) => {
      await lockItems(manager, [item.itemId]);
      await requireHold(manager, item, person);
      const newest = await this.catalogue.newest(item.itemId, manager);
      // Whoever sees the drawing need not see the model; what it belongs to stands beside it for those who do.
      const comment = target ? 'Belongs to another model' : 'Belongs to nothing';
      const version = await this.copier.copy(manager, newest, {
        comment,
        person,
        links: 'recorded',
        belongsTo: target
          ? {
              versionId: target.id,
              itemId: target.itemId,
              relation: relationOf(item.kind),
              number: target.number,
            }
          : null,
      });
      await record(manager, [
        {
          personId: person.id,
          kind: 'properties',
          itemId: item.itemId,
          says: `${person.name} said of ${item.number}: ${comment.toLowerCase()}`,
        },
      ]);
      await announce(manager, 'items', 'notices');
      return { done: [{ number: item.number, version }], refused: [] };
    });
  }
}
