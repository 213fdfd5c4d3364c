/** Writing items, versions and links; shared by whatever makes them. Always inside the caller's transaction. */
import {
  valueAt,
  revisionCode,
  revisionPosition,
  type RevisionScheme,
  type Amount,
  type LinkFacts,
  type PropertyValue,
  isUnfinished,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { isStructure } from '../database/conditions.js';
import { flag, json, listOf, number, orAbsent, orNull, readRows, text, word } from '../database/read-rows.js';
import { revisionProperty } from '../settings/settings.service.js';
import { revisionSchemes } from './revision-schemes.js';
import { copyProperties, indexProperties } from '../database/property-index.js';
import { insertRows } from '../database/rows.js';
import type { VersionFacts } from './facts.js';
import { stateBook } from '../database/state-book.js';

export const ITEM_COLUMNS = {
  number: 'text',
  number_key: 'text',
  name: 'text',
  kind: 'text',
  place_id: 'bigint',
  file_name: 'text',
  search_text: 'text',
  body_text: 'text',
} as const;

export interface NewVersion {
  readonly itemId: string;
  readonly comment: string;
  readonly authorId: string;
  readonly createdAt: Date;
  readonly sha256: string;
  readonly fileName: string;
  /** Path of the place where the bytes lay when they were stored: what they say of other files is relative to it. */
  readonly storedPlace: string;
  readonly productRef: number;
  readonly idInFile: string;
  readonly nameInFile: string;
  readonly carrierVersionId: string | null;
  readonly originVersionId: string | null;
  readonly facts: VersionFacts;
}

/** A link as a row is written. */
export interface NewLink extends LinkFacts {
  readonly versionId: string;
  readonly position: number;
  readonly targetItemId: string | null;
  readonly targetVersionId: string | null;
  readonly targetRef: number;
  readonly targetIdInFile: string;
  readonly targetNameInFile: string;
  readonly locator: string | null;
  /** Whether every mention of the target in the file says the locator. */
  readonly saidAlike: boolean;
}

/** Ids of places by path; those missing are made. */
export async function placeIds(
  manager: EntityManager,
  paths: Iterable<string>,
): Promise<Map<string, string>> {
  const wanted = [...new Set(paths)];
  await manager.query('INSERT INTO place (path) SELECT unnest($1::text[]) ON CONFLICT DO NOTHING', [wanted]);
  const rows = await readRows(
    manager,
    { id: text, path: text },
    'SELECT id, path FROM place WHERE path = ANY($1::text[])',
    [wanted],
  );
  return new Map(rows.map((row) => [row.path, row.id]));
}

/**
 * Adds versions, each in its item's open revision: A for a new item, the next letter where the newest revision is
 * locked. An item may occur several times; its versions follow in the order given.
 *
 * @returns ids in the order given
 */
export async function insertVersions(
  manager: EntityManager,
  versions: readonly NewVersion[],
): Promise<string[]> {
  const items = [...new Set(versions.map((version) => version.itemId))];
  const open = await openRevisions(manager, items);
  const rows = versions.map((version) => {
    const revision = open.get(version.itemId);
    if (!revision) throw new Error(`item ${version.itemId} has no open revision`);
    revision.seq++;
    revision.ordinal++;
    return {
      item_id: version.itemId,
      revision_id: revision.id,
      seq: revision.seq,
      ordinal: revision.ordinal,
      comment: version.comment,
      author_id: version.authorId,
      created_at: version.createdAt.toISOString(),
      sha256: version.sha256,
      file_name: version.fileName,
      stored_place: version.storedPlace,
      product_ref: version.productRef,
      id_in_file: version.idInFile,
      name_in_file: version.nameInFile,
      carrier_version_id: version.carrierVersionId,
      origin_version_id: version.originVersionId,
      facts: version.facts,
    };
  });
  const ids = await insertRows(
    manager,
    'version',
    {
      item_id: 'bigint',
      revision_id: 'bigint',
      seq: 'int',
      ordinal: 'int',
      comment: 'text',
      author_id: 'bigint',
      created_at: 'timestamptz',
      sha256: 'text',
      file_name: 'text',
      stored_place: 'text',
      product_ref: 'bigint',
      id_in_file: 'text',
      name_in_file: 'text',
      carrier_version_id: 'bigint',
      origin_version_id: 'bigint',
      facts: 'jsonb',
    },
    rows,
  );
  await manager.query(
    `UPDATE item SET newest_version_id = n.id FROM (
       SELECT DISTINCT ON (item_id) item_id, id FROM version WHERE item_id = ANY($1::bigint[]) ORDER BY item_id, ordinal DESC
     ) n WHERE n.item_id = item.id AND item.newest_version_id IS DISTINCT FROM n.id`,
    [items],
  );
  await indexProperties(manager, ids);
  return ids;
}

export interface CopiedVersion {
  readonly origin: string;
  /** Its reserved id. */
  readonly made: string;
  /** The new item that it is a version of. */
  readonly itemId: string;
  /** The copy whose file it lives in, where that is not one of its own. */
  readonly carrier?: string;
  /** Other bytes than the original has, which are in the store already. */
  readonly sha256?: string;
  /** What it says, where that is not what the original says. */
  readonly facts?: VersionFacts;
}

/**
 * Gives items without versions copies of others' versions: the same bytes and facts, which never leave the database.
 * Where a file is copied, so must be all that lives in it.
 *
 * @param copies versions of one item in the order in which they will follow one another
 */
export async function copyVersions(
  manager: EntityManager,
  copies: readonly CopiedVersion[],
  { comment, authorId, at }: { comment: string; authorId: string; at: Date },
): Promise<void> {
  const open = await openRevisions(manager, [...new Set(copies.map(({ itemId }) => itemId))]);
  const rows = copies.map(({ origin, made, itemId, carrier, sha256, facts }) => {
    const revision = open.get(itemId);
    if (!revision) throw new Error(`item ${itemId} has no open revision`);
    return {
      origin,
      made,
      item: itemId,
      revision: revision.id,
      seq: ++revision.seq,
      ordinal: ++revision.ordinal,
      carrier,
      sha: sha256,
      facts,
    };
  });
  await manager.query(
    `WITH copy AS MATERIALIZED (
       SELECT * FROM jsonb_to_recordset($1::jsonb)
         AS c(origin bigint, made bigint, item bigint, revision bigint, seq int, ordinal int, carrier bigint, sha text, facts jsonb)
     )
     INSERT INTO version (id, item_id, revision_id, seq, ordinal, comment, author_id, created_at, sha256, file_name, stored_place,
                          product_ref, id_in_file, name_in_file, carrier_version_id, origin_version_id, facts)
     OVERRIDING SYSTEM VALUE
     SELECT c.made, c.item, c.revision, c.seq, c.ordinal, $2, $3, $4, coalesce(c.sha, o.sha256), o.file_name, o.stored_place,
            o.product_ref, o.id_in_file, o.name_in_file, c.carrier, o.id, coalesce(c.facts, o.facts)
     FROM copy c JOIN version o ON o.id = c.origin ORDER BY c.made`,
    [JSON.stringify(rows), comment, authorId, at],
  );
  await copyProperties(
    manager,
    copies.filter(({ facts }) => facts === undefined),
  );
  const anew = copies.flatMap(({ made, facts }) => (facts === undefined ? [] : made));
  if (anew.length > 0) await indexProperties(manager, anew);
}

interface OpenRevision {
  id: string;
  seq: number;
  ordinal: number;
}

async function openRevisions(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<Map<string, OpenRevision>> {
  const newest = await readRows(
    manager,
    {
      itemId: text,
      id: text,
      code: text,
      position: number,
      state: text,
      seq: number,
      ordinal: number,
    },
    `SELECT DISTINCT ON (r.item_id) r.item_id AS "itemId", r.id, r.code, r.position, r.state,
            coalesce((SELECT max(seq) FROM version WHERE revision_id = r.id), 0) AS seq,
            coalesce((SELECT max(ordinal) FROM version WHERE item_id = r.item_id), 0) AS ordinal
     FROM revision r WHERE r.item_id = ANY($1::bigint[]) ORDER BY r.item_id, r.position DESC`,
    [itemIds],
  );
  const known = new Map(newest.map((row) => [row.itemId, row]));
  const book = await stateBook(manager);
  const missing = itemIds.filter((id) => {
    const state = known.get(id)?.state;
    return state === undefined || !isUnfinished(book, state);
  });
  const schemeOf = await revisionSchemes(manager, missing);
  const property = await revisionProperty(manager);
  const created = await insertRows(
    manager,
    'revision',
    { item_id: 'bigint', code: 'text', position: 'int', set_values: 'jsonb' },
    missing.map((id) => {
      const before = known.get(id);
      const position = (before?.position ?? 0) + 1;
      const code = nextCode(before?.code, position, schemeOf(id));
      // A first one is what its file says; what follows is what the store says.
      const isSaid = property !== '' && before !== undefined;
      const set: PropertyValue[] = isSaid ? [{ name: property, kind: 'text', text: code }] : [];
      return { item_id: id, code, position, set_values: set };
    }),
  );
  const open = new Map<string, OpenRevision>(
    newest.map(({ itemId, id, seq, ordinal }) => [itemId, { id, seq, ordinal }]),
  );
  missing.forEach((itemId, index) =>
    open.set(itemId, { id: valueAt(created, index), seq: 0, ordinal: known.get(itemId)?.ordinal ?? 0 }),
  );
  return open;
}

/** The code after the one before; by position where that is none of the scheme. */
function nextCode(before: string | undefined, position: number, scheme: RevisionScheme): string {
  const at = before === undefined ? undefined : revisionPosition(before, scheme);
  return revisionCode(at === undefined ? position : at + 1, scheme);
}

export async function insertLinks(manager: EntityManager, links: readonly NewLink[]): Promise<void> {
  await insertRows(
    manager,
    'link',
    {
      version_id: 'bigint',
      position: 'int',
      relation: 'text',
      target_item_id: 'bigint',
      target_version_id: 'bigint',
      quantity: 'numeric',
      carried: 'boolean',
      target_ref: 'bigint',
      target_id_in_file: 'text',
      target_name_in_file: 'text',
      locator: 'text',
      said_alike: 'boolean',
      configurations: 'text[]',
      occurrences: 'jsonb',
      find: 'text',
      amount: 'jsonb',
    },
    links.map((link) => ({
      version_id: link.versionId,
      position: link.position,
      relation: link.relation,
      target_item_id: link.targetItemId,
      target_version_id: link.targetVersionId,
      quantity: link.quantity,
      carried: link.carried,
      target_ref: link.targetRef,
      target_id_in_file: link.targetIdInFile,
      target_name_in_file: link.targetNameInFile,
      locator: link.locator,
      said_alike: link.saidAlike,
      configurations: link.configurations ?? [],
      occurrences: link.occurrences,
      find: link.find ?? '',
      amount: link.amount ?? null,
    })),
  );
}

/** Links of versions as they were written, with their ids, in order. */
export async function writtenLinks(
  manager: EntityManager,
  versionIds: readonly string[],
): Promise<(NewLink & { readonly id: string })[]> {
  return readRows<NewLink & { readonly id: string }>(
    manager,
    {
      id: text,
      versionId: text,
      position: number,
      relation: word(),
      targetItemId: orNull(text),
      targetVersionId: orNull(text),
      quantity: number,
      carried: flag,
      targetRef: number,
      targetIdInFile: text,
      targetNameInFile: text,
      locator: orNull(text),
      saidAlike: flag,
      configurations: listOf(text),
      occurrences: json(),
      find: text,
      amount: orAbsent(json<Amount>()),
    },
    `SELECT id, version_id AS "versionId", position, relation, target_item_id AS "targetItemId",
            target_version_id AS "targetVersionId", quantity::float8 AS quantity, carried, target_ref::float8 AS "targetRef",
            target_id_in_file AS "targetIdInFile", target_name_in_file AS "targetNameInFile", locator,
            said_alike AS "saidAlike", configurations, occurrences, find, amount
     FROM link WHERE version_id = ANY($1::bigint[]) ORDER BY version_id, position`,
    [versionIds],
  );
}

export interface CopyLinksOptions {
  /** Which versions of what lies outside the file are recorded: as before, or the newest. */
  readonly others?: 'recorded' | 'newest';
  /** Whether drawings and documents go on belonging to what they belonged to. */
  readonly withBelonging?: boolean;
  /** What a BOM says of uses, where that is not as before. */
  readonly rows?: readonly RowEdit[];
  /** Copies whose links are written in another way. */
  readonly except?: ReadonlySet<string>;
  /** Versions that links lead to, by their ids, where those are not what they record. */
  readonly meant?: ReadonlyMap<string, string>;
}

/** What a BOM says of a use from now on. */
export interface RowEdit extends Required<Pick<LinkFacts, 'find' | 'occurrences'>> {
  /** Version that has the link, and its position there. */
  readonly versionId: string;
  readonly position: number;
  readonly amount: LinkFacts['amount'] | null;
}

/**
 * Gives copies of versions the links of their originals: to the copies where the target was copied too, else as recorded, or
 * to the newest version of what lies outside the file.
 *
 * @param copies new version by the version that it was copied from
 */
export async function copyLinks(
  manager: EntityManager,
  copies: ReadonlyMap<string, string>,
  {
    others = 'recorded',
    withBelonging = true,
    rows = [],
    except = new Set(),
    meant = new Map(),
  }: CopyLinksOptions = {},
): Promise<void> {
  await manager.query(
    `WITH copy AS (
       SELECT c.origin, c.made, v.item_id AS item, o.item_id AS origin_item
       FROM jsonb_to_recordset($1::jsonb) AS c(origin bigint, made bigint)
       JOIN version v ON v.id = c.made JOIN version o ON o.id = c.origin
     )
     INSERT INTO link (version_id, position, relation, target_item_id, target_version_id, quantity, carried, target_ref,
                       target_id_in_file, target_name_in_file, locator, said_alike, configurations, occurrences, find, amount)
     SELECT parent.made, l.position, l.relation, coalesce(child.item, drawn.item, l.target_item_id),
            coalesce(child.made, drawn.made, meant.version, CASE WHEN $2 AND NOT l.carried THEN t.newest_version_id ELSE l.target_version_id END),
            l.quantity, l.carried, l.target_ref, l.target_id_in_file, l.target_name_in_file, l.locator, l.said_alike, l.configurations,
            coalesce(edit.occurrences, l.occurrences), coalesce(edit.find, l.find),
            CASE WHEN edit.version IS NULL THEN l.amount ELSE nullif(edit.amount, 'null'::jsonb) END
     FROM copy parent JOIN link l ON l.version_id = parent.origin
     LEFT JOIN jsonb_to_recordset($4::jsonb) AS edit(version bigint, position int, find text, amount jsonb, occurrences jsonb)
       ON edit.version = l.version_id AND edit.position = l.position
     LEFT JOIN jsonb_to_recordset($6::jsonb) AS meant(link bigint, version bigint) ON meant.link = l.id
     LEFT JOIN copy child ON child.origin = coalesce(meant.version, l.target_version_id)
     -- A drawing may have been drawn of an older version than the one that was copied; it goes with the copy all the same.
     LEFT JOIN (SELECT DISTINCT ON (origin_item) * FROM copy WHERE item <> origin_item ORDER BY origin_item, origin DESC) drawn
       ON l.relation <> 'component' AND drawn.origin_item = l.target_item_id
     LEFT JOIN item t ON t.id = l.target_item_id
     WHERE ($3 OR ${isStructure()}) AND parent.made <> ALL($5::bigint[])`,
    [
      JSON.stringify([...copies].map(([origin, made]) => ({ origin, made }))),
      others === 'newest',
      withBelonging,
      JSON.stringify(rows.map(({ versionId, ...row }) => ({ version: versionId, ...row }))),
      [...except],
      JSON.stringify([...meant].map(([link, version]) => ({ link, version }))),
    ],
  );
}
