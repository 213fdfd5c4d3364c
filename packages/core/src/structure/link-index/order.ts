/** Answers of the link index a page at a time, in the order in which people read numbers. */
import type { Lens } from '../../model/lens.js';
import { NONE, type LinkIndex } from './link-index.js';
import { Upward } from './follow.js';
import { topTotals, type Totals } from './totals.js';

/** What the index must know of items to put them in order and to leave out those that may not be seen. */
export class ItemOrder {
  private readonly keys: string[] = [];
  private readonly places: number[] = [];
  private order: number[] = [];
  private ranks: Int32Array | undefined;

  /** @param item dense number in the index @param key what it is ordered by, see `numberKey` */
  set(item: number, key: string, place: number): void {
    if (this.keys[item] !== key) this.ranks = undefined;
    this.keys[item] = key;
    this.places[item] = place;
  }

  placeOf(item: number): number {
    return this.places[item] ?? NONE;
  }

  /**
   * Place of each item in the order of keys. Worked out when it is asked for and keys have changed: `O(n)` where few
   * have, since the order before is nearly right.
   */
  ranksOf(): Int32Array {
    if (this.ranks) return this.ranks;
    for (let item = this.order.length; item < this.keys.length; item++) this.order.push(item);
    const { keys } = this;
    this.order.sort((a, b) => {
      const [one = '', other = ''] = [keys[a], keys[b]];
      return one < other ? -1 : one > other ? 1 : 0;
    });
    this.ranks = new Int32Array(keys.length);
    for (const [rank, item] of this.order.entries()) this.ranks[item] = rank;
    return this.ranks;
  }
}

export interface PageAsk {
  /** Only products rather than what uses the item directly. */
  readonly tops: boolean;
  /** Places whose items are left out. */
  readonly hiddenPlaces: readonly number[];
  readonly limit: number;
  readonly offset: number;
}

export interface UsedPage extends Totals {
  /** Versions there are on all pages, and items left out. */
  readonly counts: Float64Array;
}

/** One page of what uses an item, by number and then by age. `O(links reached + answer × log answer)` */
export function usedPage(
  index: LinkIndex,
  order: ItemOrder,
  { of, lens, page }: { of: number; lens: Lens; page: PageAsk },
): UsedPage {
  const upward = new Upward(index, lens);
  const users = page.tops ? products(index, of, lens) : directUsers(index, of, upward);
  const ranks = order.ranksOf();
  const hiddenPlaces = new Set(page.hiddenPlaces);
  const hidden = new Set<number>();
  const versions = index.versionIds.length;
  const keys = new Float64Array(users.size);
  let seen = 0;
  for (const version of users.keys()) {
    const item = index.itemOfVersion(version);
    if (hiddenPlaces.has(order.placeOf(item))) hidden.add(item);
    // One number to sort by: the item's rank, and then the version, which are numbered by age.
    else keys[seen++] = (ranks[item] ?? 0) * versions + version;
  }
  const shown = Array.from(
    keys
      .subarray(0, seen)
      .sort()
      .subarray(page.offset, page.offset + page.limit),
    (key) => key % versions,
  );
  const isUsed = (version: number): boolean => {
    let found = false;
    upward.eachParent(index.itemOfVersion(version), version, () => (found = true));
    return found;
  };
  return {
    versions: Float64Array.from(shown, (version) => index.versionIds.at(version)),
    levels: Uint16Array.from(shown, (version) => users.get(version)?.level ?? 1),
    totals: Float64Array.from(shown, (version) => users.get(version)?.total ?? 0),
    isEnd: Uint8Array.from(shown, (version) => (page.tops || !isUsed(version) ? 1 : 0)),
    counts: Float64Array.of(seen, hidden.size),
  };
}

interface User {
  readonly level: number;
  total: number;
}

/** By version, dense. Whether anything uses these in turn is looked up for those alone that are shown. */
function directUsers(index: LinkIndex, of: number, upward: Upward): Map<number, User> {
  const users = new Map<number, User>();
  const item = index.item(of);
  if (item === NONE) return users;
  upward.eachParent(item, NONE, (parent, quantity) => {
    const user = users.get(parent);
    if (user) user.total += quantity;
    else users.set(parent, { level: 1, total: quantity });
  });
  return users;
}

function products(index: LinkIndex, of: number, lens: Lens): Map<number, User> {
  const { versions, levels, totals } = topTotals(index, of, lens);
  return new Map(
    Array.from(versions, (version, slot) => [
      index.version(version),
      { level: levels[slot] ?? 1, total: totals[slot] ?? 0 },
    ]),
  );
}
