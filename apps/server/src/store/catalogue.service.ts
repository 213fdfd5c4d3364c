import { Injectable } from '@nestjs/common';
import { parseReference, type BehindRow, type LensText, type State } from '@stem-trace/contract';
import {
  numberKey,
  passesOver,
  picksNewest,
  type Effectivity,
  type ItemKind,
  type Lens,
  type PropertyValue,
  type Right,
  type LensFacts,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { COUNTS_FROM, isAmong, RELEASED_AT, timeOf } from '../database/conditions.js';
import {
  json,
  listOf,
  number,
  orAbsent,
  orNull,
  readRows,
  text,
  word,
  type Columns,
} from '../database/read-rows.js';
import { HELD_BY } from './holds.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { VersionFacts } from './facts.js';
import { LABEL } from './item-row.js';
import { lensOf } from './lens-text.js';
import type { StoredHolder } from './names.js';

/** One version with what is known of its item, as other modules need it. */
export interface DescribedVersion {
  readonly id: string;
  readonly itemId: string;
  readonly stemId: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly place: string;
  readonly placeId: string;
  /** Present file name of the item. */
  readonly fileName: string;
  /** File name when the bytes were stored. */
  readonly storedFileName: string;
  /** Path of the place where the bytes were stored. */
  readonly storedPlace: string;
  /** `B/3` */
  readonly label: string;
  readonly state: State;
  readonly sha256: string;
  readonly productRef: number;
  readonly idInFile: string;
  readonly nameInFile: string;
  readonly carrierVersion: string | null;
  readonly originVersion: string | null;
  readonly facts: VersionFacts;
  /** What steps set of its revision. */
  readonly setValues: readonly PropertyValue[];
  readonly heldBy: StoredHolder | null;
}

/** What `DESCRIBED` selects. */
const DESCRIBED_COLUMNS: Columns<DescribedVersion> = {
  id: text,
  itemId: text,
  stemId: text,
  number: text,
  name: text,
  kind: word<DescribedVersion['kind']>(),
  place: text,
  placeId: text,
  fileName: text,
  storedFileName: text,
  storedPlace: text,
  label: text,
  state: word<DescribedVersion['state']>(),
  sha256: text,
  productRef: number,
  idInFile: text,
  nameInFile: text,
  carrierVersion: orNull(text),
  originVersion: orNull(text),
  facts: json<DescribedVersion['facts']>(),
  setValues: json<PropertyValue[]>(),
  heldBy: orNull(json<NonNullable<DescribedVersion['heldBy']>>()),
};

const DESCRIBED = `
  SELECT v.id, v.item_id AS "itemId", coalesce(i.stem_id, i.id) AS "stemId", i.number, i.name, i.kind, p.path AS place, i.place_id AS "placeId",
         i.file_name AS "fileName", v.file_name AS "storedFileName", v.stored_place AS "storedPlace", ${LABEL} AS label, r.state, v.sha256,
         v.product_ref::float8 AS "productRef", v.id_in_file AS "idInFile", v.name_in_file AS "nameInFile",
         v.carrier_version_id AS "carrierVersion", v.origin_version_id AS "originVersion", v.facts, r.set_values AS "setValues", ${HELD_BY}
  FROM version v JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id JOIN place p ON p.id = i.place_id`;

/** Versions by what people call them and by id, with access respected where a person asks. */
@Injectable()
export class CatalogueService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
  ) {}

  /**
   * The version that `NUMBER` (then the newest) or `NUMBER@B/3` names, for somebody who wants to do something with it.
   *
   * @throws ProblemError ITEM_UNKNOWN, also for what may not be seen; VERSION_UNKNOWN; NOT_ALLOWED
   */
  async resolve(
    reference: string,
    person: Person,
    right: Right = 'see',
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion> {
    const [found] = await this.resolveAll([reference], person, right, manager);
    if (!found) throw new Error(`${reference} was neither resolved nor refused`);
    return found;
  }

  /**
   * As `resolve`, for many at once in one query, or two where versions are named; in the order in which they are named, each once.
   *
   * @throws ProblemError of the first that is refused
   */
  async resolveAll(
    references: readonly string[],
    person: Person,
    right: Right = 'see',
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion[]> {
    const rights = await this.rights.of(person, manager);
    const named = [...new Set(references)].map(parseReference);
    const newest = await newestNamed(manager, named);
    const older = await olderNamed(
      manager,
      named.flatMap(({ number, version }) => {
        const item = newest.get(numberKey(number))?.itemId;
        return item === undefined || version === undefined ? [] : [{ item, label: version }];
      }),
    );
    const seen = new Set<string>();
    return named.flatMap(({ number, version }) => {
      const item = newest.get(numberKey(number));
      if (!item || !rights.may('see', item.placeId))
        throw new ProblemError(
          'ITEM_UNKNOWN',
          `There is no item ${number} in the store. Check the number, or find it by a word.`,
        );
      if (!rights.may(right, item.placeId))
        throw new ProblemError('NOT_ALLOWED', notAllowed(item.number, right));
      const found = version === undefined ? item : older.get(`${item.itemId}@${version}`);
      if (!found)
        throw new ProblemError(
          'VERSION_UNKNOWN',
          `${item.number} has no version ${version}. Look at its history for those it has.`,
        );
      if (seen.has(found.id)) return [];
      seen.add(found.id);
      return [found];
    });
  }

  /** As `lensOf` says. */
  async lens(text: LensText, rights: Rights, manager: EntityManager = this.database.manager): Promise<Lens> {
    return lensOf(manager, text, rights);
  }

  /**
   * As `resolve`, but where no version is named, the one that the lens picks.
   *
   * @throws ProblemError VERSION_UNKNOWN where the lens picks none, unless the newest will do; for what a baseline does not hold,
   *   nothing else will
   */
  async resolveUnder(
    reference: string,
    lensText: LensText,
    { person, right = 'see', orNewest = false }: { person: Person; right?: Right; orNewest?: boolean },
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion> {
    const newest = await this.resolve(reference, person, right, manager);
    const lens = await this.lens(lensText, await this.rights.of(person, manager), manager);
    if (parseReference(reference).version !== undefined || picksNewest(lens)) return newest;
    const history = await readRows<LensFacts & { id: string }>(
      manager,
      { createdAtMs: number, releasedAtMs: number, id: text, effectivity: orAbsent(json<Effectivity>()) },
      `SELECT v.id, ${timeOf('v.created_at')} AS "createdAtMs", ${RELEASED_AT} AS "releasedAtMs", ${COUNTS_FROM} AS effectivity
       FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.item_id = $1 ORDER BY v.ordinal DESC`,
      [newest.itemId],
    );
    const picked = history.find(
      ({ id, releasedAtMs, createdAtMs, effectivity }) =>
        !passesOver(lens, releasedAtMs, createdAtMs, id, effectivity),
    );
    const found = picked && (await this.describe([picked.id], manager)).get(picked.id);
    if (found) return found;
    if (orNewest && lens.kind !== 'baseline') return newest;
    throw new ProblemError('VERSION_UNKNOWN', sayPicksNone(lens, newest));
  }

  /**
   * For whoever wants the file that a version lives in: all that lives in it leaves with it, and may lie elsewhere.
   *
   * @throws ProblemError NOT_ALLOWED
   */
  async requireFile({ id, number, carrierVersion }: DescribedVersion, person: Person): Promise<void> {
    const file = carrierVersion ?? id;
    const rights = await this.rights.of(person);
    const places = (await this.placesOfFiles([file])).get(file) ?? [];
    if (places.every((place) => rights.may('fetch', place))) return;
    throw new ProblemError(
      'NOT_ALLOWED',
      `The file of ${number} also holds something that you may not fetch. Ask somebody who administers its place.`,
    );
  }

  /** Places of everything that lives in files, by the version of the file. */
  async placesOfFiles(
    files: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<Map<string, readonly string[]>> {
    const rows = await readRows(
      manager,
      { file: text, places: listOf(text) },
      `SELECT coalesce(v.carrier_version_id, v.id) AS file, array_agg(DISTINCT i.place_id::text) AS places
       FROM version v JOIN item i ON i.id = v.item_id
       WHERE v.id = ANY($1::bigint[]) OR v.carrier_version_id = ANY($1::bigint[]) GROUP BY 1`,
      [files],
    );
    return new Map(rows.map(({ file, places }) => [file, places]));
  }

  /** Descriptions of versions, by id. */
  async describe(
    versionIds: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<Map<string, DescribedVersion>> {
    const rows = await readRows(manager, DESCRIBED_COLUMNS, `${DESCRIBED} WHERE v.id = ANY($1::bigint[])`, [
      versionIds,
    ]);
    return new Map(rows.map((row) => [row.id, row]));
  }

  /** Versions whose products live in the files of the given versions, those themselves included. */
  async describeFileContents(
    versionIds: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion[]> {
    return readRows(
      manager,
      DESCRIBED_COLUMNS,
      `${DESCRIBED} WHERE v.id = ANY($1::bigint[]) OR v.carrier_version_id = ANY($1::bigint[]) ORDER BY v.id`,
      [versionIds],
    );
  }

  /** The newest version of an item, as this transaction sees it. */
  async newest(itemId: string, manager: EntityManager = this.database.manager): Promise<DescribedVersion> {
    const [found] = await this.newestOf([itemId], manager);
    if (!found) throw new Error(`item ${itemId} has no version`);
    return found;
  }

  /** The newest versions of items, in the order of the ids. */
  async newestOf(
    itemIds: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion[]> {
    const rows = await readRows(
      manager,
      DESCRIBED_COLUMNS,
      `${DESCRIBED} WHERE v.id = i.newest_version_id AND i.id = ANY($1::bigint[])`,
      [itemIds],
    );
    const byItem = new Map(rows.map((row) => [row.itemId, row]));
    return itemIds.flatMap((id) => byItem.get(id) ?? []);
  }

  /** Links of a version whose recorded version is not the newest, with who made the newest and why. */
  async behindOf(
    versionId: string,
    manager: EntityManager = this.database.manager,
    hiddenPlaces: readonly string[] = [],
  ): Promise<BehindRow[]> {
    return readRows<BehindRow>(
      manager,
      { number: text, name: text, recorded: text, newest: text, says: text },
      `SELECT t.number, t.name, rr.code || '/' || rv.seq AS recorded, nr.code || '/' || nv.seq AS newest,
              'newer ' || nr.code || '/' || nv.seq || ' by ' || a.name || ' on ' || to_char(nv.created_at, 'FMDD Mon YYYY')
              || CASE WHEN nv.comment = '' THEN '' ELSE ': ' || nv.comment END AS says
       FROM link l JOIN item t ON t.id = l.target_item_id
       JOIN version rv ON rv.id = l.target_version_id JOIN revision rr ON rr.id = rv.revision_id
       JOIN version nv ON nv.id = t.newest_version_id JOIN revision nr ON nr.id = nv.revision_id JOIN person a ON a.id = nv.author_id
       WHERE l.version_id = $1 AND NOT l.carried AND nv.id <> rv.id AND t.place_id <> ALL($2::bigint[]) ORDER BY l.position`,
      [versionId, hiddenPlaces],
    );
  }
}

/** Newest versions by the keys of numbers. */
async function newestNamed(
  manager: EntityManager,
  named: readonly { readonly number: string }[],
): Promise<Map<string, DescribedVersion>> {
  const rows = await readRows(
    manager,
    DESCRIBED_COLUMNS,
    `${DESCRIBED} WHERE v.id = i.newest_version_id AND ${isAmong('i.number_key', '$1')}`,
    [named.map(({ number }) => numberKey(number))],
  );
  return new Map(rows.map((row) => [numberKey(row.number), row]));
}

/** By item and label. */
async function olderNamed(
  manager: EntityManager,
  named: readonly { readonly item: string; readonly label: string }[],
): Promise<Map<string, DescribedVersion>> {
  if (named.length === 0) return new Map();
  const rows = await readRows(
    manager,
    DESCRIBED_COLUMNS,
    `${DESCRIBED} JOIN unnest($1::bigint[], $2::text[]) AS named(item, label)
       ON named.item = v.item_id AND named.label = ${LABEL}`,
    [named.map(({ item }) => item), named.map(({ label }) => label)],
  );
  return new Map(rows.map((row) => [`${row.itemId}@${row.label}`, row]));
}

/** Why somebody may not do something to an item that they see. */
function sayPicksNone({ kind }: Lens, { number, label }: DescribedVersion): string {
  switch (kind) {
    case 'effective':
      return `${number} had no released version then. Choose another day or lens, or name a version: ${number}@${label}.`;
    case 'released':
      return `${number} has no released version. Choose another lens, or name a version: ${number}@${label}.`;
    case 'baseline':
      return `${number} is not in that baseline. Choose another lens, or look at the item that it was frozen for.`;
    default:
      return `${number} was not in the store on that day. Choose another day or lens.`;
  }
}

export function notAllowed(number: string, right: Right): string {
  return `You may not ${right} ${number}: your access at its place does not allow it. Ask somebody who administers the place. Nothing was changed.`;
}
