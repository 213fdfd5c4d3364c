import { numberKey, type DerivationPlan, type StructureGraph } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { insertRows } from '../database/rows.js';
import type { DescribedVersion } from '../items/catalogue.service.js';
import { searchText } from '../items/facts.js';
import { copyLinks, insertVersions, ITEM_COLUMNS, placeIds } from '../store/store-writer.js';

export interface VariantContext {
  readonly origin: DescribedVersion;
  readonly place: string;
  readonly graph: StructureGraph;
  readonly versions: ReadonlyMap<string, DescribedVersion>;
  readonly plan: DerivationPlan;
  readonly derivationId: string;
  readonly authorId: string;
  readonly at: Date;
  readonly comment: string;
}

export interface WrittenVariant {
  readonly topVersion: string;
  /** New version by the version that it was copied from. */
  readonly copies: ReadonlyMap<string, string>;
}

/**
 * Writes the copies of a derivation plan: new items with a version for each version copied, pointing at the very
 * same blobs, and their links, to the copies where the target was copied and to the origin's where it is shared.
 */
export async function writeVariant(manager: EntityManager, context: VariantContext): Promise<WrittenVariant> {
  const items = await insertItems(manager, context);
  const copied = [...context.versions.values()].filter((version) => items.has(version.itemId));
  const copies = new Map<string, string>();
  for (const round of [
    copied.filter((version) => version.carrierVersion === null),
    copied.filter((version) => version.carrierVersion !== null),
  ]) {
    const ids = await insertVersions(
      manager,
      round.map((version) => ({
        itemId: items.get(version.itemId) ?? '',
        comment: context.comment,
        authorId: context.authorId,
        createdAt: context.at,
        sha256: version.sha256,
        fileName: version.storedFileName,
        productRef: version.productRef,
        idInFile: version.idInFile,
        nameInFile: version.nameInFile,
        carrierVersionId:
          version.carrierVersion === null ? null : (copies.get(version.carrierVersion) ?? null),
        originVersionId: version.id,
        facts: version.facts,
      })),
    );
    round.forEach((version, index) => copies.set(version.id, ids[index] ?? ''));
  }
  await manager.query(
    'UPDATE item SET origin_version_id = v.origin_version_id FROM version v WHERE v.id = item.newest_version_id AND item.derivation_id = $1',
    [context.derivationId],
  );
  await copyLinks(manager, copies);
  return { topVersion: copies.get(context.origin.id) ?? '', copies };
}

/** @returns the new item by the item that it was copied from */
async function insertItems(manager: EntityManager, context: VariantContext): Promise<Map<string, string>> {
  const byItem = new Map([...context.versions.values()].map((version) => [version.itemId, version]));
  const placeId = (await placeIds(manager, [context.place])).get(context.place);
  const lines = context.plan.lines.filter((line) => line.copy !== undefined);
  const ids = await insertRows(
    manager,
    'item',
    { ...ITEM_COLUMNS, stem_id: 'bigint', derivation_id: 'bigint' },
    lines.map((line) => {
      const version = byItem.get(line.itemId);
      const { number = '', name = '', fileName = '' } = line.copy ?? {};
      return {
        number,
        number_key: numberKey(number),
        name,
        kind: version?.kind,
        place_id: placeId,
        file_name: fileName,
        search_text: version ? searchText(number, name, version.facts) : '',
        body_text: '',
        stem_id: version?.stemId,
        derivation_id: context.derivationId,
      };
    }),
  );
  return new Map(lines.map((line, index) => [line.itemId, ids[index] ?? '']));
}
