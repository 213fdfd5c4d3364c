import type { OriginTree } from './items.js';

/** Most spots that one decision may be about. */
const MOST_SPOTS = 10_000;

/** What was asked for does not fit the origin's tree; the message is a sentence. */
export class AskedError extends Error {}

/**
 * Spots of a tree by the numbers that lead to them.
 *
 * @param itemOf item of a number @throws where the tree has none
 * @returns for a chain of numbers every chain of items from the top that ends like it
 * @throws AskedError where there is none, or more than ten thousand
 */
export function spotChains(
  { items }: OriginTree,
  itemOf: (number: string) => string,
): (chain: readonly string[]) => (readonly string[])[] {
  return (numbers) => {
    const said = numbers.join(' > ');
    const chain = numbers.map(itemOf);
    for (const [at, item] of chain.entries())
      if (at > 0 && items.get(item)?.parents.has(chain[at - 1] ?? '') !== true)
        throw new AskedError(
          `${numbers[at - 1]} does not use ${numbers[at]}, so that ${said} is no spot of the tree.`,
        );
    const found: (readonly string[])[] = [];
    const waiting: (readonly string[])[] = [chain];
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const first = items.get(next[0] ?? '');
      if (first?.isTop === true) found.push(next);
      else for (const parent of first?.parents ?? []) waiting.push([parent, ...next]);
      if (found.length + waiting.length > MOST_SPOTS)
        throw new AskedError(
          `${said} stands in more than ${MOST_SPOTS.toLocaleString('en-GB')} spots. Name more of the way to it, or decide about the item.`,
        );
    }
    if (found.length === 0) throw new AskedError(`${said} is no spot of the tree.`);
    return found;
  };
}
