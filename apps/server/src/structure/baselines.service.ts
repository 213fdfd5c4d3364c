import { Injectable } from '@nestjs/common';
import type { BaselineRow } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { number, readRows, text, timeText } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';

/** A part that is used everywhere is in very many; the newest are those that people ask for. */
const MOST = 100;

/** What releases froze, to be looked at. */
@Injectable()
export class BaselinesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /**
   * Those of an item, then those of whatever holds it, the newest of each first.
   *
   * @throws ProblemError ITEM_UNKNOWN
   */
  async of(reference: string, person: Person): Promise<BaselineRow[]> {
    const { itemId } = await this.catalogue.resolve(reference, person);
    const hidden = (await this.rights.of(person)).placesWithout('see');
    return readRows<BaselineRow>(
      this.database,
      { id: text, number: text, version: text, at: timeText, digest: text, items: number },
      `SELECT b.id, i.number, ${LABEL} AS version, b.at, b.digest,
              (SELECT count(*) FROM baseline_item n WHERE n.baseline_id = b.id)::int AS items
       FROM baseline b JOIN version v ON v.id = b.version_id JOIN revision r ON r.id = v.revision_id
       JOIN item i ON i.id = v.item_id
       WHERE i.place_id <> ALL($2::bigint[])
         AND (v.item_id = $1 OR b.id IN (SELECT h.baseline_id FROM version o JOIN baseline_item h ON h.version_id = o.id WHERE o.item_id = $1))
       ORDER BY v.item_id = $1 DESC, b.id DESC LIMIT ${MOST}`,
      [itemId, hidden],
    );
  }
}
