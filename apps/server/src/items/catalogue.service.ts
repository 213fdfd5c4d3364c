import { Injectable } from '@nestjs/common';
import {
  parseReference,
  type BehindRow,
  type BesideRow,
  type FindAnswer,
  type HolderView,
  type ItemRow,
  type ItemView,
  type LineageRow,
  type State,
  type VersionRow,
} from '@stem-trace/contract';
import { numberKey, type FileFormat, type ItemKind, type PropertyValue, type Source } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { HELD_BY } from '../custody/holds.js';
import { ProblemError } from '../problems/problem.js';

/** One version with what is known of its item, as other modules need it. */
export interface DescribedVersion {
  readonly id: string;
  readonly itemId: string;
  readonly stemId: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  readonly place: string;
  /** Present file name of the item. */
  readonly fileName: string;
  /** File name when the bytes were stored. */
  readonly storedFileName: string;
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
  readonly heldBy: HolderView | null;
}

/** What a version's file says about it. */
export interface VersionFacts {
  readonly description: string;
  readonly format?: FileFormat;
  readonly schema: string;
  readonly versionText: string;
  readonly source: Source;
  readonly properties: readonly PropertyValue[];
}

const LABEL = `r.code || '/' || v.seq`;

const DESCRIBED = `
  SELECT v.id, v.item_id AS "itemId", coalesce(i.stem_id, i.id) AS "stemId", i.number, i.name, i.kind, p.path AS place,
         i.file_name AS "fileName", v.file_name AS "storedFileName", ${LABEL} AS label, r.state, v.sha256,
         v.product_ref::int AS "productRef", v.id_in_file AS "idInFile", v.name_in_file AS "nameInFile",
         v.carrier_version_id AS "carrierVersion", v.origin_version_id AS "originVersion", v.facts, ${HELD_BY}
  FROM version v JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id JOIN place p ON p.id = i.place_id`;

const ROW = `
  i.number, i.name, i.kind, ${LABEL} AS version, r.state, p.path AS place, v.created_at AS "changedAt", a.name AS "changedBy", ${HELD_BY}
  FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
  JOIN place p ON p.id = i.place_id JOIN person a ON a.id = v.author_id`;

const SORT: Readonly<Record<string, string>> = {
  number: 'i.number_key',
  name: 'lower(i.name)',
  kind: 'i.kind',
  state: 'r.state',
  changed: 'v.created_at',
};

export interface FindRequest {
  readonly words: string;
  readonly limit: number;
  readonly offset: number;
  readonly sort: string;
  readonly order: 'up' | 'down';
  /** Only what lies in this place or below. */
  readonly place?: string;
}

/** Items by words, and what the store knows of one. */
@Injectable()
export class CatalogueService {
  constructor(private readonly database: DataSource) {}

  /** Every word must occur in number, name, properties or the text of the file; an exact number comes first. */
  async find({ words, limit, offset, sort, order, place = '/' }: FindRequest): Promise<FindAnswer> {
    const { where, values } = conditions(words, place);
    const next = values.length + 1;
    const direction = order === 'down' ? 'DESC' : 'ASC';
    const [counted]: { total: string }[] = await this.database.query(
      `SELECT count(*) AS total FROM item i WHERE ${where}`,
      values,
    );
    const rows: ItemRow[] = await this.database.query(
      `SELECT ${ROW} WHERE ${where}
       ORDER BY (i.number_key = $${next}) DESC, ${SORT[sort] ?? SORT.number} ${direction}, i.number_key
       LIMIT $${next + 1} OFFSET $${next + 2}`,
      [...values, numberKey(words.trim()), limit, offset],
    );
    return { total: Number(counted?.total ?? 0), rows };
  }

  /**
   * The version that `NUMBER` (then the newest) or `NUMBER@B/3` names.
   * @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN
   */
  async resolve(reference: string): Promise<DescribedVersion> {
    const { number, version } = parseReference(reference);
    const [item]: { id: string; number: string; newest: string }[] = await this.database.query(
      'SELECT id, number, newest_version_id AS newest FROM item WHERE number_key = $1',
      [numberKey(number)],
    );
    if (!item)
      throw new ProblemError(
        'ITEM_UNKNOWN',
        `There is no item ${number} in the store. Check the number, or find it by a word.`,
      );
    const [found]: DescribedVersion[] =
      version === undefined
        ? await this.database.query(`${DESCRIBED} WHERE v.id = $1`, [item.newest])
        : await this.database.query(`${DESCRIBED} WHERE v.item_id = $1 AND ${LABEL} = $2`, [
            item.id,
            version,
          ]);
    if (!found)
      throw new ProblemError(
        'VERSION_UNKNOWN',
        `${item.number} has no version ${version}. Look at its history for those it has.`,
      );
    return found;
  }

  /** Descriptions of versions, by id. */
  async describe(
    versionIds: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<Map<string, DescribedVersion>> {
    const rows: DescribedVersion[] = await manager.query(`${DESCRIBED} WHERE v.id = ANY($1::bigint[])`, [
      versionIds,
    ]);
    return new Map(rows.map((row) => [row.id, row]));
  }

  /** Versions whose products live in the files of the given versions, those themselves included. */
  async describeFileContents(
    versionIds: readonly string[],
    manager: EntityManager = this.database.manager,
  ): Promise<DescribedVersion[]> {
    return manager.query(
      `${DESCRIBED} WHERE v.id = ANY($1::bigint[]) OR v.carrier_version_id = ANY($1::bigint[]) ORDER BY v.id`,
      [versionIds],
    );
  }

  /** The newest version of an item, as this transaction sees it. */
  async newest(itemId: string, manager: EntityManager = this.database.manager): Promise<DescribedVersion> {
    const [found]: DescribedVersion[] = await manager.query(
      `${DESCRIBED} WHERE v.id = i.newest_version_id AND i.id = $1`,
      [itemId],
    );
    if (!found) throw new Error(`item ${itemId} has no version`);
    return found;
  }

  /** Links of a version whose recorded version is not the newest, with who made the newest and why. */
  async behindOf(versionId: string, manager: EntityManager = this.database.manager): Promise<BehindRow[]> {
    return manager.query(
      `SELECT t.number, t.name, rr.code || '/' || rv.seq AS recorded, nr.code || '/' || nv.seq AS newest,
              'newer ' || nr.code || '/' || nv.seq || ' by ' || a.name || ' on ' || to_char(nv.created_at, 'FMDD Mon YYYY')
              || CASE WHEN nv.comment = '' THEN '' ELSE ': ' || nv.comment END AS says
       FROM link l JOIN item t ON t.id = l.target_item_id
       JOIN version rv ON rv.id = l.target_version_id JOIN revision rr ON rr.id = rv.revision_id
       JOIN version nv ON nv.id = t.newest_version_id JOIN revision nr ON nr.id = nv.revision_id JOIN person a ON a.id = nv.author_id
       WHERE l.version_id = $1 AND NOT l.carried AND nv.id <> rv.id ORDER BY l.position`,
      [versionId],
    );
  }

  async view(reference: string, personId: string): Promise<ItemView> {
    const shown = await this.resolve(reference);
    const [row]: ItemRow[] = await this.database.query(`SELECT ${ROW} WHERE i.id = $1`, [shown.itemId]);
    if (!row) throw new ProblemError('ITEM_UNKNOWN', `There is no item ${reference} in the store.`);
    const [behindLinks, watches, versions, derivedFrom, derivatives, counts, beside, carrier] =
      await Promise.all([
        this.behindOf(shown.id),
        this.database.query('SELECT 1 FROM watch WHERE person_id = $1 AND item_id = $2', [
          personId,
          shown.itemId,
        ]) as Promise<unknown[]>,
        this.versionsOf(shown.itemId),
        this.lineage(`JOIN item i ON i.id = o.item_id WHERE d.id = $1`, shown.itemId),
        this.lineage(`JOIN item i ON i.id = d.id WHERE o.item_id = $1`, shown.itemId),
        this.countsOf(shown),
        this.besideOf(shown),
        shown.carrierVersion === null ? undefined : this.describe([shown.carrierVersion]),
      ]);
    const holder = carrier?.get(shown.carrierVersion ?? '');
    return {
      ...row,
      shown: shown.label,
      comment: versions.find(({ version }) => version === shown.label)?.comment ?? '',
      fileName: holder ? holder.fileName : shown.fileName,
      ...(holder ? { carrier: holder.number } : {}),
      description: shown.facts.description,
      format: formatOf(shown.facts),
      properties: shown.facts.properties,
      versions,
      ...(derivedFrom[0] ? { derivedFrom: derivedFrom[0] } : {}),
      derivatives,
      ...counts,
      beside,
      behindLinks,
      watched: watches.length > 0,
    };
  }

  private async versionsOf(itemId: string): Promise<VersionRow[]> {
    return this.database.query(
      `SELECT ${LABEL} AS version, r.state, v.comment, a.name AS author, v.created_at AS "createdAt", v.file_name AS "fileName",
              (SELECT count(*)::int FROM link l JOIN item t ON t.id = l.target_item_id
               WHERE l.version_id = v.id AND NOT l.carried AND t.newest_version_id <> l.target_version_id) AS behind
       FROM version v JOIN revision r ON r.id = v.revision_id JOIN person a ON a.id = v.author_id
       WHERE v.item_id = $1 ORDER BY v.ordinal DESC`,
      [itemId],
    );
  }

  private async lineage(tail: string, itemId: string): Promise<LineageRow[]> {
    return this.database.query(
      `SELECT i.number, i.name, r.code || '/' || o.seq AS "originVersion", x.created_at AS "derivedAt", a.name AS "derivedBy"
       FROM item d JOIN version o ON o.id = d.origin_version_id JOIN revision r ON r.id = o.revision_id
       JOIN derivation x ON x.id = d.derivation_id JOIN person a ON a.id = x.created_by ${tail} ORDER BY x.id, i.number_key`,
      [itemId],
    );
  }

  /** Drawings and documents of a model; of a drawing or a document what it is about and what it needs. */
  private async besideOf(shown: DescribedVersion): Promise<BesideRow[]> {
    const row = `i.number, i.name, i.kind, l.relation, r.code || '/' || v.seq AS version, r.state`;
    const newest = `JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id`;
    return this.database.query(
      `SELECT ${row}, true AS "isUser" FROM link l JOIN item i ON i.newest_version_id = l.version_id ${newest}
       WHERE l.target_item_id = $1 AND l.relation <> 'component'
       UNION ALL
       SELECT ${row}, false FROM link l JOIN item i ON i.id = l.target_item_id ${newest}
       WHERE l.version_id = $2 AND l.relation <> 'component'
       ORDER BY kind, number`,
      [shown.itemId, shown.id],
    );
  }

  private async countsOf(shown: DescribedVersion): Promise<{ usedIn: number; madeOf: number; gaps: number }> {
    const [counts]: { usedIn: number; madeOf: number; gaps: number }[] = await this.database.query(
      `SELECT (SELECT count(DISTINCT p.id)::int FROM link l JOIN item p ON p.newest_version_id = l.version_id
               WHERE l.target_item_id = $1 AND l.relation = 'component') AS "usedIn",
              (SELECT count(*)::int FROM link WHERE version_id = $2) AS "madeOf",
              (SELECT count(*)::int FROM link WHERE version_id = $2 AND target_item_id IS NULL) AS gaps`,
      [shown.itemId, shown.id],
    );
    return counts ?? { usedIn: 0, madeOf: 0, gaps: 0 };
  }
}

/** Versions from before other kinds of file were taken in do not say: they are STEP. */
export function formatOf(facts: VersionFacts): FileFormat {
  return facts.format ?? 'step';
}

/** What rows of a search must meet, with `$1` and on for the values. */
function conditions(words: string, place: string): { where: string; values: unknown[] } {
  const values: unknown[] = [];
  const put = (value: unknown): string => `$${values.push(value)}`;
  const parts = words
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .map(
      (word) =>
        `(i.search_text LIKE ${put(likePattern(word))}
          OR to_tsvector('simple', i.body_text) @@ to_tsquery('simple', ${put(beginningOf(word))}))`,
    );
  if (place !== '/') {
    const path = put(place);
    parts.push(
      `i.place_id IN (SELECT id FROM place WHERE path = ${path} OR starts_with(path, ${path} || '/'))`,
    );
  }
  return { where: parts.join(' AND ') || 'true', values };
}

/** A full-text query for words that begin so. */
function beginningOf(word: string): string {
  return `'${word.replace(/[\\']/g, '$&$&')}':*`;
}

function likePattern(word: string): string {
  return `%${word.replace(/[\\%_]/g, '\\$&')}%`;
}

/** The text that words are looked up in: lower case, one line per field so that no word spans two. */
export function searchText(number: string, name: string, facts: VersionFacts): string {
  const properties = facts.properties.map((property) =>
    property.kind === 'text'
      ? `${property.name} ${property.text}`
      : `${property.name} ${property.value} ${property.unit}`,
  );
  return [number, name, facts.description, ...properties].join('\n').toLowerCase();
}
