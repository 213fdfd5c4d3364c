/** Questions to the link index, as they are sent to the thread that keeps it. */
import type { StructureGraph } from '../graph.js';
import type { Lens } from '../../model/lens.js';
import { behindItems, dagAbove, dagBelow, type LinkDag } from './dag.js';
import { LinkIndex } from './link-index.js';
import { ItemOrder, usedPage, type PageAsk, type UsedPage } from './order.js';
import { nearestCommon, unusedWithout } from './sets.js';
import {
  explodeTotals,
  topTotals,
  whereUsedSet,
  whereUsedTotals,
  type Reached,
  type Totals,
} from './totals.js';

export interface IndexAnswers {
  readonly used: Totals;
  /** `used` at all levels, without quantities. */
  readonly users: Reached;
  readonly tops: Totals;
  readonly made: Totals;
  /** One page of `used`, one level, or of `tops`. */
  readonly page: UsedPage;
  readonly above: LinkDag;
  readonly below: LinkDag;
  /** Of all items, whatever the lens. */
  readonly behind: { readonly items: Float64Array };
  /** Versions that hold all of several items, without those that hold one of these. */
  readonly common: { readonly versions: Float64Array };
  /** Versions that nothing would use without the one asked about. */
  readonly unused: { readonly versions: Float64Array };
}

export type IndexQuestionKind = keyof IndexAnswers;

export interface IndexAsk<K extends IndexQuestionKind = IndexQuestionKind> {
  readonly what: K;
  /** `used`, `users`, `tops`, `page` and `common` are asked of an item, the others of a version; ids of the database. */
  readonly of: number;
  /** Further items, for `common`. */
  readonly and?: readonly number[];
  readonly lens: Lens;
  readonly levels: number;
  /** For `page`. */
  readonly page?: PageAsk;
}

/** @param order for `page`; without it, versions come by age */
export function askIndex<K extends IndexQuestionKind>(
  index: LinkIndex,
  ask: IndexAsk<K>,
  order = new ItemOrder(),
): IndexAnswers[K] {
  return ANSWERS[ask.what](index, ask, order);
}

const ALL_OF_IT: PageAsk = { tops: false, hiddenPlaces: [], limit: Infinity, offset: 0 };

const ANSWERS: {
  readonly [K in IndexQuestionKind]: (index: LinkIndex, ask: IndexAsk, order: ItemOrder) => IndexAnswers[K];
} = {
  used: (index, { of, lens, levels }) => whereUsedTotals(index, of, lens, levels),
  users: (index, { of, lens }) => whereUsedSet(index, of, lens),
  tops: (index, { of, lens }) => topTotals(index, of, lens),
  made: (index, { of, lens, levels }) => explodeTotals(index, of, lens, levels),
  page: (index, { of, lens, page = ALL_OF_IT }, order) => usedPage(index, order, { of, lens, page }),
  above: (index, { of, lens }) => dagAbove(index, of, lens),
  below: (index, { of, lens }) => dagBelow(index, of, lens),
  behind: (index) => ({ items: behindItems(index) }),
  common: (index, { of, and = [], lens }) => ({ versions: nearestCommon(index, [of, ...and], lens) }),
  unused: (index, { of, lens }) => ({ versions: unusedWithout(index, of, lens) }),
};

/** An index of a part of the store, for asking before the whole one has loaded. Ids are numbers there. */
export function indexOfGraph(graph: StructureGraph): LinkIndex {
  const versions = [...graph.versions()].sort((a, b) => Number(a.id) - Number(b.id));
  const index = new LinkIndex({ items: versions.length, versions: versions.length, links: 64 });
  for (const { id, itemId, ...facts } of versions)
    index.addVersion({ ...facts, id: Number(id), item: Number(itemId) });
  for (const { id } of versions) {
    for (const link of graph.linksOf(id)) {
      index.addLink({
        id: Number(link.id),
        parent: Number(id),
        targetItem: Number(link.targetItem ?? -1),
        targetVersion: Number(link.targetVersion ?? -1),
        quantity: link.quantity,
        carried: link.carried,
        configurations: link.configurations ?? [],
        ...(link.effectivity ? { effectivity: link.effectivity } : {}),
      });
    }
  }
  return index;
}
