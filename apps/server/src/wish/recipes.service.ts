import { recipeSchema } from '@stem-trace/contract/schemas';
import type {
  NewRecipeRequest,
  RecipeSummary,
  RecipeView,
  SaveRecipeRequest,
  VersionMade,
} from '@stem-trace/contract';
import { fileNameFor, IDENTITY_PLACEMENT, RECORDED, valueAt } from '@stem-trace/core';
import { checkRecipe, EMPTY_RECIPE, type Recipe, type RecipeProblem } from '@stem-trace/core/recipes';
import type { DataSource, EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import type { Person } from '../database/entities/person.js';
import { json, number, orNull, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import type { VersionFacts } from '../store/facts.js';
import { refuseNotHeld } from '../store/hold-for-save.js';
import { holderFor } from '../store/names.js';
import { heldBy } from '../store/holds.js';
import { LABEL } from '../store/item-row.js';
import { insertNewItem, requireNumber } from '../store/new-item.js';
import { insertLinks, insertVersions, writtenLinks, type NewLink } from '../store/store-writer.js';
import { lockItems, type StoreTurn } from '../store/turn.js';
import type { StructureLoader } from '../structure/structure-loader.js';
import { record } from '../trail/record.js';

const ENDING = '.recipe.json';
const FACTS: VersionFacts = {
  ...{ description: 'What wishes do to a variant', format: 'text', schema: '', versionText: '' },
  ...{ source: 'made', properties: [] },
};
/** No recipe that people write is longer. */
const MOST_BYTES = 4 * 1024 ** 2;

/** Recipes: documents of the store that describe what variants are made of, and say what wishes do to them. */
export class RecipesService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly blobs: BlobStore,
    private readonly loader: StructureLoader,
  ) {}

  /** @param item that they are for; all recipes where empty */
  async list(item: string, person: Person): Promise<RecipeSummary[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const of = item === '' ? null : (await this.catalogue.resolve(item, person)).itemId;
    return readRows<RecipeSummary>(
      this.database,
      {
        ...{ number: text, name: text, version: text, state: text, heldBy: orNull(json()) },
        ...{ of: text, ofName: text, made: number },
      },
      `SELECT i.number, i.name, ${LABEL} AS version, r.state, ${heldBy('$1')},
              CASE WHEN t.place_id = ANY($1::bigint[]) THEN '' ELSE t.number END AS of,
              CASE WHEN t.place_id = ANY($1::bigint[]) THEN '' ELSE t.name END AS "ofName",
              (SELECT count(*)::int FROM wish_sheet w WHERE w.recipe_item_id = i.id AND w.state = 'made') AS made
       FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       JOIN link l ON l.version_id = v.id AND l.relation = 'describes' JOIN item t ON t.id = l.target_item_id
       WHERE i.kind = 'document' AND i.file_name LIKE '%${ENDING}' AND i.place_id <> ALL($1::bigint[])
         AND ($2::bigint IS NULL OR l.target_item_id = $2)
       ORDER BY i.number_key LIMIT 500`,
      [hidden, of],
    );
  }

  async open(reference: string, person: Person): Promise<RecipeView> {
    const version = await this.catalogue.resolve(reference, person);
    const recipe = await this.read(version);
    const { number: own, name, label, state } = version;
    return {
      ...{ number: own, name, version: label, state, recipe },
      heldBy: holderFor(await this.rights.of(person), version.heldBy),
      problems: await this.check(recipe, person),
    };
  }

  /** What is wrong with a recipe; what it is for must be seen. */
  async check(recipe: Recipe, person: Person): Promise<RecipeProblem[]> {
    return checkRecipe(recipe, await this.quantities(recipe.of, person));
  }

  /** How often something stands below what variants are made of, for expressions. */
  async quantities(of: string, person: Person): Promise<(item: string, within?: string) => number> {
    const origin = await this.catalogue.resolve(of, person);
    const graph = await this.loader.below(origin.id, RECORDED, { history: false });
    const versions = await this.catalogue.describe([...graph.versions()].map(({ id }) => id));
    const rights = await this.rights.of(person);
    const numberOf = new Map(
      [...versions.values()].flatMap(({ id, number: own, placeId }) =>
        rights.may('see', placeId) ? [[id, own.toLowerCase()] as const] : [],
      ),
    );
    const inAll = new Map<string, number>();
    const counted = new Map<string, ReadonlyMap<string, number>>();
    const below = (version: string): ReadonlyMap<string, number> => {
      const known = counted.get(version);
      if (known) return known;
      const sums = new Map<string, number>();
      counted.set(version, sums);
      for (const { targetVersion = '', quantity } of graph.linksOf(version)) {
        const own = numberOf.get(targetVersion) ?? '';
        sums.set(own, (sums.get(own) ?? 0) + quantity);
        for (const [each, count] of below(targetVersion))
          sums.set(each, (sums.get(each) ?? 0) + count * quantity);
      }
      return sums;
    };
    for (const [each, count] of below(origin.id)) inAll.set(each, count);
    return (item, within) => {
      if (within === undefined) return inAll.get(item.toLowerCase()) ?? 0;
      const parent = [...numberOf].findLast(([, own]) => own === within.toLowerCase())?.[0];
      return graph
        .linksOf(parent ?? '')
        .reduce(
          (sum, { targetVersion = '', quantity }) =>
            sum + (numberOf.get(targetVersion) === item.toLowerCase() ? quantity : 0),
          0,
        );
    };
  }

  /** @throws ProblemError INPUT_INVALID where the item's file is no recipe */
  async read({ number: own, kind, sha256 }: DescribedVersion): Promise<Recipe> {
    const no = (why: string): ProblemError =>
      new ProblemError(
        'INPUT_INVALID',
        `${own} is no recipe: ${why}. Make one of what variants are made of.`,
      );
    if (kind !== 'document') throw no(`it is a ${kind}`);
    if ((await this.blobs.sizeOf(sha256)) > MOST_BYTES) throw no('its file is too long');
    let said: unknown;
    try {
      said = JSON.parse(new TextDecoder().decode(await this.blobs.read(sha256)));
    } catch {
      throw no('its file is not JSON');
    }
    const { error, value } = recipeSchema.validate(said) as { error?: Error; value: Recipe };
    if (error) throw no(error.message);
    return value;
  }

  async create(
    { item, number: wanted, name, place }: NewRecipeRequest,
    person: Person,
    at: Date,
  ): Promise<VersionMade> {
    requireNumber(wanted);
    const of = await this.catalogue.resolve(item, person);
    if (of.kind !== 'assembly' && of.kind !== 'part')
      throw new ProblemError(
        'INPUT_INVALID',
        `${of.number} is a ${of.kind}; only parts and assemblies have variants.`,
      );
    return this.turn.take(async (manager) => {
      const path = place === '' ? of.place : place;
      const itemId = await insertNewItem(
        manager,
        this.rights,
        {
          ...{ number: wanted, name, kind: 'document', place: path, facts: FACTS },
          fileName: fileNameFor(wanted, ENDING),
        },
        person,
      );
      const version = await this.write(
        manager,
        { ...{ itemId, number: wanted, name, place: path }, links: [describes(of)] },
        { ...EMPTY_RECIPE, of: of.number },
        { person, at, comment: `Recipe of ${of.number}` },
      );
      await manager.query('INSERT INTO hold (item_id, person_id, reason) VALUES ($1, $2, $3)', [
        ...[itemId, person.id, 'new recipe'],
      ]);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'recipe' as const, itemId, at },
          says: `${person.name} made the recipe ${wanted} of ${of.number}`,
        },
      ]);
      await announce(manager, 'items', 'holds', 'notices');
      return { number: wanted, version };
    });
  }

  /** @throws ProblemError NOT_HELD, NOT_ALLOWED, ITEM_UNKNOWN, INPUT_INVALID */
  async save(
    { item, version: seen, recipe, comment }: SaveRecipeRequest,
    person: Person,
    at: Date,
  ): Promise<VersionMade> {
    const named = await this.catalogue.resolve(item, person, 'change');
    await this.catalogue.resolve(recipe.of, person);
    return this.turn.take(async (manager) => {
      await lockItems(manager, [named.itemId]);
      await refuseNotHeld(manager, [named], person);
      const newest = await this.catalogue.newest(named.itemId, manager);
      if (newest.label !== seen)
        throw new ProblemError(
          'INPUT_INVALID',
          `${named.number} is at ${newest.label} by now; you edited ${seen}. Nothing was saved. Open the newest version, and take your changes over.`,
        );
      await this.read(newest);
      const links = await writtenLinks(manager, [newest.id]);
      const version = await this.write(manager, { ...newest, links }, recipe, {
        ...{ person, at },
        comment: comment || 'Rules of the recipe',
      });
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'recipe' as const, itemId: named.itemId, at },
          says: `${person.name} changed the recipe ${named.number}, as ${version}`,
        },
      ]);
      await announce(manager, 'items', 'notices');
      return { number: named.number, version };
    });
  }

  private async write(
    manager: EntityManager,
    item: Pick<DescribedVersion, 'itemId' | 'number' | 'name' | 'place'> & {
      readonly links: readonly Omit<NewLink, 'versionId'>[];
    },
    recipe: Recipe,
    { person, comment, at }: { readonly person: Person; readonly comment: string; readonly at: Date },
  ): Promise<string> {
    const { sha256 } = await keepBlob(
      manager,
      this.blobs,
      Buffer.from(`${JSON.stringify(recipe, null, 2)}\n`),
    );
    const id = valueAt(
      await insertVersions(manager, [
        {
          ...{ itemId: item.itemId, comment, authorId: person.id, createdAt: at, sha256, facts: FACTS },
          ...{ fileName: fileNameFor(item.number, ENDING), storedPlace: item.place, productRef: 0 },
          ...{ idInFile: item.number, nameInFile: item.name, carrierVersionId: null, originVersionId: null },
        },
      ]),
      0,
    );
    await insertLinks(
      manager,
      item.links.map((link) => ({ ...link, versionId: id })),
    );
    return (await this.catalogue.describe([id], manager)).get(id)?.label ?? '';
  }
}

/** Behind whatever links a file has; it stands in no file. */
const HAND_POSITION = 1_000_000;

function describes({ itemId, id, number: own }: DescribedVersion): Omit<NewLink, 'versionId'> {
  return {
    ...{
      position: HAND_POSITION,
      relation: 'describes',
      targetItemId: itemId,
      targetVersionId: id,
      quantity: 1,
    },
    ...{
      carried: false,
      targetRef: 0,
      targetIdInFile: own,
      targetNameInFile: '',
      locator: null,
      saidAlike: true,
    },
    occurrences: [{ name: '', placement: IDENTITY_PLACEMENT }],
  };
}
