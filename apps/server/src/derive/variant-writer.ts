import {
  addTo,
  valueAt,
  known,
  numberKey,
  redrawn,
  withProperties,
  type DerivationPlan,
  type MadeVersion,
  type PropertyValue,
  type TitleBlockRule,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { insertRows, reserveIds } from '../database/rows.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { formatOf, searchText, withValues, type VersionFacts } from '../store/facts.js';
import {
  copyLinks,
  copyVersions,
  insertLinks,
  insertVersions,
  ITEM_COLUMNS,
  placeIds,
  type NewLink,
} from '../store/store-writer.js';
import type { EnteredValues } from './planner.service.js';
import { withUseFacts, type BroughtTogether } from './carry-together.js';
import { sayVersion, STATED, type PlannedUse, type VariantFiles, type WrittenLink } from './variant-files.js';

/** A file that was changed, as it lies in the store. */
export interface ChangedFile {
  readonly sha256: string;
  /** Where the file names what it did not name before, by what its edit calls it. */
  readonly externals: ReadonlyMap<string, number>;
}

export interface VariantContext {
  readonly place: string;
  readonly versions: ReadonlyMap<string, DescribedVersion>;
  readonly plan: DerivationPlan;
  readonly files: VariantFiles;
  /** Links of the versions that change, by version. */
  readonly links: ReadonlyMap<string, readonly WrittenLink[]>;
  /** Ids of the links that the plan decides about, by version. */
  readonly linkIds: ReadonlyMap<string, readonly string[]>;
  /** Versions that links lead to, by their ids, where a lens chose others than they record. */
  readonly meant: ReadonlyMap<string, string>;
  /** Files that say something else than the origin's, by `sayVersion` of the copy whose file it is. */
  readonly changed: ReadonlyMap<string, ChangedFile>;
  /** Properties that copies get, by the key of their line. */
  readonly values: ReadonlyMap<string, EnteredValues>;
  /** What the fields of title blocks mean. */
  readonly titleBlock: readonly TitleBlockRule[];
  readonly derivationId: string;
  readonly author: { readonly id: string; readonly name: string };
  readonly at: Date;
  readonly comment: string;
}

/**
 * Writes the copies of a derivation plan: new items with a version for each version copied, pointing at the very
 * same blobs or at those that were changed, and their links, to the copies where the target was copied, to the origin's where
 * it is shared, and to what was put in its place.
 *
 * @returns the new item by the key of its line
 */
export async function writeVariant(
  manager: EntityManager,
  context: VariantContext,
): Promise<ReadonlyMap<string, string>> {
  const { plan, versions } = context;
  // Several versions of an item follow one another as they do in the origin.
  const made = [...plan.made].sort((a, b) => Number(a.versionId) - Number(b.versionId));
  const ids = await reserveIds(manager, 'version', made.length);
  const copies = new Map(made.map((each, index) => [sayVersion(each), valueAt(ids, index)]));
  const items = await insertItems(manager, context, copies);
  await copyVersions(
    manager,
    made.map(({ key, versionId }) => {
      const version = known(versions, versionId);
      const carrier = carrierOf(version, key, context);
      const file = context.changed.get(carrier ?? sayVersion({ key, versionId }));
      return {
        origin: versionId,
        made: known(copies, sayVersion({ key, versionId })),
        itemId: known(items, key),
        ...(carrier === undefined ? {} : { carrier: known(copies, carrier) }),
        ...(file ? { sha256: file.sha256 } : {}),
        ...factsOf(version, key, context),
      };
    }),
    { comment: context.comment, authorId: context.author.id, at: context.at },
  );
  const changed = new Set(plan.changed.map((each) => known(copies, sayVersion(each))));
  const plain = made.flatMap(({ key, versionId }) =>
    key.includes('#') ? [] : [[versionId, known(copies, sayVersion({ key, versionId }))] as const],
  );
  await copyLinks(manager, new Map(plain), { except: changed, meant: context.meant });
  await insertLinks(manager, linksOf(context, { copies, items }));
  return items;
}

export interface CarriedContext extends VariantContext {
  /** Versions that are written, with the item that they are of; absent for what is new. */
  readonly taken: readonly {
    readonly made: MadeVersion;
    readonly itemId: string | undefined;
    readonly together: BroughtTogether | undefined;
  }[];
  /** Copies that there are, with their newest version, by the key of their line. */
  readonly existing: ReadonlyMap<string, { readonly itemId: string; readonly versionId: string }>;
  /** The same, described. */
  readonly own: ReadonlyMap<string, DescribedVersion>;
}

export interface CarriedVersion {
  readonly itemId: string;
  readonly versionId: string;
}

/**
 * Writes what came of an origin's later versions as further versions of the copies there are, and as new items where there were
 * none. What they lead to that is not written anew is the newest version of the copy.
 */
export async function writeCarried(
  manager: EntityManager,
  context: CarriedContext,
): Promise<CarriedVersion[]> {
  const { taken, existing, plan, versions } = context;
  const items = new Map([...existing].map(([key, { itemId }]) => [key, itemId]));
  const fresh = new Set(taken.flatMap(({ made, itemId }) => (itemId === undefined ? made.key : [])));
  const news = {
    ...plan,
    lines: plan.lines.filter(({ key }) => fresh.has(key)),
    made: plan.made.filter(({ key }) => fresh.has(key)),
  };
  for (const [key, itemId] of await insertItems(manager, { ...context, plan: news }, new Map()))
    items.set(key, itemId);
  const copies = new Map(
    plan.made.flatMap((made) => {
      const copy = existing.get(made.key);
      return copy ? [[sayVersion(made), copy.versionId] as const] : [];
    }),
  );
  const done: CarriedVersion[] = [];
  const factsNow = new Map<string, VersionFacts>();
  // What lives in a file comes after it.
  for (const isCarried of [false, true]) {
    const round = taken.filter(
      ({ made }) => (known(versions, made.versionId).carrierVersion !== null) === isCarried,
    );
    const ids = await insertVersions(
      manager,
      round.map(({ made: { key, versionId }, together }) => {
        const origin = known(versions, versionId);
        // The copy's own file, where it keeps that.
        const kept = together?.file === 'copy' ? context.own.get(key) : undefined;
        const version = kept ?? (together ? { ...origin, facts: together.facts } : origin);
        const carrier = carrierOf(origin, key, context);
        const file = kept ? undefined : context.changed.get(carrier ?? sayVersion({ key, versionId }));
        const facts = kept
          ? (together?.facts ?? kept.facts)
          : (factsOf(version, key, context).facts ?? version.facts);
        factsNow.set(key, facts);
        return {
          ...{
            itemId: known(items, key),
            comment: context.comment,
            authorId: context.author.id,
            createdAt: context.at,
          },
          ...{
            sha256: file?.sha256 ?? version.sha256,
            fileName: version.storedFileName,
            storedPlace: version.storedPlace,
          },
          ...{ productRef: version.productRef, idInFile: version.idInFile, nameInFile: version.nameInFile },
          carrierVersionId: carrier === undefined ? null : known(copies, carrier),
          originVersionId: versionId,
          facts,
        };
      }),
    );
    round.forEach(({ made }, at) => {
      const versionId = valueAt(ids, at);
      copies.set(sayVersion(made), versionId);
      done.push({ itemId: known(items, made.key), versionId });
    });
  }
  const together = new Map(
    taken.flatMap((each) =>
      each.together ? [[known(copies, sayVersion(each.made)), each.together] as const] : [],
    ),
  );
  const keptLinks = [...together].flatMap(([versionId, { links }]) =>
    links.map((link) => ({ ...link, versionId })),
  );
  const written = new Map<string, NewLink[]>();
  for (const link of [...linksOf(context, { copies, items }), ...keptLinks])
    addTo(written, link.versionId, link);
  await insertLinks(
    manager,
    [...written].flatMap(([versionId, links]) =>
      withUseFacts(links, together.get(versionId)?.uses ?? new Map()),
    ),
  );
  const lines = new Map(plan.lines.map((line) => [line.key, line]));
  // A copy goes on to be called what it is called, and is found by what is said of it now.
  const wordsOf = (key: string): string => {
    const { number = '', name = '' } = context.own.get(key) ?? lines.get(key)?.copy ?? {};
    return searchText(number, name, known(factsNow, key));
  };
  await manager.query(
    `UPDATE item SET origin_version_id = c.origin, search_text = c.words
     FROM jsonb_to_recordset($1::jsonb) AS c(item bigint, origin bigint, words text) WHERE item.id = c.item`,
    [
      JSON.stringify(
        taken.map(({ made: { key, versionId } }) => ({
          item: known(items, key),
          origin: versionId,
          words: wordsOf(key),
        })),
      ),
    ],
  );
  return done;
}

/** The copy whose file a version lives in, as `sayVersion` says it. */
function carrierOf(version: DescribedVersion, key: string, { versions }: VariantContext): string | undefined {
  const { carrierVersion } = version;
  if (carrierVersion === null) return undefined;
  const suffix = key.includes('#') ? key.slice(key.indexOf('#')) : '';
  return sayVersion({ key: `${known(versions, carrierVersion).itemId}${suffix}`, versionId: carrierVersion });
}

/**
 * What a copy says of itself where that is not what its origin says: it may have been given values, a drawing is drawn anew,
 * and the volume, area and centre of what is made of other things now are not known any more.
 */
function factsOf(
  { id, facts }: DescribedVersion,
  key: string,
  { files, values, titleBlock, author, at }: VariantContext,
): { facts?: VersionFacts } {
  const isStale = files.stale.has(sayVersion({ key, versionId: id }));
  const stated = isStale ? facts.properties.filter(({ name }) => !STATED.has(name)) : facts.properties;
  const anew =
    formatOf(facts) === 'dxf'
      ? redrawn(stated, titleBlock, { by: author.name, at })
      : new Map<string, PropertyValue>();
  const properties = withProperties(stated, new Map([...anew, ...(values.get(key) ?? [])]));
  const isSame =
    properties.length === facts.properties.length &&
    properties.every((property, at) => property === facts.properties[at]);
  if (isSame) return {};
  const { stated: before = facts.properties } = facts;
  // A changed file does not state what no longer holds.
  const file = isStale ? before.filter(({ name }) => !STATED.has(name)) : before;
  return { facts: withValues({ ...facts, stated: file }, properties) };
}

/** Links of the versions that are made of other things than the origin's. */
function linksOf(
  context: VariantContext,
  {
    copies,
    items,
  }: { readonly copies: ReadonlyMap<string, string>; readonly items: ReadonlyMap<string, string> },
): NewLink[] {
  const { plan, files, links } = context;
  const usesOf = new Map<string, PlannedUse[]>();
  for (const use of files.uses) {
    const said = sayVersion(use);
    const list = usesOf.get(said);
    if (list) list.push(use);
    else usesOf.set(said, [use]);
  }
  return plan.changed.flatMap(({ key, versionId }) => {
    const versionOfCopy = known(copies, sayVersion({ key, versionId }));
    const uses = usesOf.get(sayVersion({ key, versionId })) ?? [];
    const inPlan = new Set(context.linkIds.get(versionId));
    // Gaps, and what a drawing shows, stay what they are.
    const others = (links.get(versionId) ?? []).flatMap((link): NewLink[] => {
      if (inPlan.has(link.id)) return [];
      const copy = copyOfTarget(link, context, copies);
      return [
        {
          ...link,
          versionId: versionOfCopy,
          ...(copy ? { targetItemId: known(items, copy.key), targetVersionId: copy.made } : {}),
        },
      ];
    });
    const own = mergedUses(uses, context, { copies, items });
    const taken = new Set(others.map(({ position }) => position));
    let position = -1;
    const next = (): number => {
      do position++;
      while (taken.has(position));
      return position;
    };
    return [
      ...others,
      ...own.map((link): NewLink => ({ ...link, versionId: versionOfCopy, position: next() })),
    ];
  });
}

/** Uses of one version that lead to the same thing by the same name are one link. */
function mergedUses(
  uses: readonly PlannedUse[],
  context: VariantContext,
  {
    copies,
    items,
  }: { readonly copies: ReadonlyMap<string, string>; readonly items: ReadonlyMap<string, string> },
): Omit<NewLink, 'versionId' | 'position'>[] {
  const merged = new Map<string, Omit<NewLink, 'versionId' | 'position'>>();
  const finds = new Set<string>();
  for (const use of uses) {
    const { from, occurrences, carried, external } = use;
    const file = context.changed.get(fileOf(use, context));
    const targetRef =
      'ref' in use.target
        ? use.target.ref
        : known(file?.externals ?? new Map<string, number>(), use.target.external);
    const configurations = from?.configurations ?? [];
    const key = JSON.stringify([targetRef, configurations, targetOf(use, { copies, items })]);
    const before = merged.get(key);
    if (before) {
      const all = [...before.occurrences, ...occurrences];
      merged.set(key, { ...before, occurrences: all, quantity: all.length });
      continue;
    }
    // Two rows of a bill do not share a find number: it stays with the first.
    const find = from?.find !== undefined && from.find !== '' && !finds.has(from.find) ? from.find : '';
    finds.add(find);
    const isSame = external === undefined && from !== undefined && targetRef === from.targetRef;
    merged.set(key, {
      relation: from?.relation ?? 'component',
      ...targetOf(use, { copies, items }),
      quantity: occurrences.length,
      carried,
      targetRef,
      targetIdInFile: external?.id ?? (isSame ? from.targetIdInFile : ''),
      targetNameInFile: external?.name ?? (isSame ? from.targetNameInFile : ''),
      locator: external?.locator ?? (isSame ? from.locator : null),
      saidAlike: isSame ? from.saidAlike : true,
      configurations,
      occurrences,
      find,
      ...(from?.amount !== undefined && use.leadsTo.kind !== 'item' ? { amount: from.amount } : {}),
    });
  }
  return [...merged.values()];
}

function fileOf({ key, versionId }: PlannedUse, context: VariantContext): string {
  return carrierOf(known(context.versions, versionId), key, context) ?? sayVersion({ key, versionId });
}

function targetOf(
  { leadsTo, from }: PlannedUse,
  {
    copies,
    items,
  }: { readonly copies: ReadonlyMap<string, string>; readonly items: ReadonlyMap<string, string> },
): Pick<NewLink, 'targetItemId' | 'targetVersionId'> {
  if (leadsTo.kind === 'copy')
    return { targetItemId: known(items, leadsTo.key), targetVersionId: known(copies, sayVersion(leadsTo)) };
  if (leadsTo.kind === 'item') return { targetItemId: leadsTo.itemId, targetVersionId: leadsTo.versionId };
  return { targetItemId: from?.targetItemId ?? null, targetVersionId: from?.targetVersionId ?? null };
}

/** The copy that a link which is no use of the plan leads to, as `copyLinks` finds it. */
function copyOfTarget(
  link: WrittenLink,
  { plan, versions }: Pick<VariantContext, 'plan' | 'versions'>,
  copies: ReadonlyMap<string, string>,
): { readonly key: string; readonly made: string } | undefined {
  if (link.targetItemId === null) return undefined;
  const ofItem = plan.made.filter(({ key }) => key === link.targetItemId);
  const exact = ofItem.find(({ versionId }) => versionId === link.targetVersionId);
  const latest = ofItem.toSorted((a, b) => Number(b.versionId) - Number(a.versionId))[0];
  const found = exact ?? (link.relation === 'component' ? undefined : latest);
  return found && versions.has(found.versionId)
    ? { key: found.key, made: known(copies, sayVersion(found)) }
    : undefined;
}

/**
 * Items with what their newest version will be written in from the start: ten thousand rows written once are much
 * cheaper than written and updated.
 *
 * @returns the new item by the key of its line
 */
async function insertItems(
  manager: EntityManager,
  context: VariantContext,
  copies: ReadonlyMap<string, string>,
): Promise<Map<string, string>> {
  const made = context.plan.made.toSorted((a, b) => Number(a.versionId) - Number(b.versionId));
  const newest = new Map(made.map(({ key, versionId }) => [key, known(context.versions, versionId)]));
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
      const version = newest.get(line.key);
      const { number = '', name = '', fileName = '' } = line.copy ?? {};
      return {
        number,
        number_key: numberKey(number),
        name,
        kind: version?.kind,
        place_id: placeId,
        file_name: fileName,
        search_text: version
          ? searchText(number, name, factsOf(version, line.key, context).facts ?? version.facts)
          : '',
        body_text: '',
        stem_id: version?.stemId,
        derivation_id: context.derivationId,
        origin_version_id: version?.id,
        newest_version_id: copies.get(sayVersion({ key: line.key, versionId: version?.id ?? '' })),
        state: 'draft',
        author_id: context.author.id,
        changed_at: context.at.toISOString(),
        comment_text: context.comment,
      };
    }),
  );
  return new Map(lines.map((line, index) => [line.key, valueAt(ids, index)]));
}
