import type { LensText, UsedBesidesAnswer } from '@stem-trace/contract';
import type { Lens } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { isReleased } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { flag, number, orNull, readRows, text } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';

/** What needs an item without any design file saying so: bills, and items that it may be used instead of. */
export class UsedBesidesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /**
   * A bill records no versions of other bills, so under *recorded* it is its newest.
   *
   * @throws ProblemError ITEM_UNKNOWN
   */
  async of(
    { item, lens }: { readonly item: string; readonly lens: LensText },
    person: Person,
  ): Promise<UsedBesidesAnswer> {
    const { itemId } = await this.catalogue.resolve(item, person);
    const rights = await this.rights.of(person);
    const hidden = rights.placesWithout('see');
    const bills = await this.bills(itemId, await this.catalogue.lens(lens, rights), hidden);
    return {
      bills: bills.filter(({ isHidden }) => !isHidden).map(({ isHidden: _, ...bill }) => bill),
      insteadOf: await this.insteadOf(itemId, hidden),
      hidden: bills.filter(({ isHidden }) => isHidden).length,
    };
  }

  private async bills(
    itemId: string,
    lens: Lens,
    hidden: readonly string[],
  ): Promise<(UsedBesidesAnswer['bills'][number] & { readonly isHidden: boolean })[]> {
    return readRows(
      this.database,
      {
        ...{
          number: text,
          name: text,
          version: text,
          state: text,
          amount: text,
          rows: number,
        },
        isHidden: flag,
      },
      `SELECT i.number, i.name, ${LABEL} AS version, r.state, array_to_string(u.amounts, ' and ') AS amount, u.rows,
              i.place_id = ANY($2::bigint[]) AS "isHidden"
       FROM bill b JOIN item i ON i.id = b.item_id
       JOIN LATERAL (
         SELECT v.* FROM version v JOIN revision w ON w.id = v.revision_id
         WHERE v.item_id = b.item_id AND (NOT $3::boolean OR ${isReleased('w')})
           AND ($4::float8 IS NULL OR v.created_at <= to_timestamp($4::float8 / 1000))
           AND ($5::bigint[] IS NULL OR v.id = ANY($5))
         ORDER BY v.ordinal DESC LIMIT 1) v ON true
       JOIN revision r ON r.id = v.revision_id
       JOIN bill_use u ON u.sha256 = v.sha256 AND u.item_id = $1
       ORDER BY i.number_key`,
      [
        ...[itemId, hidden, lens.kind === 'released', lens.kind === 'date' ? lens.atMs : null],
        lens.kind === 'baseline' ? [...lens.versions] : null,
      ],
    );
  }

  private insteadOf(
    itemId: string,
    hidden: readonly string[],
  ): Promise<UsedBesidesAnswer['insteadOf'][number][]> {
    return readRows(
      this.database,
      {
        ...{ number: text, name: text, onlyIn: orNull(text), rank: number, approvedBy: orNull(text) },
        ...{ from: orNull(text), to: orNull(text) },
      },
      `SELECT i.number, i.name, u.number AS "onlyIn", a.rank, p.name AS "approvedBy", a.valid_from::text AS "from", a.valid_to::text AS "to"
       FROM alternate a JOIN item i ON i.id = a.item_id LEFT JOIN item u ON u.id = a.user_id LEFT JOIN person p ON p.id = a.approved_by
       WHERE a.other_id = $1 AND i.place_id <> ALL($2::bigint[]) AND (u.id IS NULL OR u.place_id <> ALL($2::bigint[]))
       ORDER BY i.number_key, u.number_key NULLS FIRST`,
      [itemId, hidden],
    );
  }
}
