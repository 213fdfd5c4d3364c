import { randomUUID } from 'node:crypto';
import type { OrderAnswer, OrderRequest, SheetState, WishSheetRow } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import type { DataSource, EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { isOpen } from '../database/conditions.js';
import { json, number, orNull, readRow, readRows, text, timeText, word } from '../database/read-rows.js';
import { insertRows } from '../database/rows.js';
import { announce } from '../feed/feed.js';
import type { LifecycleService } from '../lifecycle/lifecycle.service.js';
import { ProblemError } from '../problems/problem.js';
import type { Job } from '../queue/job.js';
import type { JobQueue } from '../queue/job-queue.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { recordQuietly } from '../trail/record.js';
import type { WorkHost } from '../work/work-host.js';
import type { WishesService } from './wishes.service.js';

/** Deriving takes turns in any case; meanwhile another sheet is proved. */
const AT_ONCE = 2;

/** A sheet whose recipe and wishes are known. */
interface KeyedSheet {
  readonly recipe: DescribedVersion;
  readonly key: string;
  readonly wishes: Readonly<Record<string, string>>;
  readonly askedFor: string;
}

/** Wish sheets as jobs: each is derived and proved by itself, and one that fails does not stop the others. */
export class OrdersService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly wishes: WishesService,
    private readonly work: WorkHost,
    private readonly queue: JobQueue,
    private readonly lifecycle: LifecycleService,
  ) {
    queue.handle('wish', {
      atOnce: AT_ONCE,
      work: (job) => this.make(job),
      failed: (id, failure) => this.fail(id, failure),
      cancelled: (id) => this.fail(id, 'Cancelled before it was made.'),
      restarted: (id) => this.anew(id),
    });
  }

  /** @throws ProblemError where the recipe is none, or may not be seen; a sheet that cannot be fulfilled fails by itself */
  async order({ recipe, sheets }: OrderRequest, person: Person): Promise<OrderAnswer> {
    const batch = randomUUID();
    const keyed = await this.keyed({ recipe, sheets }, person);
    await this.database.transaction(async (manager) => {
      const ids = await this.insert(manager, keyed, { batch, person, at: new Date() });
      for (const id of ids)
        await this.queue.send(
          'wish',
          this.queue.idOf('wish', id),
          { input: { sheet: id }, about: `Wishes for ${recipe}`, personId: person.id },
          manager,
        );
      await recordQuietly(manager, [
        {
          ...{ personId: person.id, kind: 'recipe' as const, itemId: keyed[0]?.recipe.itemId ?? null },
          says: `${person.name} asked for ${ids.length === 1 ? 'a variant' : `${ids.length} variants`} by ${keyed[0]?.recipe.number ?? recipe}`,
        },
      ]);
      await announce(manager, 'jobs');
    });
    return { batch, sheets: await this.list({ recipe: '', batch }, person) };
  }

  /** Fulfils one sheet at once, as if it had been asked for at a time. */
  async fulfil(
    { recipe, sheet }: { readonly recipe: string; readonly sheet: OrderRequest['sheets'][number] },
    person: Person,
    at: Date,
  ): Promise<void> {
    const keyed = await this.keyed({ recipe, sheets: [sheet] }, person);
    const [id = ''] = await this.insert(this.database.manager, keyed, { batch: randomUUID(), person, at });
    await this.fulfilled(id, person, at);
  }

  private keyed({ recipe, sheets }: OrderRequest, person: Person): Promise<KeyedSheet[]> {
    return Promise.all(
      sheets.map(async ({ wishes, for: askedFor }) => ({
        ...(await this.wishes.keyOf({ recipe, wishes }, person)),
        wishes: Object.fromEntries(Object.entries(wishes).map(([name, value]) => [name, String(value)])),
        askedFor,
      })),
    );
  }

  private insert(
    manager: EntityManager,
    sheets: readonly KeyedSheet[],
    { batch, person, at }: { readonly batch: string; readonly person: Person; readonly at: Date },
  ): Promise<string[]> {
    return insertRows(
      manager,
      'wish_sheet',
      {
        ...{ recipe_item_id: 'bigint', recipe_version_id: 'bigint', wishes: 'jsonb', wish_key: 'text' },
        ...{ asked_for: 'text', batch: 'text', person_id: 'bigint', asked_at: 'timestamptz' },
      },
      sheets.map(({ recipe, key, wishes, askedFor }) => ({
        ...{ recipe_item_id: recipe.itemId, recipe_version_id: recipe.id, wishes, wish_key: key },
        ...{ asked_for: askedFor, batch, person_id: person.id, asked_at: at.toISOString() },
      })),
    );
  }

  /** Newest first. */
  async list(
    { recipe, batch }: { readonly recipe: string; readonly batch: string },
    person: Person,
  ): Promise<WishSheetRow[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const of = recipe === '' ? null : (await this.catalogue.resolve(recipe, person)).itemId;
    return readRows<WishSheetRow>(
      this.database,
      {
        ...{ id: text, recipe: text, recipeVersion: text, batch: text, for: text, by: text, at: timeText },
        ...{ wishes: json(), state: word<SheetState>(), says: text, variant: orNull(text) },
        ...{ dangling: orNull(number), leaking: orNull(number), references: orNull(number) },
      },
      `SELECT w.id, r.number AS recipe, rev.code || '/' || v.seq AS "recipeVersion", w.batch, w.asked_for AS "for", p.name AS "by",
              w.asked_at AS at, w.wishes, w.state, w.says,
              CASE WHEN i.place_id = ANY($1::bigint[]) THEN NULL ELSE i.number END AS variant,
              (w.proof->>'dangling')::int AS dangling, (w.proof->>'leaking')::int AS leaking,
              (w.proof->>'references')::int AS "references"
       FROM wish_sheet w JOIN item r ON r.id = w.recipe_item_id JOIN version v ON v.id = w.recipe_version_id
       JOIN revision rev ON rev.id = v.revision_id JOIN person p ON p.id = w.person_id LEFT JOIN item i ON i.id = w.variant_item_id
       WHERE r.place_id <> ALL($1::bigint[]) AND ($2::bigint IS NULL OR w.recipe_item_id = $2) AND ($3 = '' OR w.batch = $3)
       ORDER BY w.id DESC LIMIT 1000`,
      [hidden, of, batch],
    );
  }

  private async make({ input: { sheet }, personId }: Job<'wish'>): Promise<{ readonly variant: string }> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: personId ?? '' });
    return { variant: await this.fulfilled(sheet, person, new Date()) };
  }

  /** Derives what a sheet asks for and proves it. @returns number of the variant */
  private async fulfilled(sheet: string, person: Person, at: Date): Promise<string> {
    const { variant, sendsOn } = await this.work.ask('wish', { sheet, at }, person);
    const { references, dangling, leaking }: Proof = await this.work.ask('proof', { item: variant }, person);
    await this.database.query('UPDATE wish_sheet SET proof = $2 WHERE id = $1', [
      sheet,
      JSON.stringify({ references, dangling, leaking }),
    ]);
    if (sendsOn && dangling + leaking === 0) await this.sendOn(sheet, variant, person);
    await announce(this.database.manager, 'items', 'jobs');
    return variant;
  }

  /** Asks for a check of all that was made for a variant; where that is refused, the sheet says why. */
  private async sendOn(sheet: string, variant: string, person: Person): Promise<void> {
    const { itemId } = await this.catalogue.resolve(variant, person);
    const drafts = await readRows(
      this.database,
      { number: text },
      `SELECT i.number FROM item top JOIN item i ON i.derivation_id = top.derivation_id
       JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       WHERE top.id = $1 AND ${isOpen('r')} ORDER BY i.id`,
      [itemId],
    );
    // Sent on before whoever did it was stopped.
    if (drafts.length === 0) return;
    const { askedFor } = await readRow(
      this.database,
      { askedFor: text },
      'SELECT asked_for AS "askedFor" FROM wish_sheet WHERE id = $1',
      [sheet],
    );
    const items = drafts.map(({ number: of }) => of);
    const reason = askedFor === '' ? 'Made from wishes' : `Made from the wishes of ${askedFor}`;
    const said = await this.lifecycle.sendOn(items, reason, person).then(
      () => 'sent on to checking',
      (error: unknown) => {
        if (!(error instanceof ProblemError)) throw error;
        return `not sent on to checking: ${error.message}`;
      },
    );
    await this.database.query(
      `UPDATE wish_sheet SET says = CASE WHEN says = '' THEN $2 ELSE says || '; ' || $2 END WHERE id = $1`,
      [sheet, said],
    );
  }

  private async fail(job: string, failure: string): Promise<void> {
    await this.database.query(
      // What was made stands, with its proof or without.
      `UPDATE wish_sheet SET state = CASE state WHEN 'waiting' THEN 'failed' ELSE state END,
         says = CASE state WHEN 'waiting' THEN $2 ELSE 'It was made, but not proved: ' || $2 END
       WHERE id = $1 AND (state = 'waiting' OR (state IN ('made', 'known') AND proof IS NULL))`,
      [await this.sheetOf(job), failure],
    );
    await announce(this.database.manager, 'jobs');
  }

  private async anew(job: string): Promise<void> {
    await this.database.query(
      `UPDATE wish_sheet SET state = 'waiting', says = '' WHERE id = $1 AND state = 'failed'`,
      [await this.sheetOf(job)],
    );
  }

  private async sheetOf(job: string): Promise<string | null> {
    const row = await this.queue.find('wish', job);
    return (row?.data as { input?: { sheet?: string } } | undefined)?.input?.sheet ?? null;
  }
}
