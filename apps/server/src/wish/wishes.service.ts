import { createHash } from 'node:crypto';
import {
  PLAIN_DERIVATION,
  WISH_KEY,
  type DeriveRequest,
  type WishPlan,
  type WishPlanRequest,
} from '@stem-trace/contract';
import { numberKey } from '@stem-trace/core';
import {
  applyRecipe,
  readWishes,
  sayWishes,
  type Recipe,
  type RecipeDeed,
  type RecipeProblem,
} from '@stem-trace/core/recipes';
import type { DataSource } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { json, readRow, readRows, text, type Asks } from '../database/read-rows.js';
import type { DeriveService } from '../derive/derive.service.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import type { RecipesService } from './recipes.service.js';

/** What came of a wish sheet. */
export interface WishOutcome {
  /** Number of the variant; empty where there is none. */
  readonly variant: string;
  readonly isKnown: boolean;
  /** Whether it goes on to checking once it is proved. */
  readonly sendsOn: boolean;
}

interface Made {
  readonly itemId: string;
  readonly number: string;
}

interface Planned {
  readonly recipe: DescribedVersion;
  readonly of: Recipe;
  readonly plan: Omit<WishPlan, 'preview'>;
  readonly key: string;
}

/** Turns wishes into derivations by their recipe, and carries them out. */
export class WishesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly recipes: RecipesService,
    private readonly derivations: DeriveService,
  ) {}

  /** What wishes lead to; nothing is written. */
  async plan(request: WishPlanRequest, person: Person): Promise<WishPlan> {
    const { plan } = await this.work(request, person);
    if (!plan.request) return { ...plan, preview: null };
    try {
      return { ...plan, preview: await this.derivations.preview(plan.request, person) };
    } catch (error) {
      // What a rule names may not be in the tree, or not in the store.
      if (!(error instanceof ProblemError)) throw error;
      return {
        ...plan,
        request: null,
        preview: null,
        problems: [...plan.problems, blamed(plan.said, error.message)],
      };
    }
  }

  /**
   * Makes what a sheet asks for, once.
   *
   * @throws ProblemError with what is wrong and the rule that it is about; nothing is made then
   */
  async carryOut(sheet: string, person: Person, at: Date): Promise<WishOutcome> {
    const row = await readRow(
      this.database,
      { recipe: text, wishes: json<Record<string, string>>(), state: text, variant: text },
      `SELECT r.number || '@' || (SELECT rev.code || '/' || v.seq FROM version v JOIN revision rev ON rev.id = v.revision_id WHERE v.id = w.recipe_version_id) AS recipe,
              w.wishes, w.state, coalesce((SELECT number FROM item WHERE id = w.variant_item_id), '') AS variant
       FROM wish_sheet w JOIN item r ON r.id = w.recipe_item_id WHERE w.id = $1`,
      [sheet],
    );
    if (row.state === 'made' || row.state === 'known')
      return {
        ...{ variant: row.variant, isKnown: row.state === 'known' },
        sendsOn: row.state === 'made' && (await this.sendsOn(row.recipe, person)),
      };
    const { plan, key, of } = await this.work({ recipe: row.recipe, wishes: row.wishes }, person);
    const [problem] = plan.problems;
    if (problem) throw new ProblemError('INPUT_INVALID', sayProblem(problem));
    if (!plan.request) throw new Error('wishes without problems have a request');
    const known = await this.madeBefore(key);
    if (known) return this.settleKnown(sheet, known);
    const says = plan.said.map(({ rule, says: said }) => `${rule}: ${said}`).join('; ');
    try {
      const { variant } = await this.derivations.carryOutAt(
        { ...plan.request, key: `${WISH_KEY}${key}` },
        ...([person, at] as const),
        // The sheet and its variant stand together, or neither does.
        async (manager, made) => {
          const { itemId } = await this.catalogue.resolve(made.variant, person, 'see', manager);
          await settle(manager, sheet, { state: 'made', itemId, says });
        },
      );
      return { variant, isKnown: false, sendsOn: of.sendsOn };
    } catch (error) {
      // Others who wished for the same were faster.
      const faster = await this.madeBefore(key);
      if (faster) return this.settleKnown(sheet, faster);
      if (!(error instanceof ProblemError) || error.code === 'BUSY') throw error;
      throw new ProblemError(error.code, sayProblem(blamed(plan.said, error.message)), error.details);
    }
  }

  private async sendsOn(recipe: string, person: Person): Promise<boolean> {
    return (await this.recipes.read(await this.catalogue.resolve(recipe, person, 'fetch'))).sendsOn;
  }

  /** Its number is told to those who may see it, where sheets are listed. */
  private async settleKnown(sheet: string, { itemId, number }: Made): Promise<WishOutcome> {
    const says = 'A variant that was made before fulfils the same wishes';
    await settle(this.database.manager, sheet, { state: 'known', itemId, says });
    return { variant: number, isKnown: true, sendsOn: false };
  }

  private async madeBefore(key: string): Promise<Made | undefined> {
    const [row] = await readRows<Made>(
      this.database,
      { itemId: text, number: text },
      `SELECT i.id AS "itemId", i.number FROM wish_sheet w JOIN item i ON i.id = w.variant_item_id
       WHERE w.wish_key = $1 AND w.state = 'made' ORDER BY w.id LIMIT 1`,
      [key],
    );
    return row;
  }

  /** The key of wishes, and who they are kept as. @throws ProblemError where the item is no recipe */
  async keyOf(
    { recipe: reference, wishes }: WishPlanRequest,
    person: Person,
  ): Promise<{
    readonly recipe: DescribedVersion;
    readonly key: string;
  }> {
    const recipe = await this.catalogue.resolve(reference, person, 'fetch');
    const of = await this.recipes.read(recipe);
    return { recipe, key: keyOf(recipe, of, wishes) };
  }

  private async work({ recipe: reference, wishes }: WishPlanRequest, person: Person): Promise<Planned> {
    const recipe = await this.catalogue.resolve(reference, person, 'fetch');
    const of = await this.recipes.read(recipe);
    const quantity = await this.recipes.quantities(of.of, person);
    const outcome = applyRecipe(of, wishes, quantity);
    const key = keyOf(recipe, of, wishes);
    const known = outcome.problems.length === 0 ? await this.madeBefore(key) : undefined;
    const isSeen = known !== undefined && (await this.sees(known.itemId, person));
    const problems = [...outcome.problems];
    const base = {
      wishes: outcome.wishes,
      said: outcome.deeds.map(({ rule, says }) => ({ rule, says })),
      fulfilledBy: known && isSeen ? known.number : null,
    };
    if (problems.length > 0) return { recipe, of, key, plan: { ...base, problems, request: null } };
    const request = requestOf(of, outcome, quantity, problems);
    return { recipe, of, key, plan: { ...base, problems, request: problems.length > 0 ? null : request } };
  }

  private async sees(itemId: string, person: Person): Promise<boolean> {
    const newest = await this.catalogue.newest(itemId);
    return (await this.rights.of(person)).may('see', newest.placeId);
  }
}

async function settle(
  manager: Asks,
  sheet: string,
  {
    state,
    itemId,
    says,
  }: { readonly state: 'made' | 'known'; readonly itemId: string; readonly says: string },
): Promise<void> {
  await manager.query('UPDATE wish_sheet SET state = $2, variant_item_id = $3, says = $4 WHERE id = $1', [
    ...[sheet, state, itemId, says],
  ]);
}

function keyOf(recipe: DescribedVersion, of: Recipe, wishes: WishPlanRequest['wishes']): string {
  return createHash('sha256')
    .update(`${recipe.itemId} ${sayWishes(of, readWishes(of, wishes))}`)
    .digest('hex');
}

function sayProblem({ where, name, says }: RecipeProblem): string {
  return where === 'wish' ? `Wish ${name}: ${says}.` : `Rule “${name}”: ${says}.`;
}

/** The rule that a refusal of the derivation is about: the one that named what the refusal names. */
function blamed(said: WishPlan['said'], message: string): RecipeProblem {
  const rule = said.find(({ says }) =>
    says.split(/\s+/).some((word) => word.length > 2 && /\d/.test(word) && message.includes(word)),
  );
  return { where: 'rule', name: rule?.rule ?? 'all together', says: message.replace(/\.$/, '') };
}

function kindsOf({ wishes }: Recipe): NonNullable<DeriveRequest['values'][number]['kinds']> {
  return Object.fromEntries(
    wishes.map(({ name, kind, unit }) => [name, { kind: kind === 'choice' ? 'text' : kind, unit }]),
  );
}

type Outcome = ReturnType<typeof applyRecipe>;

/** The derivation that deeds amount to. */
function requestOf(
  recipe: Recipe,
  { deeds, names, place, wishes }: Outcome,
  quantity: (item: string, within?: string) => number,
  problems: RecipeProblem[],
): DeriveRequest {
  const request = {
    ...{ alsoCopy: [] as string[], share: [] as string[], omit: [] as string[], configuration: '' },
    ...{ swap: [] as DeriveRequest['swap'][number][], uses: [] as DeriveRequest['uses'][number][] },
    ...{
      added: [] as DeriveRequest['added'][number][],
      renamed: {} as Record<string, { number?: string; name?: string }>,
    },
    // The wishes stay with the variant, so that it is found by them.
    values: [{ of: '', set: wishes, kinds: kindsOf(recipe) }] as DeriveRequest['values'][number][],
    titleBlocks: [] as DeriveRequest['titleBlocks'][number][],
  };
  for (const { rule, deed } of deeds) {
    const says = take(request, deed, { top: recipe.of, quantity });
    if (says !== undefined) problems.push({ where: 'rule', name: rule, says });
  }
  return { ...PLAIN_DERIVATION, ...request, item: recipe.of, rules: names, place };
}

function take(
  request: {
    readonly alsoCopy: string[];
    readonly share: string[];
    readonly omit: string[];
    configuration: string;
    readonly swap: DeriveRequest['swap'][number][];
    readonly uses: DeriveRequest['uses'][number][];
    readonly added: DeriveRequest['added'][number][];
    readonly renamed: Record<string, { number?: string; name?: string }>;
    readonly values: DeriveRequest['values'][number][];
    readonly titleBlocks: DeriveRequest['titleBlocks'][number][];
  },
  deed: RecipeDeed,
  { top, quantity }: { readonly top: string; readonly quantity: (item: string, within?: string) => number },
): string | undefined {
  switch (deed.do) {
    case 'swap':
      request.swap.push({ from: deed.item, to: deed.to });
      return undefined;
    case 'omit':
      request.omit.push(deed.item);
      return undefined;
    case 'share':
      request.share.push(deed.item);
      return undefined;
    case 'copy':
      request.alsoCopy.push(deed.item);
      return undefined;
    case 'count':
      return takeCount(request, deed, quantity(deed.item, deed.in));
    case 'add':
      request.added.push({ in: [deed.in], item: deed.item, name: '', like: deed.like, at: deed.at });
      return undefined;
    case 'number':
    case 'name': {
      const line = deed.item === '' ? top : deed.item;
      request.renamed[line] = { ...request.renamed[line], [deed.do]: deed.text };
      return undefined;
    }
    case 'property':
      request.values.push({
        of: deed.item && numberKey(deed.item) !== numberKey(top) ? deed.item : '',
        set: { [deed.property]: deed.text },
      });
      return undefined;
    case 'title block':
      request.titleBlocks.push({ of: deed.item, field: deed.field, text: deed.text });
      return undefined;
    case 'configuration':
      request.configuration = deed.name;
      return undefined;
  }
}

/** So many of an item in an assembly: those too many are left out, further ones stand one step on each. */
function takeCount(
  {
    uses,
    added,
  }: { readonly uses: DeriveRequest['uses'][number][]; readonly added: DeriveRequest['added'][number][] },
  { item, in: within, count, step }: Extract<RecipeDeed, { do: 'count' }>,
  present: number,
): string | undefined {
  if (present === 0) return `${within} does not use ${item}`;
  if (count < present)
    uses.push({
      ...{ chain: [within, item], decision: 'omit' },
      occurrences: Array.from({ length: present - count }, (_, at) => count + at + 1),
    });
  for (let more = 1; more <= count - present; more++)
    added.push({
      ...{ in: [within], item, name: `${item} ${present + more}`, like: item },
      at: step.map((along) => along * (present - 1 + more)),
    });
  return undefined;
}
