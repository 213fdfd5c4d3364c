import { Injectable } from '@nestjs/common';
import type { CustodyAnswer, HoldRow } from '@stem-trace/contract';
import { refuseHold, type Right } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { record } from '../notices/record.js';
import { ProblemError } from '../problems/problem.js';
import { takeTurn } from '../store/store-writer.js';
import { VersionCopier } from './version-copier.js';
import { holdsOf, requireHold } from './holds.js';

interface Done {
  readonly number: string;
  readonly version: string;
}

/** Who may change what: one holder an item, and what the holder may do without a file. */
@Injectable()
export class CustodyService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly copier: VersionCopier,
    private readonly rights: RightsService,
  ) {}

  async mine(person: Person): Promise<HoldRow[]> {
    return this.database.query(
      `SELECT p.login, p.name, p.initials, h.since, h.reason, i.number, i.name AS "itemName", r.code || '/' || v.seq AS version,
              (SELECT count(*)::int FROM link l JOIN item t ON t.id = l.target_item_id
               WHERE l.version_id = v.id AND NOT l.carried AND t.newest_version_id <> l.target_version_id) AS behind
       FROM hold h JOIN person p ON p.id = h.person_id JOIN item i ON i.id = h.item_id
       JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       WHERE h.person_id = $1 ORDER BY h.since, i.number_key`,
      [person.id],
    );
  }

  /** Takes items for change, each for itself: some may be had while others are held by somebody else. */
  async checkOut(items: readonly string[], reason: string, person: Person): Promise<CustodyAnswer> {
    return this.eachItem(items, person, async (manager, item) => {
      const refusal = refuseHold(item.state) ?? (await this.refuseCarried(manager, item));
      if (refusal !== undefined) return refusal;
      const taken: unknown[] = await manager.query(
        'INSERT INTO hold (item_id, person_id, reason) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING RETURNING item_id',
        [item.itemId, person.id, reason],
      );
      if (taken.length > 0) {
        await record(manager, [
          {
            personId: person.id,
            kind: 'check out',
            itemId: item.itemId,
            says: `${person.name} checked out ${item.number}`,
            detail: { reason },
          },
        ]);
        return undefined;
      }
      const holder = (await holdsOf(manager, [item.itemId])).get(item.itemId);
      return holder?.personId === person.id ? undefined : `${holder?.name ?? 'somebody'} holds it`;
    });
  }

  async letGo(items: readonly string[], person: Person): Promise<CustodyAnswer> {
    return this.eachItem(
      items,
      person,
      async (manager, item) => {
        const mine: [unknown[], number] = await manager.query(
          'DELETE FROM hold WHERE item_id = $1 AND person_id = $2',
          [item.itemId, person.id],
        );
        if (mine[1] === 0) return 'you do not hold it';
        await record(manager, [
          {
            personId: person.id,
            kind: 'let go',
            itemId: item.itemId,
            says: `${person.name} let ${item.number} go`,
          },
        ]);
        return undefined;
      },
      'see',
    );
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
  async revise(items: readonly string[], person: Person): Promise<CustodyAnswer> {
    return this.eachItem(items, person, async (manager, item) => {
      if (item.state !== 'released') return `it is ${item.state}, not released`;
      const carried = await this.refuseCarried(manager, item);
      if (carried !== undefined) return carried;
      const version = await this.copier.copy(manager, item, {
        comment: `Opened from ${item.label}`,
        person,
        links: 'recorded',
      });
      await manager.query('INSERT INTO hold (item_id, person_id, reason) VALUES ($1, $2, $3)', [
        item.itemId,
        person.id,
        'revised',
      ]);
      await record(manager, [
        {
          personId: person.id,
          kind: 'revise',
          itemId: item.itemId,
          says: `${person.name} revised ${item.number}: ${version} opened from ${item.label}`,
        },
      ]);
      return { version };
    });
  }

  /** Makes an older version the newest again, as a version of its own that says where it came from. */
  async bringBack(reference: string, comment: string, person: Person): Promise<Done> {
    const version = await this.catalogue.resolve(reference, person, 'change');
    return this.database.transaction(async (manager) => {
      await takeTurn(manager);
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
      const comment = `Caught up: ${behind.map((link) => `${link.number} ${link.newest}`).join(', ')}`;
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

  private async refuseCarried(manager: EntityManager, item: DescribedVersion): Promise<string | undefined> {
    if (item.carrierVersion === null) return undefined;
    const carrier = (await this.catalogue.describe([item.carrierVersion], manager)).get(item.carrierVersion);
    return `it lives in the file of ${carrier?.number}; take that instead`;
  }

  /**
   * Does one thing to each item in a transaction of its own, in the store's order of numbers, so that one refusal does not
   * undo the rest. `act` gives the refusal, or the new version.
   */
  private async eachItem(
    references: readonly string[],
    person: Person,
    act: (
      manager: EntityManager,
      item: DescribedVersion,
    ) => Promise<string | { version: string } | undefined>,
    needs: Right = 'change',
  ): Promise<CustodyAnswer> {
    const done: Done[] = [];
    const refused: { number: string; reason: string }[] = [];
    for (const reference of new Set(references)) {
      const named = await this.catalogue.resolve(reference, person);
      if (!(await this.rights.of(person)).may(needs, named.placeId)) {
        refused.push({
          number: named.number,
          reason: 'your access at its place does not allow you to change it',
        });
        continue;
      }
      const outcome = await this.onItem(named, act);
      if (typeof outcome.result === 'string')
        refused.push({ number: outcome.item.number, reason: outcome.result });
      else done.push({ number: outcome.item.number, version: outcome.result?.version ?? outcome.item.label });
    }
    return { done, refused };
  }

  private async onItem(
    named: DescribedVersion,
    act: (
      manager: EntityManager,
      item: DescribedVersion,
    ) => Promise<string | { version: string } | undefined>,
  ): Promise<{ item: DescribedVersion; result: string | { version: string } | undefined }> {
    try {
      return await this.database.transaction(async (manager) => {
        await takeTurn(manager);
        // What was read before the turn may be old by now.
        const item = await this.catalogue.newest(named.itemId, manager);
        const result = await act(manager, item);
        await announce(manager, 'holds', 'items', 'notices');
        return { result, item };
      });
    } catch (error) {
      if (error instanceof ProblemError) return { item: named, result: error.message };
      throw error;
    }
  }
}
