import { baselineLens, type DeriveRequest, type PlanGround } from '@stem-trace/contract';
import {
  isChange,
  addTo,
  AskedError,
  decisionsAsked,
  follow,
  IDENTITY_PLACEMENT,
  standingOn,
  isIn,
  known,
  nameFold,
  numberKey,
  numbersToGive,
  planWithSpots,
  propertyOfField,
  RECORDED,
  treeWords,
  type AddedUse,
  type DerivationPlan,
  type Lens,
  type LinkEdge,
  type MadeVersion,
  type OriginNode,
  type OtherItem,
  type Placement,
  type PlanSpot,
  type PropertyValue,
  type StateBook,
  type TitleBlockRule,
  type StructureGraph,
  type UseDecision,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isAmong } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { DefinitionsService } from '../properties/definitions.service.js';
import { nextNumbers } from '../properties/next-numbers.js';
import { parseEntered } from '../properties/parse-entered.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { writtenLinks } from '../store/store-writer.js';
import type { SettingsService } from '../settings/settings.service.js';
import type { StructureLoader } from '../structure/structure-loader.js';
import { rulesOf } from './proposal.js';
import type { WrittenLink } from './variant-files.js';
import { stateBook } from '../database/state-book.js';

/** A derivation as it was asked for and as it would be carried out. */
export interface Prepared {
  readonly request: DeriveRequest;
  readonly origin: DescribedVersion;
  readonly place: string;
  /** Of the origin's tree with its drawings, and what is swapped in and added. */
  readonly versions: ReadonlyMap<string, DescribedVersion>;
  readonly nodes: readonly OriginNode[];
  /** Ids of the links that the places in a node's `children` mean, by version. */
  readonly linkIds: ReadonlyMap<string, readonly string[]>;
  /** Versions that links lead to, by their ids, where a lens chose others than they record. */
  readonly meant: ReadonlyMap<string, string>;
  /** Links of what lives in the files of versions that change, by version. */
  readonly links: ReadonlyMap<string, readonly WrittenLink[]>;
  /** Properties that copies get, by the key of their line. */
  readonly values: ReadonlyMap<string, EnteredValues>;
  /** What the fields of title blocks mean. */
  readonly titleBlock: readonly TitleBlockRule[];
  readonly uses: readonly UseDecision[];
  /** What the states of versions mean. */
  readonly book: StateBook;
  readonly plan: DerivationPlan;
  readonly spots: () => Iterable<PlanSpot>;
}

export interface PrepareOptions {
  /** Which versions of what the origin is made of are meant. */
  readonly lens?: Lens;
  /** Keys of numbers that may be given though the store has them. */
  readonly own?: ReadonlySet<string>;
}

/** By property; undefined takes it away. */
export type EnteredValues = ReadonlyMap<string, PropertyValue | undefined>;

const NEWEST: Lens = { kind: 'newest' };

/** Reads what a derivation is about and plans it; writes nothing. */
export class DerivationPlanner {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
    private readonly definitions: DefinitionsService,
    private readonly settings: SettingsService,
  ) {}

  /**
   * @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, NOT_ALLOWED where some of the tree may not be fetched; INPUT_INVALID
   * where something that is decided about is not in the tree; DERIVATION_CLASH where the origin has no file of its own
   */
  async prepare(
    request: DeriveRequest,
    person: Person,
    manager: EntityManager,
    options: PrepareOptions = {},
  ): Promise<Prepared> {
    return asProblems(async () => {
      const ground = await this.ground(request, person, manager, options);
      const { origin, place, versions, nodes, linkIds, meant, words, others } = ground;
      const asked = decisionsAsked(request, words, others.of);
      const { plan, spots } = planWithSpots({ ...ground, ...asked });
      const links = await linksAround(manager, plan.changed, { made: plan.made, versions, nodes, linkIds });
      const keyOf = (line: string): string => (line === '' ? origin.itemId : words.keyOf(line));
      const values = await this.valuesOf(request, keyOf, manager);
      const titleBlock = await this.settings.titleBlock(manager);
      takeTitleBlocks(values, request, { nodes, keyOf, rules: titleBlock });
      return {
        request,
        origin,
        place,
        versions,
        nodes,
        linkIds,
        meant,
        links,
        book: ground.book,
        values,
        titleBlock,
        plan,
        spots,
        uses: asked.uses,
      };
    });
  }

  /** All that the same decisions are planned from by whoever does it, and again after each. @throws ProblemError as `prepare` */
  async groundOf(request: DeriveRequest, person: Person, manager: EntityManager): Promise<PlanGround> {
    return asProblems(async () => {
      const ground = await this.ground(request, person, manager, {});
      const { origin, nodes, rules, spare, added, takenNumbers, takenFileNames, versions, others } = ground;
      const shown = [...versions.values()].map(
        ({ itemId, kind, label }) => [itemId, { kind, version: label }] as const,
      );
      return {
        origin: `${origin.number} ${origin.label}`,
        nodes,
        shown: Object.fromEntries(shown),
        ...{ rules, spare, added },
        takenNumbers: [...takenNumbers],
        takenFileNames: [...takenFileNames],
        others: Object.fromEntries(others.byReference),
      };
    });
  }

  private async ground(
    request: DeriveRequest,
    person: Person,
    manager: EntityManager,
    { lens: given, own = new Set() }: PrepareOptions,
  ) {
    const rights = await this.rights.of(person, manager);
    const { origin, lens } = await this.originOf(request, person, manager);
    await this.refuseWithoutFile(origin, rights, manager);
    const under = given ?? lens;
    const { graph, versions: tree, drawings } = await this.treeOf(origin, rights, { manager, lens: under });
    const { nodes, linkIds, meant } = originNodes(graph, {
      ...{ origin, versions: tree, drawings, lens: under },
      configuration: request.configuration,
    });
    const others = await this.otherItems(request, person, manager);
    const words = treeWords(nodes, `${origin.number} ${origin.label}`);
    const added = request.added.flatMap((add): AddedUse[] =>
      words.chainsOf(add.in).map((chain) => ({
        chain,
        item: others.of(add.item),
        name: add.name || others.of(add.item).number,
        placement: placementOf(add, { graph, versions: tree, parent: lastNode(nodes, chain) }),
      })),
    );
    const place = request.place || origin.place;
    const rules = rulesOf(request);
    // No more copies than nodes.
    const spare = request.scheme === '' ? [] : await nextNumbers(manager, request.scheme, nodes.length);
    const numbers = numbersToGive({ nodes, rules, spare, renamed: new Map(Object.entries(request.renamed)) });
    return {
      ...{ origin, place, nodes, linkIds, meant, words, others, added, rules, spare },
      versions: new Map([...tree, ...others.versions]),
      ...(await namesInUse(manager, numbers, { place, own })),
      book: await stateBook(manager),
    };
  }

  /** What is derived, and which versions of what it is made of: those that were recorded, or those of a baseline that holds it. */
  private async originOf(
    { item, baseline }: DeriveRequest,
    person: Person,
    manager: EntityManager,
  ): Promise<{ readonly origin: DescribedVersion; readonly lens: Lens }> {
    if (baseline === '')
      return { origin: await this.catalogue.resolve(item, person, 'fetch', manager), lens: RECORDED };
    const text = baselineLens(baseline);
    const lens = await this.catalogue.lens(text, await this.rights.of(person, manager), manager);
    const origin = await this.catalogue.resolveUnder(item, text, { person, right: 'fetch' }, manager);
    if (lens.kind === 'baseline' && !lens.versions.has(origin.id))
      throw new ProblemError(
        'INPUT_INVALID',
        `${origin.number} ${origin.label} is not in baseline ${baseline}. Leave the version away, or choose a baseline that holds it.`,
      );
    return { origin, lens };
  }

  private async valuesOf(
    { values }: DeriveRequest,
    keyOf: (line: string) => string,
    manager: EntityManager,
  ): Promise<Map<string, EnteredValues>> {
    if (values.length === 0) return new Map();
    const { definitions } = await this.definitions.list(manager);
    const entered = new Map<string, Record<string, string>>();
    for (const { of, set } of values) entered.set(keyOf(of), { ...entered.get(keyOf(of)), ...set });
    // What the store defines goes before what is said here.
    const said = values.flatMap(({ kinds = {} }) =>
      Object.entries(kinds).map(([name, kind]) => ({ name, ...kind, choices: [] })),
    );
    return new Map([...entered].map(([key, set]) => [key, parseEntered(set, [...said, ...definitions])]));
  }

  private async refuseWithoutFile(
    origin: DescribedVersion,
    rights: Rights,
    manager: EntityManager,
  ): Promise<void> {
    if (origin.kind === 'bill')
      throw new ProblemError(
        'INPUT_INVALID',
        `${origin.number} is a bill, of which there are no variants. Derive what it is for, and make a bill of the variant in Build.`,
      );
    if (isChange(origin.kind))
      throw new ProblemError(
        'INPUT_INVALID',
        `${origin.number} is a change ${origin.kind}, of which there are no variants.`,
      );
    if (origin.carrierVersion === null) return;
    const carrier = (await this.catalogue.describe([origin.carrierVersion], manager)).get(
      origin.carrierVersion,
    );
    const isSeen = carrier !== undefined && rights.may('see', carrier.placeId);
    throw new ProblemError(
      'DERIVATION_CLASH',
      isSeen
        ? `${origin.number} lives in the file of ${carrier.number} and cannot be copied without it. Derive ${carrier.number} instead.`
        : `${origin.number} lives in the file of something that you may not see, and cannot be copied without it.`,
    );
  }

  /** Everything below an origin, with the drawings of it and what these draw on. */
  private async treeOf(
    origin: DescribedVersion,
    rights: Rights,
    { manager, lens }: { readonly manager: EntityManager; readonly lens: Lens },
  ): Promise<{
    graph: StructureGraph;
    versions: Map<string, DescribedVersion>;
    drawings: ReadonlyMap<string, readonly string[]>;
  }> {
    const history = lens.kind !== 'recorded';
    const graph = await this.loader.below(origin.id, lens, { history, manager });
    const below = await this.versionsBelow(graph, origin, { manager, lens });
    const drawings = await this.loader.drawingsOf(
      [...new Set([...below.values()].map(({ itemId }) => itemId))],
      NEWEST,
      manager,
    );
    // A drawing that may not be fetched stays with the origin, unseen.
    const drawn = [...(await this.catalogue.describe([...drawings.keys()], manager))].filter(
      ([, { placeId }]) => rights.may('fetch', placeId),
    );
    // Drawings draw on others, which are copied or shared with them.
    const drawnOn = await this.loader.below(
      drawn.map(([id]) => id),
      RECORDED,
      { history: false, manager },
    );
    for (const { id } of drawnOn.versions()) graph.add([], drawnOn.linksOf(id));
    graph.add(drawnOn.versions(), []);
    const besides = [...drawnOn.versions()].map(({ id }) => id).filter((id) => !below.has(id));
    const versions = new Map([...below, ...drawn, ...(await this.catalogue.describe(besides, manager))]);
    refuseHidden([...versions.values()], rights, origin);
    return { graph, versions, drawings };
  }

  /** Every version of the origin's tree, with what else lives in the same files. */
  private async versionsBelow(
    graph: StructureGraph,
    origin: DescribedVersion,
    { manager, lens }: { readonly manager: EntityManager; readonly lens: Lens },
  ): Promise<Map<string, DescribedVersion>> {
    const ids = new Set<string>();
    const waiting = [origin.id];
    for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
      if (ids.has(id)) continue;
      ids.add(id);
      const below = graph.linksOf(id).flatMap((link) => ledTo(graph, link, lens) ?? []);
      waiting.push(...below.reverse());
    }
    const all = new Map(
      (await this.catalogue.describeFileContents([...ids], manager)).map((version) => [version.id, version]),
    );
    const ordered = [...ids].flatMap((id) => all.get(id) ?? []);
    return new Map([...ordered, ...all.values()].map((version) => [version.id, version]));
  }

  /** What is swapped in and added, with the versions whose files it lives in. */
  private async otherItems(
    { swap, uses, added }: DeriveRequest,
    person: Person,
    manager: EntityManager,
  ): Promise<{
    readonly of: (reference: string) => OtherItem;
    readonly byReference: ReadonlyMap<string, OtherItem>;
    readonly versions: ReadonlyMap<string, DescribedVersion>;
  }> {
    const wanted = new Set([
      ...swap.map(({ to }) => to),
      ...uses.flatMap(({ to }) => to ?? []),
      ...added.map(({ item }) => item),
    ]);
    const found = new Map<string, DescribedVersion>();
    const byReference = new Map<string, OtherItem>();
    const book = await stateBook(manager);
    for (const reference of wanted) {
      const version = await this.catalogue.resolve(reference, person, 'fetch', manager);
      if (version.kind !== 'part' && version.kind !== 'assembly')
        throw new ProblemError(
          'INPUT_INVALID',
          `${version.number} is a ${version.kind}, which cannot stand in an assembly. Name a part or an assembly. Nothing was changed.`,
        );
      if (book.get(version.state)?.lane === 'out of use')
        throw new ProblemError(
          'INPUT_INVALID',
          `${version.number} ${version.label} is ${version.state} and must not be used anew. Name another item. Nothing was changed.`,
        );
      found.set(reference, version);
      const { itemId, id: versionId, number, name } = version;
      byReference.set(reference, { itemId, versionId, number, name });
    }
    const carriers = [...found.values()].flatMap(({ carrierVersion }) => carrierVersion ?? []);
    const versions = new Map([
      ...[...found.values()].map((version) => [version.id, version] as const),
      ...(await this.catalogue.describe(carriers, manager)),
    ]);
    return {
      versions,
      byReference,
      of: (reference) => known(byReference, reference),
    };
  }
}

/** Fields of title blocks become properties of the drawings that have them. @throws ProblemError INPUT_INVALID */
function takeTitleBlocks(
  values: Map<string, EnteredValues>,
  { titleBlocks }: DeriveRequest,
  {
    nodes,
    keyOf,
    rules,
  }: {
    readonly nodes: readonly OriginNode[];
    readonly keyOf: (line: string) => string;
    readonly rules: readonly TitleBlockRule[];
  },
): void {
  for (const { of, field, text: said } of titleBlocks) {
    const name = propertyOfField(field, rules);
    if (name === undefined)
      throw new ProblemError(
        'INPUT_INVALID',
        `The field ${field} of title blocks is a number or a name here, which copies get by their own rules. Nothing was changed.`,
      );
    const key = of === '' ? '' : keyOf(of);
    for (const { itemId, isPaper = false, depicts = [] } of nodes) {
      if (!isPaper || (key !== '' && itemId !== key && !depicts.includes(key))) continue;
      values.set(
        itemId,
        new Map([...(values.get(itemId) ?? []), [name, { name, kind: 'text', text: said }]]),
      );
    }
  }
}

/**
 * Links of all that lives in the files of some versions, each leading to the version that is meant by the tree.
 *
 * @param wanted versions of copies
 */
export async function linksAround(
  manager: EntityManager,
  wanted: readonly MadeVersion[],
  {
    made,
    versions,
    nodes,
    linkIds,
  }: Pick<Prepared, 'versions' | 'nodes' | 'linkIds'> & Pick<DerivationPlan, 'made'>,
): Promise<Map<string, WrittenLink[]>> {
  const carrierOf = (id: string): string => versions.get(id)?.carrierVersion ?? id;
  const files = new Set(wanted.map(({ versionId }) => carrierOf(versionId)));
  const inFiles = new Set(
    made.flatMap(({ versionId }) => (files.has(carrierOf(versionId)) ? versionId : [])),
  );
  const links = new Map<string, WrittenLink[]>();
  if (inFiles.size === 0) return links;
  const meant = new Map(
    nodes.flatMap(({ versionId, children }) =>
      children.map((child, at) => [linkIds.get(versionId)?.[at] ?? '', child] as const),
    ),
  );
  for (const link of await writtenLinks(manager, [...inFiles]))
    addTo(links, link.versionId, { ...link, targetVersionId: meant.get(link.id) ?? link.targetVersionId });
  return links;
}

/** What was asked for and does not fit the tree is the asker's to mend. */
async function asProblems<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof AskedError)) throw error;
    throw new ProblemError('INPUT_INVALID', `${error.message} Nothing was changed.`);
  }
}

function lastNode(nodes: readonly OriginNode[], chain: readonly string[]): OriginNode | undefined {
  return nodes.findLast(({ itemId }) => itemId === chain.at(-1));
}

/** Where an added use stands in its assembly. */
function placementOf(
  { like, at, along, in: chain }: DeriveRequest['added'][number],
  {
    graph,
    versions,
    parent,
  }: {
    readonly graph: StructureGraph;
    readonly versions: ReadonlyMap<string, DescribedVersion>;
    readonly parent: OriginNode | undefined;
  },
): Placement {
  const isLike = ({ targetVersion }: { readonly targetVersion?: string }): boolean =>
    numberKey(versions.get(targetVersion ?? '')?.number ?? '') === numberKey(like);
  const link = like === '' ? undefined : graph.linksOf(parent?.versionId ?? '').find(isLike);
  if (like !== '' && !link)
    throw new ProblemError(
      'INPUT_INVALID',
      `${chain.at(-1)} does not use ${like}, so that nothing can be placed like it. Nothing was changed.`,
    );
  const from = link?.occurrences[0]?.placement ?? IDENTITY_PLACEMENT;
  const turned = along
    ? standingOn(
        [3, 7, 11].map((index) => from[index] ?? 0),
        along,
      )
    : from;
  return turned.map((value, index) => (index % 4 === 3 ? value + (at[(index - 3) / 4] ?? 0) : value));
}

async function namesInUse(
  manager: EntityManager,
  wanted: readonly string[],
  { place, own }: { readonly place: string; readonly own: ReadonlySet<string> },
): Promise<{ takenNumbers: Set<string>; takenFileNames: Set<string> }> {
  const numbers = await readRows(
    manager,
    { key: text },
    `SELECT number_key AS key FROM item WHERE ${isAmong('number_key', '$1')}`,
    [wanted.map(numberKey)],
  );
  const files = await readRows(
    manager,
    { name: text },
    `SELECT i.file_name AS name FROM item i JOIN place p ON p.id = i.place_id WHERE p.path = $1 AND i.file_name <> ''`,
    [place],
  );
  return {
    takenNumbers: new Set(numbers.flatMap(({ key }) => (own.has(key) ? [] : key))),
    takenFileNames: new Set(files.map(({ name }) => nameFold(name))),
  };
}

function originNodes(
  graph: StructureGraph,
  {
    origin,
    versions,
    drawings,
    configuration,
    lens: shown,
  }: {
    origin: DescribedVersion;
    versions: ReadonlyMap<string, DescribedVersion>;
    /** Items shown, by the drawing's version. */
    drawings: ReadonlyMap<string, readonly string[]>;
    configuration: string;
    lens: Lens;
  },
): { nodes: OriginNode[]; linkIds: Map<string, string[]>; meant: Map<string, string> } {
  const ordered = [origin, ...[...versions.values()].filter((version) => version.id !== origin.id)];
  const linkIds = new Map<string, string[]>();
  const meant = new Map<string, string>();
  const lens: Lens = { ...RECORDED, configuration };
  const nodes = ordered.map((version): OriginNode => {
    const all = graph.linksOf(version.id);
    const links = all.filter((link) => ledTo(graph, link, shown) !== undefined);
    const gaps = all.filter((link) => ledTo(graph, link, shown) === undefined);
    linkIds.set(
      version.id,
      links.map(({ id }) => id),
    );
    for (const link of links) {
      const led = ledTo(graph, link, shown);
      if (led !== undefined && led !== link.targetVersion) meant.set(link.id, led);
    }
    const leftOut = configuration === '' ? [] : links.flatMap((link, at) => (isIn(link, lens) ? [] : at));
    return {
      versionId: version.id,
      itemId: version.itemId,
      number: version.number,
      name: version.name,
      fileName: version.fileName,
      source: version.facts.source,
      idInFile: version.idInFile,
      ...(version.carrierVersion === null ? {} : { carrierVersion: version.carrierVersion }),
      children: links.flatMap((link) => ledTo(graph, link, shown) ?? []),
      // Where nothing says where they stand, there are as many as are used.
      occurrences: links.map(
        ({ occurrences, quantity }) => occurrences.length || Math.max(1, Math.round(quantity)),
      ),
      ...(leftOut.length === 0 ? {} : { leftOut }),
      ...(gaps.length === 0
        ? {}
        : { gaps: gaps.map(({ targetText, quantity }) => ({ text: targetText, quantity })) }),
      ...(version.kind === 'drawing' || version.kind === 'document' ? { isPaper: true } : {}),
      ...(drawings.has(version.id) ? { depicts: drawings.get(version.id) ?? [] } : {}),
    };
  });
  return { nodes, linkIds, meant };
}

/** The version that a link leads to; a carried one lives in the file and is the one that was recorded. */
function ledTo(graph: StructureGraph, link: LinkEdge, lens: Lens): string | undefined {
  if (lens.kind === 'recorded' || link.carried) return link.targetVersion;
  return follow(graph, link, lens)?.id;
}

/** A copy needs everything that it refers to, so that nothing may be out of the asker's sight. */
function refuseHidden(versions: readonly DescribedVersion[], rights: Rights, origin: DescribedVersion): void {
  const hidden = new Set(
    versions.flatMap(({ itemId, placeId }) => (rights.may('fetch', placeId) ? [] : [itemId])),
  ).size;
  if (hidden === 0) return;
  throw new ProblemError(
    'NOT_ALLOWED',
    `${origin.number} ${origin.label} is made of ${hidden} further ${hidden === 1 ? 'item' : 'items'} that you may not fetch. Ask somebody who administers their places, or derive a part of it. Nothing was changed.`,
  );
}
