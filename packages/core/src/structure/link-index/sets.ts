/** Questions about several items at once, or about what depends on one alone. */
import type { Lens } from '../../model/lens.js';
import { eachLinkBelow, Upward } from './follow.js';
import { NONE, type LinkIndex } from './link-index.js';
import { whereUsedTotals } from './totals.js';

/**
 * The nearest assemblies that hold all of some items, at any level: those of which no part holds them all. Ids of
 * versions. `O(links reached)`
 */
export function nearestCommon(index: LinkIndex, itemIds: readonly number[], lens: Lens): Float64Array {
  const [first, ...others] = itemIds.map((item) => new Set(whereUsedTotals(index, item, lens).versions));
  const common = new Set([...(first ?? [])].filter((version) => others.every((users) => users.has(version))));
  const nearest = [...common].filter((id) => {
    let isNearest = true;
    eachLinkBelow(index, index.version(id), lens, (child) => {
      if (child !== NONE && common.has(index.versionIds.at(child))) isNearest = false;
    });
    return isNearest;
  });
  return Float64Array.from(nearest);
}

/**
 * What would be used nowhere any more without an item: everything below it whose users all are the item itself or would be
 * unused too. Ids of versions. `O(links below and to what is below)`
 */
export function unusedWithout(index: LinkIndex, versionId: number, lens: Lens): Float64Array {
  const root = index.version(versionId);
  if (root === NONE) return new Float64Array();
  const upward = new Upward(index, lens);
  const gone = new Set([root]);
  const found: number[] = [];
  // Whoever goes may take parts along that waited for just that; each user's going is looked at once.
  const queue = [root];
  for (let user = queue.pop(); user !== undefined; user = queue.pop()) {
    eachLinkBelow(index, user, lens, (part) => {
      if (part === NONE || gone.has(part)) return;
      let isUsed = false;
      upward.eachParent(index.itemOfVersion(part), part, (parent) => {
        // Who refers to the item but, under the lens, gets another version of it does not use this one.
        if (!gone.has(parent)) eachLinkBelow(index, parent, lens, (used) => (isUsed ||= used === part));
      });
      if (isUsed) return;
      gone.add(part);
      found.push(part);
      queue.push(part);
    });
  }
  return Float64Array.from(found, (version) => index.versionIds.at(version));
}
