import { valueAt, known, numberKey, type DerivationPlan, type StructureGraph } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { insertRows, reserveIds } from '../database/rows.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { searchText } from '../store/facts.js';
import { copyLinks, copyVersions, ITEM_COLUMNS, placeIds } from '../store/store-writer.js';

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

/**
 * Writes the copies of a derivation plan: new items with a version for each version copied, pointing at the very
 * same blobs, and their links, to the copies where the target was copied and to the origin's where it is shared.
 *
 * @returns the new item by the item that it was copied from
 */
export async function writeVariant(
  manager: EntityManager,
  context: VariantContext,
): Promise<ReadonlyMap<string, string>> {
  const isCopied = new Set(context.plan.lines.flatMap((line) => (line.copy ? [line.itemId] : [])));
  const copied = [...context.versions.values()]
    .filter(({ itemId }) => isCopied.has(itemId))
    // Several versions of an item follow one another as they do in the origin.
    .sort((a, b) => Number(a.id) - Number(b.id));
  const ids = await reserveIds(manager, 'version', copied.length);
  const copies = new Map(copied.map(({ id }, index) => [id, valueAt(ids, index)]));
  const items = await insertItems(manager, context, { copied, copies });
  await copyVersions(
    manager,
    copied.map(({ id, itemId }) => ({
      origin: id,
      made: known(copies, id),
      itemId: known(items, itemId),
    })),
    { comment: context.comment, authorId: context.authorId, at: context.at },
  );
  await copyLinks(manager, copies);
  return items;
}

/**
 * Items with what their newest version will be written in from the start: ten thousand rows written once are much
 * cheaper than written and updated.
 *
 * @returns the new item by the item that it was copied from
 */
async function insertItems(
  manager: EntityManager,
  context: VariantContext,
  { copied, copies }: { copied: readonly DescribedVersion[]; copies: ReadonlyMap<string, string> },
): Promise<Map<string, string>> {
  const newest = new Map(copied.map((version) => [version.itemId, version]));
  const placeId = (await placeIds(manager, [context.place])).get(context.place);
  const lines = context.plan.lines.filter((line) => line.copy !== undefined);
  const ids = await insertRows(
    manager,
    'item',
    {
      ...ITEM_COLUMNS,
      stem_id: 'bigint',
      derivation_id: 'bigint',
      origin_version_id: 'bigint',
      newest_version_id: 'bigint',
      state: 'text',
      author_id: 'bigint',
      changed_at: 'timestamptz',
      comment_text: 'text',
    },
    lines.map((line) => {
      const version = newest.get(line.itemId);
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
        origin_version_id: version?.id,
        newest_version_id: copies.get(version?.id ?? ''),
        state: 'draft',
        author_id: context.authorId,
        changed_at: context.at.toISOString(),
        comment_text: context.comment,
      };
    }),
  );
  return new Map(lines.map((line, index) => [line.itemId, valueAt(ids, index)]));
}
