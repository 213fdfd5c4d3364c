import type { ReadinessAnswer } from '@stem-trace/contract';
import { ALL_RULES, checkReadiness, type BuildBill, type ReadinessFacts } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { SettingsService } from '../settings/settings.service.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import type { BillContents } from './bill-contents.js';
import type { BillsService } from './bills.service.js';
import { rowsBehind, type EngineeringService } from './engineering.service.js';
import { stateBook } from '../database/state-book.js';

/** Says what stands in the way of a bill's release. */
export class ReadinessService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly settings: SettingsService,
    private readonly contents: BillContents,
    private readonly bills: BillsService,
    private readonly engineering: EngineeringService,
  ) {}

  async check(reference: string, person: Person): Promise<ReadinessAnswer> {
    return this.checkVersion(await this.catalogue.resolve(reference, person), person);
  }

  async checkVersion(version: DescribedVersion, person: Person): Promise<ReadinessAnswer> {
    const rules = await this.settings.readiness();
    const off = ALL_RULES.filter((rule) => !rules.includes(rule));
    const bill = await this.contents.read(version);
    const { bill: seen, hidden } = await this.bills.asSeen(bill, await this.rights.of(person));
    if (hidden > 0) {
      const says = `Cannot be judged: ${hidden} rows are not visible to you. Ask for access to them`;
      return { failures: [{ rule: 'account', id: '', field: '', says }], off };
    }
    return { failures: checkReadiness(seen, await this.factsOf(bill, person), rules), off };
  }

  private async factsOf(bill: BuildBill, person: Person): Promise<ReadinessFacts> {
    const newer = await this.engineering.newer(bill, person);
    const base = (await this.catalogue.describe([bill.engineering.versionId])).get(
      bill.engineering.versionId,
    );
    const ids = [...new Set(bill.rows.flatMap(({ itemId }) => itemId ?? []))];
    return {
      baseState: base?.state ?? 'draft',
      behind: newer ? rowsBehind(bill.base, newer.rows) : null,
      states: await statesOf(this.database.manager, ids),
      book: await stateBook(this.database),
    };
  }
}

async function statesOf(manager: EntityManager, itemIds: readonly string[]): Promise<Map<string, string>> {
  const rows = await readRows(
    manager,
    { id: text, state: text },
    'SELECT id::text, state FROM item WHERE id = ANY($1::bigint[])',
    [itemIds],
  );
  return new Map(rows.map(({ id, state }) => [id, state]));
}
