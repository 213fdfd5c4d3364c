import { Injectable } from '@nestjs/common';
import {
  valueAt,
  known,
  IDENTITY_PLACEMENT,
  refuseChange,
  takesVersions,
  type Relation,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { RightsService } from '../access/rights.service.js';
import { CatalogueService, notAllowed, type DescribedVersion } from './catalogue.service.js';
import type { VersionFacts } from './facts.js';
import { ProblemError } from '../problems/problem.js';
import { refuseCircles } from './circles.js';
import { lockItems } from './turn.js';
import { holdsOf } from './holds.js';
import { copyLinks, insertLinks, insertVersions, type NewLink, type RowEdit } from './store-writer.js';
import { stateBook } from '../database/state-book.js';

export interface Belonging {
  readonly itemId: string;
  readonly versionId: string;
  readonly number: string;
  readonly relation: Relation;
}

export interface CopyOptions {
  readonly comment: string;
  readonly person: Person;
  readonly at?: Date;
  /** Which versions the new links record of what lies outside the file: as before, or the newest. */
  readonly links: 'recorded' | 'newest';
  /** What the version itself says, where that is not as before. */
  readonly facts?: VersionFacts;
  /** What a BOM says of its uses, where that is not as before. */
  readonly rows?: readonly RowEdit[];
  /** The model that the version belongs to, where that changes; null for none. */
  readonly belongsTo?: Belonging | null;
}

/** Makes a version of an item out of one that it has: the same bytes, with what else lives in the file. */
@Injectable()
export class VersionCopier {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /**
   * @returns the new version's label
   * @throws ProblemError NOT_HELD, NOT_ALLOWED, STEP_REFUSED where something that lives in the same file may not get a version;
   *   INTAKE_CYCLE where an item would contain itself
   */
  async copy(
    manager: EntityManager,
    version: DescribedVersion,
    { comment, person, at = new Date(), links, facts, rows = [], belongsTo }: CopyOptions,
  ): Promise<string> {
    const contents = await this.catalogue.describeFileContents(
      [version.carrierVersion ?? version.id],
      manager,
    );
    await lockItems(
      manager,
      contents.map(({ itemId }) => itemId),
    );
    await this.judge(manager, version, { contents, person });
    const copies = new Map<string, string>();
    for (const round of [
      contents.filter((own) => own.carrierVersion === null),
      contents.filter((own) => own.carrierVersion !== null),
    ]) {
      const ids = await insertVersions(
        manager,
        round.map((own) => ({
          itemId: own.itemId,
          comment,
          authorId: person.id,
          createdAt: at,
          sha256: own.sha256,
          fileName: own.storedFileName,
          storedPlace: own.storedPlace,
          productRef: own.productRef,
          idInFile: own.idInFile,
          nameInFile: own.nameInFile,
          carrierVersionId: own.carrierVersion === null ? null : (copies.get(own.carrierVersion) ?? null),
          originVersionId: null,
          facts: own.id === version.id ? (facts ?? own.facts) : own.facts,
        })),
      );
      round.forEach((own, index) => copies.set(own.id, valueAt(ids, index)));
    }
    await copyLinks(manager, copies, { others: links, withBelonging: belongsTo === undefined, rows });
    const items = contents.map(({ itemId }) => itemId);
    await setKinds(manager, items);
    await refuseCircles(manager, items, 'As this version');
    const made = known(copies, version.id);
    if (belongsTo) await insertLinks(manager, [belongingLink(made, belongsTo)]);
    return known(await this.catalogue.describe([made], manager), made).label;
  }

  /** What lives in the same file gets a version too, so the same is asked of it as of the item itself. */
  private async judge(
    manager: EntityManager,
    version: DescribedVersion,
    { contents, person }: { contents: readonly DescribedVersion[]; person: Person },
  ): Promise<void> {
    const others = contents.filter(({ itemId }) => itemId !== version.itemId);
    if (others.length === 0) return;
    const rights = await this.rights.of(person, manager);
    const holds = await holdsOf(
      manager,
      others.map(({ itemId }) => itemId),
    );
    const book = await stateBook(manager);
    const carrier = contents.find(({ carrierVersion }) => carrierVersion === null)?.itemId;
    for (const { itemId, number } of others) {
      const newest = await this.catalogue.newest(itemId, manager);
      const livesIn = await this.carrierItemOf(manager, newest);
      const holder = holds.get(itemId);
      const lives = `${number} lives in the file of ${version.number} ${version.label}`;
      if (!rights.may('change', newest.placeId))
        throw new ProblemError('NOT_ALLOWED', `${lives}. ${notAllowed(number, 'change')}`);
      if (holder && holder.personId !== person.id)
        throw new ProblemError('NOT_HELD', `${lives}, and ${holder.name} holds it. Nothing was changed.`);
      if (!takesVersions(book, newest.state))
        throw new ProblemError(
          'STEP_REFUSED',
          `${lives}, and ${refuseChange(book, newest.state)}. Nothing was changed.`,
        );
      if (itemId !== carrier && livesIn !== carrier && !holder)
        throw new ProblemError(
          'NOT_HELD',
          `${lives}, and has a file of its own by now; check out ${number} too. Nothing was changed.`,
        );
    }
  }

  private async carrierItemOf(
    manager: EntityManager,
    { carrierVersion }: DescribedVersion,
  ): Promise<string | undefined> {
    if (carrierVersion === null) return undefined;
    return (await this.catalogue.describe([carrierVersion], manager)).get(carrierVersion)?.itemId;
  }
}

/** A model is an assembly where its newest version is made of something. */
async function setKinds(manager: EntityManager, itemIds: readonly string[]): Promise<void> {
  await manager.query(
    `UPDATE item SET kind = CASE WHEN EXISTS (
       SELECT 1 FROM link l WHERE l.version_id = item.newest_version_id AND l.relation = 'component') THEN 'assembly' ELSE 'part' END
     WHERE id = ANY($1::bigint[]) AND kind IN ('part', 'assembly')`,
    [itemIds],
  );
}

/** Behind whatever links the file has; it stands in no file. */
const HAND_POSITION = 1_000_000;

function belongingLink(
  versionId: string,
  { itemId, versionId: target, number, relation }: Belonging,
): NewLink {
  return {
    versionId,
    position: HAND_POSITION,
    relation,
    targetItemId: itemId,
    targetVersionId: target,
    quantity: 1,
    carried: false,
    targetRef: 0,
    targetIdInFile: number,
    targetNameInFile: '',
    locator: null,
    saidAlike: true,
    occurrences: [{ name: '', placement: IDENTITY_PLACEMENT }],
  };
}
