import { Injectable } from '@nestjs/common';
import type { EffectivityRequest } from '@stem-trace/contract';
import {
  effectivityFrom,
  numberKey,
  productsIn,
  renamed,
  sayEffectivity,
  type Effectivity,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { stateBook } from '../database/state-book.js';
import { json, number, orAbsent, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService, notAllowed, type DescribedVersion } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';

interface Use {
  readonly id: string;
  readonly position: number;
  readonly number: string;
  readonly effectivity?: Effectivity;
}

/**
 * Says from when until when uses count. It is said beside the version, so that what became of a plan can be written down long after
 * the assembly was released; later versions keep it.
 */
@Injectable()
export class EffectivityService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /**
   * @throws ProblemError ITEM_UNKNOWN, also for products; VERSION_UNKNOWN; INPUT_INVALID for what is no range; NOT_ALLOWED: what is
   *   locked is for those who release
   */
  async put({ item, rows }: EffectivityRequest, person: Person, at = new Date()): Promise<void> {
    const version = await this.catalogue.resolve(item, person, 'change');
    const lane = (await stateBook(this.database)).get(version.state)?.lane;
    const rights = await this.rights.of(person);
    if (lane !== 'open' && lane !== 'under check' && !rights.may('release', version.placeId))
      throw new ProblemError('NOT_ALLOWED', notAllowed(version.number, 'release'));
    const wanted = new Map<number, Effectivity | undefined>();
    for (const { position, planned, actual } of rows)
      wanted.set(position, await this.read({ planned, actual }, person));
    await this.database.transaction(async (manager) => {
      const uses = await usesOf(manager, version, [...wanted.keys()]);
      const changed = uses.filter(
        ({ position, effectivity }) => sayEffectivity(effectivity) !== sayEffectivity(wanted.get(position)),
      );
      for (const { id, position } of changed)
        await write(
          manager,
          { link: id, version: version.id, effectivity: wanted.get(position), at },
          person,
        );
      if (changed.length === 0) return;
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'properties', itemId: version.itemId, at },
          says: `${person.name} changed from when until when ${sayUses(changed)} of ${version.number} ${version.label} ${changed.length === 1 ? 'counts' : 'count'}`,
          detail: {
            version: version.label,
            rows: changed.map(({ position, effectivity }) => ({
              position,
              before: sayEffectivity(effectivity),
              now: sayEffectivity(wanted.get(position)),
            })),
          },
        },
      ]);
      await announce(manager, 'items');
    });
  }

  /** With each product under the number that it has in the store. */
  private async read(
    { planned, actual }: { readonly planned: string; readonly actual: string },
    person: Person,
  ): Promise<Effectivity | undefined> {
    const read = effectivityFrom(planned, actual);
    if ('says' in read) throw new ProblemError('INPUT_INVALID', `${read.says} Nothing was changed.`);
    if (!read.effectivity) return undefined;
    const names = new Map<string, string>();
    for (const product of productsIn(read.effectivity))
      names.set(numberKey(product), (await this.catalogue.resolve(product, person)).number);
    return renamed(read.effectivity, (product) => names.get(numberKey(product)) ?? product);
  }
}

/** @throws ProblemError INPUT_INVALID where the version has no such row */
async function usesOf(
  manager: EntityManager,
  { id, number: assembly, label }: DescribedVersion,
  positions: readonly number[],
): Promise<Use[]> {
  const uses = await readRows<Use>(
    manager,
    { id: text, position: number, number: text, effectivity: orAbsent(json<Effectivity>()) },
    `SELECT l.id, l.position, coalesce(i.number, l.target_name_in_file) AS number, e.spans AS effectivity
     FROM link l LEFT JOIN item i ON i.id = l.target_item_id LEFT JOIN effectivity e ON e.link_id = l.id
     WHERE l.version_id = $1 AND l.position = ANY($2::int[]) AND l.relation = 'component' ORDER BY l.position`,
    [id, positions],
  );
  if (uses.length < positions.length)
    throw new ProblemError(
      'INPUT_INVALID',
      `${assembly} ${label} has no such row. Open its BOM again and look at the rows. Nothing was changed.`,
    );
  return uses;
}

async function write(
  manager: EntityManager,
  {
    link,
    version,
    effectivity,
    at,
  }: { link: string; version: string; effectivity: Effectivity | undefined; at: Date },
  person: Person,
): Promise<void> {
  if (!effectivity) await manager.query('DELETE FROM effectivity WHERE link_id = $1', [link]);
  else
    await manager.query(
      `INSERT INTO effectivity (link_id, version_id, spans, person_id, at) VALUES ($1, $2, $3, $4, $5)
       ON CONFLICT (link_id) DO UPDATE SET spans = EXCLUDED.spans, person_id = EXCLUDED.person_id, at = EXCLUDED.at`,
      [link, version, JSON.stringify(effectivity), person.id, at],
    );
}

/** Whoever watches the assembly need not be able to see what it uses. */
function sayUses(uses: readonly Use[]): string {
  return uses.length === 1 ? 'a row' : `${uses.length} rows`;
}
