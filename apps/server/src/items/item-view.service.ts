import { Injectable } from '@nestjs/common';
import type { BesideRow, ItemRow, ItemView, LineageRow, VersionRow } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isStructure, mayBeTold } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { flag, json, number, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { formatOf, propertiesOf } from '../store/facts.js';
import { LABEL, rowFor } from '../store/item-row.js';
import { offeredAt, standingsOf, takerAt } from '../store/standings.js';

/** What is one row of an item. */
type Head = ItemRow & Pick<ItemView, 'usedIn' | 'madeOf' | 'gaps' | 'class' | 'watched'>;

/** What the store knows of one item; what the asker may not see of its surroundings is left out. */
@Injectable()
export class ItemViewService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  async view(reference: string, person: Person): Promise<ItemView> {
    const shown = await this.catalogue.resolve(reference, person);
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const [head, behindLinks, versions, derivedFrom, derivatives, beside, sums, carrier] = await Promise.all([
      this.headOf(shown, { person, hidden }),
      this.catalogue.behindOf(shown.id, this.database.manager, hidden),
      this.versionsOf(shown.itemId, hidden),
      this.lineage(`JOIN item i ON i.id = o.item_id WHERE d.id = $1`, shown.itemId, hidden),
      this.lineage(`JOIN item i ON i.id = d.id WHERE o.item_id = $1`, shown.itemId, hidden),
      this.besideOf(shown, hidden),
      this.sumsOf(shown, hidden),
      shown.carrierVersion === null ? undefined : this.catalogue.describe([shown.carrierVersion]),
    ]);
    const rights = await this.rights.of(person);
    const holder = carrier?.get(shown.carrierVersion ?? '');
    // What it lives in may not be seen: then neither may the name of its file.
    const seenHolder = holder && rights.may('see', holder.placeId) ? holder : undefined;
    const rightsHere = [...rights.at(shown.placeId)];
    const steps = await this.stepsOf(shown, person, rights);
    const signatures = await this.signaturesOf(shown.itemId);
    return {
      ...head,
      shown: shown.label,
      comment: versions.find(({ version }) => version === shown.label)?.comment ?? '',
      fileName: holder ? (seenHolder?.fileName ?? '') : shown.fileName,
      ...(seenHolder ? { carrier: seenHolder.number } : {}),
      description: shown.facts.description,
      format: formatOf(shown.facts),
      properties: propertiesOf(shown),
      versions,
      ...(derivedFrom[0] ? { derivedFrom: derivedFrom[0] } : {}),
      derivatives,
      beside,
      sums,
      behindLinks,
      rights: rightsHere,
      steps,
      signatures,
    };
  }

  /** Steps are taken with the newest version, whichever is looked at. */
  private async stepsOf(
    { itemId, placeId }: DescribedVersion,
    person: Person,
    rights: Rights,
  ): Promise<ItemView['steps']> {
    const newest = await this.catalogue.newest(itemId, this.database.manager);
    const at = (await standingsOf(this.database.manager, [newest])).get(itemId);
    return at ? offeredAt(at, takerAt(placeId, person, rights)) : [];
  }

  private async signaturesOf(itemId: string): Promise<ItemView['signatures']> {
    return readRows<ItemView['signatures'][number]>(
      this.database,
      { version: text, step: text, by: text, at: timeText, zone: text },
      `SELECT ${LABEL} AS version, s.step, s.name AS by, s.at, s.zone FROM signature s
       JOIN version v ON v.id = s.version_id JOIN revision r ON r.id = s.revision_id
       WHERE s.item_id = $1 AND r.position = (SELECT max(position) FROM revision WHERE item_id = $1) ORDER BY s.id`,
      [itemId],
    );
  }

  private async versionsOf(itemId: string, hidden: readonly string[]): Promise<VersionRow[]> {
    return readRows<VersionRow>(
      this.database,
      {
        version: text,
        state: word<VersionRow['state']>(),
        comment: text,
        author: text,
        createdAt: timeText,
        fileName: text,
        behind: number,
      },
      `SELECT ${LABEL} AS version, r.state, v.comment, a.name AS author, v.created_at AS "createdAt", v.file_name AS "fileName",
              (SELECT count(*)::int FROM link l JOIN item t ON t.id = l.target_item_id
               WHERE l.version_id = v.id AND NOT l.carried AND t.newest_version_id <> l.target_version_id
                 AND t.place_id <> ALL($2::bigint[])) AS behind
       FROM version v JOIN revision r ON r.id = v.revision_id JOIN person a ON a.id = v.author_id
       WHERE v.item_id = $1 ORDER BY v.ordinal DESC`,
      [itemId, hidden],
    );
  }

  private async lineage(tail: string, itemId: string, hidden: readonly string[]): Promise<LineageRow[]> {
    return readRows<LineageRow>(
      this.database,
      { number: text, name: text, originVersion: text, derivedAt: timeText, derivedBy: text },
      `SELECT i.number, i.name, r.code || '/' || o.seq AS "originVersion", x.created_at AS "derivedAt", a.name AS "derivedBy"
       FROM item d JOIN version o ON o.id = d.origin_version_id JOIN revision r ON r.id = o.revision_id
       JOIN derivation x ON x.id = d.derivation_id JOIN person a ON a.id = x.created_by ${tail} AND i.place_id <> ALL($2::bigint[])
       ORDER BY x.id, i.number_key`,
      [itemId, hidden],
    );
  }

  /** Drawings and documents of a model; of a drawing or a document what it is about and what it needs. */
  private async besideOf(shown: DescribedVersion, hidden: readonly string[]): Promise<BesideRow[]> {
    const row = `i.number, i.name, i.kind, l.relation, r.code || '/' || v.seq AS version, r.state, v.file_name AS "fileName"`;
    const newest = `JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id`;
    return readRows<BesideRow>(
      this.database,
      {
        number: text,
        name: text,
        kind: word<BesideRow['kind']>(),
        version: text,
        state: word<BesideRow['state']>(),
        relation: word<BesideRow['relation']>(),
        isUser: flag,
        fileName: text,
      },
      `SELECT ${row}, true AS "isUser" FROM link l JOIN item i ON i.newest_version_id = l.version_id ${newest}
       WHERE l.target_item_id = $1 AND l.relation <> 'component' AND i.place_id <> ALL($3::bigint[])
       UNION ALL
       SELECT ${row}, false FROM link l JOIN item i ON i.id = l.target_item_id ${newest}
       WHERE l.version_id = $2 AND l.relation <> 'component' AND i.place_id <> ALL($3::bigint[])
       ORDER BY kind, number`,
      [shown.itemId, shown.id, hidden],
    );
  }

  /** What its newest version adds up to, where it is that which is shown, and nothing of it is hidden from the asker. */
  private async sumsOf(
    { id, itemId }: DescribedVersion,
    hidden: readonly string[],
  ): Promise<ItemView['sums']> {
    return readRows(
      this.database,
      { name: text, shown: text },
      `SELECT p.key AS name, p.shown FROM item_property p JOIN item i ON i.id = p.item_id
       WHERE p.item_id = $1 AND i.newest_version_id = $2 AND p.rolled AND ${mayBeTold('$3')} ORDER BY p.key DESC`,
      [itemId, id, hidden],
    );
  }

  /** What is one row: of the item, what is counted of it, its class, and whether the asker watches it. */
  private async headOf(
    shown: DescribedVersion,
    { person, hidden }: { person: Person; hidden: readonly string[] },
  ): Promise<Head> {
    const rows = await readRows<Head>(
      this.database,
      {
        number: text,
        name: text,
        kind: word<Head['kind']>(),
        version: text,
        state: word<Head['state']>(),
        place: text,
        changedAt: timeText,
        changedBy: text,
        heldBy: orNull(json<NonNullable<Head['heldBy']>>()),
        usedIn: number,
        madeOf: number,
        gaps: number,
        class: orNull(text),
        watched: flag,
      },
      `SELECT (SELECT count(DISTINCT up.id)::int FROM link l JOIN item up ON up.newest_version_id = l.version_id
                 WHERE l.target_item_id = $1 AND ${isStructure()} AND up.place_id <> ALL($3::bigint[])) AS "usedIn",
                (SELECT count(*)::int FROM link WHERE version_id = $2) AS "madeOf",
                (SELECT count(*)::int FROM link WHERE version_id = $2 AND target_item_id IS NULL) AS gaps,
                (SELECT c.name FROM class c WHERE c.id = i.class_id) AS class,
                EXISTS (SELECT FROM watch w WHERE w.item_id = $1 AND w.person_id = $4) AS watched,
                ${rowFor('$3')} WHERE i.id = $1`,
      [shown.itemId, shown.id, hidden, person.id],
    );
    const [row] = rows;
    if (!row) throw new Error(`item ${shown.itemId} has no newest version`);
    return row;
  }
}
