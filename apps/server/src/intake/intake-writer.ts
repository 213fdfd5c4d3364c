import {
  handOnProperties,
  valueAt,
  known,
  numberKey,
  placeOf,
  storedNameOf,
  type IntakeFile,
  type IntakePlan,
  type IntakeRow,
  type PropertyValue,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { json, readRows, text } from '../database/read-rows.js';
import { insertRows } from '../database/rows.js';
import { searchText, type VersionFacts } from '../store/facts.js';
import { refuseCircles } from '../store/circles.js';
import { fillGaps, gapsLeft } from './fill-gaps.js';
import { handOnRows, type RowLeft } from './hand-on-rows.js';
import { targetOf, type Target } from './targets.js';
import { insertLinks, insertVersions, ITEM_COLUMNS, placeIds, type NewLink } from '../store/store-writer.js';

export interface IntakeContext {
  readonly plan: IntakePlan;
  readonly place: string;
  readonly comment: string;
  readonly authorId: string;
  readonly at: Date;
  /** By path. */
  readonly files: ReadonlyMap<string, IntakeFile>;
  /** Told how far it is; what it throws ends the writing. */
  readonly onProgress: (rowsDone: number) => Promise<void>;
}

export interface IntakeWritten {
  readonly items: number;
  readonly versions: number;
  readonly links: number;
  readonly filled: number;
  /** What BOMs said of uses that the new versions have no more. */
  readonly rowsLeft: readonly RowLeft[];
  /** References of what this intake is about that lead nowhere now. */
  readonly gaps: readonly { readonly file: string; readonly locator: string }[];
}

/**
 * Writes what an intake plan says, inside the caller's transaction: items, then versions (carriers before what
 * they carry), then links, then gaps that the newcomers fill.
 *
 * @throws ProblemError INTAKE_CYCLE where an item would come to contain itself through what the store has
 */
export async function writeIntake(manager: EntityManager, context: IntakeContext): Promise<IntakeWritten> {
  const { plan } = context;
  const targets = new Map<string, Target>();
  for (const row of plan.rows) {
    if (row.status.kind === 'unchanged' || row.status.kind === 'refused')
      targets.set(row.key, { itemId: row.status.of.id, versionId: row.status.of.newest.id });
  }
  const writing = plan.rows.filter((row) => row.status.kind === 'new' || row.status.kind === 'newVersion');
  const facts = await factsOfRows(manager, writing, context);
  const itemIds = await ensureItems(manager, writing, context, facts);
  await context.onProgress(Math.floor(writing.length / 3));
  for (const round of [
    writing.filter((row) => row.carrier === undefined),
    writing.filter((row) => row.carrier !== undefined),
  ]) {
    const ids = await insertVersions(
      manager,
      round.map((row) => ({
        itemId: known(itemIds, row.key),
        comment: context.comment,
        authorId: context.authorId,
        createdAt: context.at,
        sha256: known(context.files, row.path).sha256,
        fileName: storedNameOf(row.path),
        storedPlace: placeOf(context.place, row.path),
        productRef: row.product.ref,
        idInFile: row.product.id,
        nameInFile: row.product.name,
        carrierVersionId: row.carrier === undefined ? null : (targets.get(row.carrier)?.versionId ?? null),
        originVersionId: null,
        facts: known(facts, row.key),
      })),
    );
    round.forEach((row, index) =>
      targets.set(row.key, { itemId: known(itemIds, row.key), versionId: valueAt(ids, index) }),
    );
  }
  await context.onProgress(Math.floor((2 * writing.length) / 3));
  const { links, left } = await handOnRows(manager, writing, (row) => linksOf(row, targets));
  await insertLinks(manager, links);
  const filled = await fillGaps(manager, { plan, place: context.place, targets });
  await refuseCircles(
    manager,
    writing.flatMap((row) => targets.get(row.key)?.itemId ?? []),
    'With these files',
  );
  await context.onProgress(writing.length);
  const items = writing.filter((row) => row.status.kind === 'new').length;
  const gaps = await gapsLeft(manager, plan, targets);
  return { items, versions: writing.length, links: links.length, filled, gaps, rowsLeft: left };
}

async function ensureItems(
  manager: EntityManager,
  rows: readonly IntakeRow[],
  context: IntakeContext,
  facts: FactsByRow,
): Promise<Map<string, string>> {
  const ids = new Map<string, string>();
  const fresh = rows.filter((row) => row.status.kind === 'new');
  const places = await placeIds(
    manager,
    fresh.map((row) => placeOf(context.place, row.path)),
  );
  const inserted = await insertRows(
    manager,
    'item',
    ITEM_COLUMNS,
    fresh.map((row) => ({
      number: row.number,
      number_key: numberKey(row.number),
      name: row.name,
      kind: row.product.kind,
      place_id: places.get(placeOf(context.place, row.path)),
      file_name: row.carrier === undefined ? storedNameOf(row.path) : '',
      search_text: searchText(row.number, row.name, known(facts, row.key)),
      body_text: textOf(row, context),
    })),
  );
  fresh.forEach((row, index) => ids.set(row.key, valueAt(inserted, index)));
  await updateItems(manager, rows, context, facts);
  for (const row of rows) if (row.status.kind === 'newVersion') ids.set(row.key, row.status.of.id);
  return ids;
}

/** A name or file name that was given in the store stays, unless the file itself says something new. */
async function updateItems(
  manager: EntityManager,
  rows: readonly IntakeRow[],
  context: IntakeContext,
  facts: FactsByRow,
): Promise<void> {
  const changing = rows.flatMap((row) =>
    row.status.kind === 'newVersion' ? [{ row, of: row.status.of }] : [],
  );
  const stored = await readRows(
    manager,
    { id: text, saidBefore: text },
    `SELECT i.id, v.name_in_file AS "saidBefore" FROM item i JOIN version v ON v.id = i.newest_version_id WHERE i.id = ANY($1::bigint[])`,
    [changing.map(({ of }) => of.id)],
  );
  const saidBefore = new Map(stored.map((item) => [item.id, item.saidBefore]));
  for (const { row, of } of changing) {
    const isNews = row.name !== row.number && row.name !== saidBefore.get(of.id);
    const name = isNews ? row.name : of.name;
    // A former file name stays with what now lives in another's file: its older versions come out under it.
    const fileName = of.fileName || (row.carrier === undefined ? storedNameOf(row.path) : '');
    await manager.query(
      'UPDATE item SET name = $2, kind = $3, file_name = $4, search_text = $5, body_text = $6 WHERE id = $1',
      [
        of.id,
        name,
        row.product.kind,
        fileName,
        searchText(of.number, name, known(facts, row.key)),
        textOf(row, context),
      ],
    );
  }
}

function factsOf(row: IntakeRow, context: IntakeContext): VersionFacts {
  const { description, versionText, source, properties } = row.product;
  const { format = 'other', schema = '' } = context.files.get(row.path)?.reading ?? {};
  return { description, format, schema, versionText, source, properties };
}

/** By the key of the row. */
type FactsByRow = ReadonlyMap<string, VersionFacts>;

/** What the new versions say: what their files say, and what people said of the versions before that no file did. */
async function factsOfRows(
  manager: EntityManager,
  rows: readonly IntakeRow[],
  context: IntakeContext,
): Promise<Map<string, VersionFacts>> {
  const before = await readRows(
    manager,
    { id: text, properties: json<readonly PropertyValue[]>(), stated: json<readonly PropertyValue[]>() },
    // Where nothing is noted of the file, it said what it said when it came in.
    `SELECT v.id, v.facts->'properties' AS properties,
            coalesce(v.facts->'stated', (SELECT first.facts->'properties' FROM version first
              WHERE first.item_id = v.item_id AND first.sha256 = v.sha256 ORDER BY first.ordinal LIMIT 1)) AS stated
     FROM version v WHERE v.id = ANY($1::bigint[])`,
    [rows.flatMap(({ status }) => (status.kind === 'newVersion' ? status.of.newest.id : []))],
  );
  const byVersion = new Map(before.map((version) => [version.id, version]));
  return new Map(
    rows.map((row) => {
      const facts = factsOf(row, context);
      const old = row.status.kind === 'newVersion' ? byVersion.get(row.status.of.newest.id) : undefined;
      return [row.key, old ? { ...facts, ...handOnProperties(old, facts.properties) } : facts];
    }),
  );
}

/** Text of a file is found with what the file is about, not with everything that lives in it. */
function textOf(row: IntakeRow, { files }: IntakeContext): string {
  return row.carrier === undefined ? (files.get(row.path)?.reading?.text ?? '') : '';
}

function linksOf(row: IntakeRow, targets: ReadonlyMap<string, Target>): NewLink[] {
  return row.links.map((link, position) => {
    const target = targetOf(link.target, targets);
    return {
      versionId: known(targets, row.key).versionId,
      position,
      relation: link.relation,
      targetItemId: target?.itemId ?? null,
      targetVersionId: target?.versionId ?? null,
      quantity: link.occurrences.length,
      carried: link.carried,
      targetRef: link.product.ref,
      targetIdInFile: link.product.id,
      targetNameInFile: link.product.name,
      locator: link.carried ? null : (link.product.locator ?? null),
      saidAlike: link.product.alsoSaid === undefined,
      configurations: link.configurations,
      occurrences: link.occurrences,
    };
  });
}
