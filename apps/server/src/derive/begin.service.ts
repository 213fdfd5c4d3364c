import {
  PLAIN_DERIVATION,
  TEMPLATE,
  type BeginRequest,
  type BeginResult,
  type DeriveRequest,
  type DeriveResult,
} from '@stem-trace/contract';
import type { DataSource, EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { flag, readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { insertHolds } from '../store/holds.js';
import { record } from '../trail/record.js';
import type { DeriveService } from './derive.service.js';
import { countedNames, schemeOf } from './proposal.js';

/** Whoever begins with a number that somebody else took meanwhile gets the next. */
const TRIES = 5;

/** Items that are begun with a template: a copy of it under new numbers, held by whoever begins. */
export class BeginService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly derivations: DeriveService,
  ) {}

  /**
   * Copies a template with what is proposed to be copied of it, and holds all of that.
   *
   * @param at the time that the copies get
   * @throws ProblemError ITEM_UNKNOWN; INPUT_INVALID where the scheme is none; as `DeriveService.carryOutAt`
   */
  async begin({ item, name, scheme, place }: BeginRequest, person: Person, at: Date): Promise<BeginResult> {
    const template = await this.catalogue.resolve(item, person, 'fetch');
    const request: DeriveRequest = {
      ...PLAIN_DERIVATION,
      ...{ item, place, scheme: scheme === '' ? await schemeFor(this.database.manager, template) : scheme },
      // What is begun with a template is none.
      values: [{ of: '', set: { [TEMPLATE]: '' } }],
    };
    for (let tries = 1; ; tries++) {
      const named = await this.named(request, { template, name }, person);
      let held: string[] = [];
      try {
        const { variant } = await this.derivations.carryOutAt(named, person, at, async (manager, made) => {
          held = await this.hold(manager, made, person);
        });
        const { label } = await this.catalogue.resolve(variant, person);
        return { number: variant, version: label, made: held };
      } catch (error) {
        const isTaken = error instanceof ProblemError && error.code === 'DERIVATION_CLASH';
        if (!isTaken || request.scheme !== '' || tries === TRIES) throw error;
      }
    }
  }

  /**
   * With the name for the template and for what is called like it, as its drawing is; and where no scheme says the numbers,
   * with a count behind each, the first that nobody has.
   */
  private async named(
    request: DeriveRequest,
    { template, name }: { readonly template: DescribedVersion; readonly name: string },
    person: Person,
  ): Promise<DeriveRequest> {
    const { lines } = await this.derivations.preview(request, person);
    const copied = lines.filter(({ decision }) => decision === 'copy');
    const alike = name === '' ? [] : copied.filter((line) => line.name === template.name);
    const numbers = copied.map(({ number }) => number);
    return {
      ...request,
      renamed: Object.fromEntries(alike.map(({ number }) => [number, { name }])),
      rules: request.scheme === '' ? ((await countedNames(this.database.manager, numbers)) ?? []) : [],
    };
  }

  /** @returns numbers of what is held */
  private async hold(manager: EntityManager, { made }: DeriveResult, person: Person): Promise<string[]> {
    const copies = await this.catalogue.resolveAll(
      made.map(({ to }) => to),
      ...([person, 'change', manager] as const),
    );
    // It begins a stem of its own: what was begun with one template has nothing else in common.
    await manager.query('UPDATE item SET stem_id = NULL WHERE id = ANY($1::bigint[])', [
      copies.map(({ itemId }) => itemId),
    ]);
    // What lives in another's file is changed with that.
    const own = copies.filter(({ carrierVersion }) => carrierVersion === null);
    const reason = 'Begun with a template';
    await insertHolds(
      manager,
      own.map(({ itemId }) => itemId),
      { personId: person.id, reason },
    );
    await record(
      manager,
      own.map(({ itemId, number }) => ({
        ...{ personId: person.id, kind: 'check out' as const, itemId, detail: { reason } },
        says: `${person.name} checked out ${number}`,
      })),
    );
    return own.map(({ number }) => number);
  }
}

/** The scheme that a template's number is of, else the one for its class, else the only one for any; or empty. */
async function schemeFor(
  manager: EntityManager,
  { itemId, number }: { readonly itemId: string; readonly number: string },
): Promise<string> {
  const own = await schemeOf(manager, number);
  if (own !== undefined) return own;
  const rows = await readRows(
    manager,
    { name: text, isOfClass: flag },
    `SELECT s.name, s.class_id IS NOT NULL AS "isOfClass" FROM number_scheme s JOIN item i ON i.id = $1
     WHERE s.kind IS NULL AND (s.class_id IS NULL OR s.class_id = i.class_id)`,
    [itemId],
  );
  const ofClass = rows.filter(({ isOfClass }) => isOfClass);
  const [only, ...others] = ofClass.length > 0 ? ofClass : rows;
  return only && others.length === 0 ? only.name : '';
}
