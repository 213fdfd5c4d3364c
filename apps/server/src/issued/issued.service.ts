import { parseReference, type IssuedFileRow, type IssuedFromRow } from '@stem-trace/contract';
import { countsAsReleased, issuedFor, type DiagramStep, type IssuedKind, type Right } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { BillContents } from '../build/bill-contents.js';
import { isReleased } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { listOf, number, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { openBlob, type OpenedFile } from '../files/shown-file.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import type { SettingsService } from '../settings/settings.service.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
import { LABEL } from '../store/item-row.js';
import { recordQuietly } from '../trail/record.js';

/** What a release asks to be made. */
export interface Releasing {
  readonly person: Person;
  readonly notes: string;
  readonly at: Date;
}

export interface IssuedBlob {
  readonly name: string;
  readonly sha256: string;
}

interface StoredRow extends Omit<IssuedFileRow, 'mayReceive'> {
  readonly itemId: string;
  readonly placeId: string;
  /** Of all that is in it besides. */
  readonly places: readonly string[];
}

/**
 * Places of everything that an issued file holds besides its own item: recorded when it was made; until then as it would be made now,
 * for its problem may name what is in it.
 */
const OTHER_PLACES = `ARRAY(
  SELECT DISTINCT o.place_id::text FROM issued_content c JOIN item o ON o.id = c.item_id WHERE c.file_id = f.id
  UNION SELECT o.place_id::text FROM issued_holds(f.version_id, f.baseline_id) AS held JOIN item o ON o.id = held
  WHERE f.made_at IS NULL)`;

/** Column for whether a person may have all that is in an issued file; `hidden` names the parameter with the places without *receive*. */
export function mayReceiveAll(hidden: string): string {
  return `NOT EXISTS (SELECT FROM unnest(${OTHER_PLACES}) AS held WHERE held::bigint = ANY(${hidden}::bigint[]))`;
}

/** Issued files of items: asked for when something is released, made as jobs, and kept with the version for good. */
export class IssuedService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly blobs: BlobStore,
    private readonly settings: SettingsService,
    private readonly contents: BillContents,
  ) {}

  /**
   * Asks for the files of what is released, in the transaction of the step and after the baselines are frozen: so either both come
   * about or neither. What a version has already stays as it is.
   */
  async begin(
    manager: EntityManager,
    released: readonly { readonly item: DescribedVersion; readonly step: DiagramStep }[],
    { person, notes, at }: Releasing,
  ): Promise<void> {
    const book = await stateBook(manager);
    const issuing = released.filter(
      ({ step }) => countsAsReleased(book, step.to) && step.then.some(({ kind }) => kind === 'issue'),
    );
    if (issuing.length === 0) return;
    const setting = await this.settings.issued(manager);
    const rows = [];
    for (const { item, step } of issuing)
      for (const { kind, part } of issuedFor(await this.issuable(item), setting))
        rows.push({ item_id: item.itemId, version_id: item.id, kind, part, state: step.to });
    await manager.query(
      `INSERT INTO issued_file (item_id, version_id, kind, part, state, baseline_id, person_id, notes, asked_at)
       SELECT n.item_id, n.version_id, n.kind, n.part, n.state,
              (SELECT max(b.id) FROM baseline b WHERE b.version_id = n.version_id), $2, $3, $4
       FROM jsonb_to_recordset($1::jsonb) AS n(item_id bigint, version_id bigint, kind text, part int, state text)
       ON CONFLICT DO NOTHING`,
      [JSON.stringify(rows), person.id, notes, at],
    );
  }

  private async issuable(item: DescribedVersion): Promise<Parameters<typeof issuedFor>[0]> {
    const outputs = item.kind === 'bill' ? (await this.contents.read(item)).outputs.length : 1;
    return { kind: item.kind, format: formatOf(item.facts), outputs };
  }

  /** Of one version where the reference names one, else of all. @throws ProblemError ITEM_UNKNOWN */
  async of(reference: string, person: Person): Promise<IssuedFileRow[]> {
    const version = await this.catalogue.resolve(reference, person);
    const isOfOne = parseReference(reference).version !== undefined;
    const rows = await this.rowsOf('f.item_id = $1 AND ($2::bigint IS NULL OR f.version_id = $2)', [
      version.itemId,
      isOfOne ? version.id : null,
    ]);
    const rights = await this.rights.of(person);
    return rows.map(({ itemId: _, placeId, places, ...row }) => {
      const may = mayReceive({ placeId, places }, rights);
      // Remarks and problems name what is in the file.
      return may
        ? { ...row, mayReceive: true }
        : { ...row, remarks: [], problem: row.problem === null ? null : NOT_FOR_YOU, mayReceive: false };
    });
  }

  /**
   * One to be taken away. Whoever may not have all that is in it is not given a part of it.
   *
   * @throws ProblemError NOT_FOUND, NOT_ALLOWED
   */
  async open(reference: string, file: string, person: Person): Promise<OpenedFile> {
    const found = await this.found(reference, file, { person, right: 'receive' });
    if (!mayReceive(found, await this.rights.of(person)))
      throw new ProblemError(
        'NOT_ALLOWED',
        `${found.name || found.kind} holds items that you may not have. Ask somebody who administers their places.`,
      );
    if (found.state !== 'made')
      throw new ProblemError(
        'NOT_FOUND',
        `This file is not made yet: ${found.problem ?? 'it waits its turn'}.`,
      );
    await recordQuietly(this.database.manager, [
      {
        ...{ personId: person.id, kind: 'fetch' as const, itemId: found.itemId },
        says: `${person.name} took the issued file ${found.name}`,
      },
    ]);
    return openBlob(this.blobs, found.sha256, found.name);
  }

  /** What a file with these bytes was issued of, the newest first; what somebody may not see is left out, as if it were not there. */
  async from(sha256: string, person: Person): Promise<IssuedFromRow[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    return readRows<IssuedFromRow>(
      this.database,
      {
        ...{ number: text, name: text, version: text, state: text, kind: word<IssuedKind>() },
        ...{ file: text, madeAt: timeText, released: orNull(text) },
      },
      `SELECT i.number, i.name, ${LABEL} AS version, r.state, f.kind, f.name AS file, f.made_at AS "madeAt",
              (SELECT w.code || '/' || n.seq FROM version n JOIN revision w ON w.id = n.revision_id
               WHERE n.item_id = i.id AND ${isReleased('w')} ORDER BY n.ordinal DESC LIMIT 1) AS released
       FROM issued_file f JOIN item i ON i.id = f.item_id JOIN version v ON v.id = f.version_id
       JOIN revision r ON r.id = v.revision_id WHERE f.sha256 = $1 AND i.place_id <> ALL($2::bigint[]) ORDER BY f.id DESC LIMIT 20`,
      [sha256, hidden],
    );
  }

  /** Those that are made of versions, as far as somebody may have them, by name. */
  async madeOf(versionIds: readonly string[], person: Person): Promise<IssuedBlob[]> {
    const rights = await this.rights.of(person);
    const rows = await this.rowsOf('f.version_id = ANY($1::bigint[]) AND f.made_at IS NOT NULL', [
      versionIds,
    ]);
    return rows.flatMap(({ name, sha256, ...row }) => (mayReceive(row, rights) ? { name, sha256 } : []));
  }

  /** By whoever may release it. @throws ProblemError NOT_FOUND, NOT_ALLOWED */
  async again(reference: string, file: string, person: Person): Promise<void> {
    await this.found(reference, file, { person, right: 'release' });
    await this.database.query(
      `UPDATE issued_file SET left_out = NULL, problem = NULL, next_try = now() WHERE id = $1 AND made_at IS NULL`,
      [file],
    );
    await announce(this.database.manager, 'items');
  }

  private async found(
    reference: string,
    file: string,
    { person, right }: { readonly person: Person; readonly right: Right },
  ): Promise<StoredRow> {
    const { itemId, number: of } = await this.catalogue.resolve(reference, person, right);
    const [row] = await this.rowsOf('f.item_id = $1 AND f.id = $2', [itemId, file]);
    if (!row)
      throw new ProblemError('NOT_FOUND', `${of} has no such issued file. Look at those that it has.`);
    return row;
  }

  private rowsOf(where: string, values: unknown[]): Promise<StoredRow[]> {
    return readRows<StoredRow>(
      this.database,
      {
        ...{ id: text, itemId: text, placeId: text, places: listOf(text), version: text },
        ...{ kind: word<IssuedKind>(), state: word<StoredRow['state']>(), name: text, size: number },
        ...{ sha256: text, askedAt: timeText, madeAt: orNull(timeText), remarks: listOf(text) },
        ...{ problem: orNull(text), tries: number },
      },
      `SELECT f.id, f.item_id AS "itemId", i.place_id AS "placeId", ${OTHER_PLACES} AS places, ${LABEL} AS version, f.kind,
              CASE WHEN f.made_at IS NOT NULL THEN 'made' WHEN f.left_out IS NOT NULL THEN 'left out' ELSE 'waiting' END AS state,
              coalesce(f.name, '') AS name, coalesce(f.size, 0)::float8 AS size, coalesce(f.sha256, '') AS sha256,
              f.asked_at AS "askedAt", f.made_at AS "madeAt", f.remarks, coalesce(f.left_out, f.problem) AS problem, f.tries
       FROM issued_file f JOIN item i ON i.id = f.item_id JOIN version v ON v.id = f.version_id
       JOIN revision r ON r.id = v.revision_id WHERE ${where} ORDER BY v.ordinal DESC, f.id`,
      values,
    );
  }
}

const NOT_FOR_YOU = 'It holds items that you have no access to.';

function mayReceive({ placeId, places }: Pick<StoredRow, 'placeId' | 'places'>, rights: Rights): boolean {
  return [placeId, ...places].every((place) => rights.may('receive', place));
}
