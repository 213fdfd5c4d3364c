import { Injectable } from '@nestjs/common';
import type { CustodyAnswer, StepRequest } from '@stem-trace/contract';
import { LIFECYCLE, missingProperties, refuseStep, type ItemClass, type Right } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { readRows, text } from '../database/read-rows.js';
import { holdsOf } from '../store/holds.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { ProblemError } from '../problems/problem.js';
import { refuseCircles } from '../store/circles.js';
import { lockItems, StoreTurn } from '../store/turn.js';

const DID: Readonly<Record<StepRequest['step'], string>> = {
  'ask for check': 'asks for a check of',
  release: 'released',
  'send back': 'sent back',
  withdraw: 'withdrew',
};

/** Moves items from state to state: all of those named, or none. */
@Injectable()
export class LifecycleService {
  constructor(
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly definitions: DefinitionsService,
  ) {}

  /** @throws ProblemError STEP_REFUSED where one of them cannot take it; nothing was changed then */
  async take({ items, step: name, reason }: StepRequest, person: Person): Promise<CustodyAnswer> {
    const step = LIFECYCLE.find((candidate) => candidate.name === name);
    if (!step) throw new ProblemError('INPUT_INVALID', `There is no step '${name}'.`);
    // To ask for a check is part of changing; every other step decides.
    const right: Right = name === 'ask for check' ? 'change' : 'release';
    const named = await this.catalogue.resolveAll(items, person, right);
    return this.turn.takeForStep(async (manager) => {
      const itemIds = [...new Set(named.map(({ itemId }) => itemId))];
      await lockItems(manager, itemIds);
      const targets = await this.catalogue.newestOf(itemIds, manager);
      const holds = await holdsOf(
        manager,
        targets.map(({ itemId }) => itemId),
      );
      const classes = await this.definitions.classesOf(
        targets.map(({ itemId }) => itemId),
        manager,
      );
      const refused = targets.flatMap((item) => {
        const missing = name === 'ask for check' ? lacking(item, classes.get(item.itemId)) : undefined;
        if (missing !== undefined) return [missing];
        const why = refuseStep(
          step,
          { state: item.state, heldBy: holds.get(item.itemId)?.name },
          { role: person.role, reason },
        );
        return why === undefined ? [] : [`${item.number}: ${why}`];
      });
      if (refused.length > 0)
        throw new ProblemError('STEP_REFUSED', `${refused.join('; ')}. Nothing was changed.`, refused);
      await manager.query(
        'UPDATE revision SET state = $2 FROM version v WHERE revision.id = v.revision_id AND v.id = ANY($1::bigint[])',
        [targets.map(({ id }) => id), step.to],
      );
      if (step.to === 'released') await this.supersede(manager, targets);
      // Withdrawing, too, changes what the lens Released picks.
      if (step.to === 'released' || targets.some(({ state }) => state === 'released')) {
        await refuseCircles(
          manager,
          targets.map(({ itemId }) => itemId),
          'As released',
          'released',
        );
      }
      const checkers = step.name === 'ask for check' ? await this.peopleOf(manager, 'checker') : [];
      // Whoever sent something for checking is told what became of it, watching or not.
      const senders = targets.some(({ state }) => state === 'in check')
        ? await this.sendersOf(manager, targets)
        : new Map<string, string>();
      await record(
        manager,
        targets.map((item) => ({
          personId: person.id,
          kind: 'step',
          itemId: item.itemId,
          says: `${person.name} ${DID[step.name]} ${item.number} ${item.label}${reason === '' ? '' : `: ${reason}`}`,
          detail: { step: step.name, from: item.state, to: step.to, version: item.label, reason },
          alsoTell: [...checkers, ...optional(senders.get(item.itemId))],
        })),
      );
      await announce(manager, 'items', 'notices');
      return { done: targets.map(({ number, label }) => ({ number, version: label })), refused: [] };
    });
  }

  /** A released revision takes the place of those released before it. */
  private async supersede(manager: EntityManager, targets: readonly DescribedVersion[]): Promise<void> {
    await manager.query(
      `UPDATE revision r SET state = 'superseded' WHERE r.item_id = ANY($1::bigint[]) AND r.state = 'released'
       AND EXISTS (SELECT 1 FROM revision later WHERE later.item_id = r.item_id AND later.position > r.position AND later.state = 'released')`,
      [targets.map(({ itemId }) => itemId)],
    );
  }

  /** By item, who asked for its check last. */
  private async sendersOf(
    manager: EntityManager,
    targets: readonly DescribedVersion[],
  ): Promise<Map<string, string>> {
    const rows = await readRows(
      manager,
      { itemId: text, personId: text },
      `SELECT DISTINCT ON (item_id) item_id AS "itemId", person_id AS "personId" FROM event
       WHERE kind = 'step' AND detail->>'step' = 'ask for check' AND item_id = ANY($1::bigint[]) ORDER BY item_id, id DESC`,
      [targets.map(({ itemId }) => itemId)],
    );
    return new Map(rows.map(({ itemId, personId }) => [itemId, personId]));
  }

  private async peopleOf(manager: EntityManager, role: string): Promise<string[]> {
    const rows = await readRows(manager, { id: text }, 'SELECT id FROM person WHERE role = $1', [role]);
    return rows.map(({ id }) => id);
  }
}

function optional<T>(value: T | undefined): T[] {
  return value === undefined ? [] : [value];
}

/** A sentence about what an item's class requires of it and is not there. */
function lacking(item: DescribedVersion, of: ItemClass | undefined): string | undefined {
  const missing = of ? missingProperties(of, item.facts.properties) : [];
  return missing.length === 0
    ? undefined
    : `${item.number}: as a ${of?.name} it needs ${missing.join(', ')}; check it out and enter that first`;
}
