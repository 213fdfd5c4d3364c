import { Injectable } from '@nestjs/common';
import { IDENTITY_PLACEMENT, type Relation } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import type { VersionFacts } from '../items/facts.js';
import { copyLinks, insertLinks, insertVersions, type NewLink } from '../store/store-writer.js';

export interface Belonging {
  readonly itemId: string;
  readonly versionId: string;
  readonly number: string;
  readonly relation: Relation;
}

export interface CopyOptions {
  readonly comment: string;
  readonly person: Person;
  /** Which versions the new links record of what lies outside the file: as before, or the newest. */
  readonly links: 'recorded' | 'newest';
  /** What the version itself says, where that is not as before. */
  readonly facts?: VersionFacts;
  /** The model that the version belongs to, where that changes; null for none. */
  readonly belongsTo?: Belonging | null;
}

/** Makes a version of an item out of one that it has: the same bytes, with what else lives in the file. */
@Injectable()
export class VersionCopier {
  constructor(private readonly catalogue: CatalogueService) {}

  /** @returns the new version's label */
  async copy(
    manager: EntityManager,
    version: DescribedVersion,
    { comment, person, links, facts, belongsTo }: CopyOptions,
  ): Promise<string> {
    const contents = await this.catalogue.describeFileContents(
      [version.carrierVersion ?? version.id],
      manager,
    );
    const copies = new Map<string, string>();
    const at = new Date();
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
          productRef: own.productRef,
          idInFile: own.idInFile,
          nameInFile: own.nameInFile,
          carrierVersionId: own.carrierVersion === null ? null : (copies.get(own.carrierVersion) ?? null),
          originVersionId: null,
          facts: own.id === version.id ? (facts ?? own.facts) : own.facts,
        })),
      );
      round.forEach((own, index) => copies.set(own.id, ids[index] ?? ''));
    }
    await copyLinks(manager, copies, { others: links, withBelonging: belongsTo === undefined });
    const made = copies.get(version.id) ?? '';
    if (belongsTo) await insertLinks(manager, [belongingLink(made, belongsTo)]);
    return (await this.catalogue.describe([made], manager)).get(made)?.label ?? '';
  }
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
    occurrences: [{ name: '', placement: IDENTITY_PLACEMENT }],
  };
}
