import { Injectable } from '@nestjs/common';
import type { ConfigurationsAnswer } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { flag, readRows, text } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StructureIndex } from './structure-index.js';

/** Which configurations there are to choose from. */
@Injectable()
export class ConfigurationsService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly index: StructureIndex,
    private readonly rights: RightsService,
    private readonly database: DataSource,
  ) {}

  /**
   * Configurations that decide about an item: those named by links below it, or by links on the way up to its products,
   * as recorded or newest, in versions that the person may see.
   *
   * @throws ProblemError ITEM_UNKNOWN
   */
  async of(reference: string, person: Person): Promise<ConfigurationsAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    const known = await readRows(
      this.database,
      { some: flag },
      `SELECT EXISTS (SELECT 1 FROM link WHERE configurations <> '{}') AS some`,
    );
    if (known[0]?.some !== true) return { configurations: [] };
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const users = await this.index.ask({
      what: 'users',
      of: Number(version.itemId),
      lens: { kind: 'newest' },
      levels: Infinity,
    });
    const made = await Promise.all(
      (['recorded', 'newest'] as const).map((kind) =>
        this.index.ask({ what: 'made', of: Number(version.id), lens: { kind }, levels: Infinity }),
      ),
    );
    const versions = new Set([
      Number(version.id),
      ...users.versions,
      ...made.flatMap((totals) => [...totals.versions]),
    ]);
    const rows = await readRows(
      this.database,
      { name: text },
      `SELECT DISTINCT own.name FROM link l JOIN version v ON v.id = l.version_id JOIN item i ON i.id = v.item_id,
              unnest(l.configurations) AS own(name)
       WHERE l.configurations <> '{}' AND l.version_id = ANY($1::bigint[]) AND i.place_id <> ALL($2::bigint[])
       ORDER BY own.name`,
      [[...versions], hidden],
    );
    return { configurations: rows.map(({ name }) => name) };
  }
}
