import type { OriginNode } from '@stem-trace/core';
import { ProblemError } from '../problems/problem.js';

/** Most spots that one decision may be about. */
const MOST_SPOTS = 10_000;

/**
 * Spots of a tree by the numbers that lead to them.
 *
 * @param itemOf item of a number @throws where the tree has none
 * @returns for a chain of numbers every chain of items from the top that ends like it
 * @throws ProblemError INPUT_INVALID where there is none, or more than ten thousand
 */
export function spotChains(
  nodes: readonly OriginNode[],
  itemOf: (number: string) => string,
): (chain: readonly string[]) => (readonly string[])[] {
  const itemByVersion = new Map(nodes.map(({ versionId, itemId }) => [versionId, itemId]));
  const parents = new Map<string, Set<string>>();
  for (const { itemId, children } of nodes) {
    for (const child of children) {
      const below = itemByVersion.get(child) ?? '';
      parents.set(below, (parents.get(below) ?? new Set()).add(itemId));
    }
  }
  const top = nodes[0]?.itemId ?? '';
  return (numbers) => {
    const said = numbers.join(' > ');
    const chain = numbers.map(itemOf);
    for (const [at, item] of chain.entries())
      if (at > 0 && parents.get(item)?.has(chain[at - 1] ?? '') !== true)
        throw new ProblemError(
          'INPUT_INVALID',
          `${numbers[at - 1]} does not use ${numbers[at]}, so that ${said} is no spot of the tree. Nothing was changed.`,
        );
    const found: (readonly string[])[] = [];
    const waiting: (readonly string[])[] = [chain];
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const [first = ''] = next;
      if (first === top) found.push(next);
      else for (const parent of parents.get(first) ?? []) waiting.push([parent, ...next]);
      if (found.length + waiting.length > MOST_SPOTS)
        throw new ProblemError(
          'INPUT_INVALID',
          `${said} stands in more than ${MOST_SPOTS.toLocaleString('en-GB')} spots. Name more of the way to it, or decide about the item. Nothing was changed.`,
        );
    }
    if (found.length === 0)
      throw new ProblemError('INPUT_INVALID', `${said} is no spot of the tree. Nothing was changed.`);
    return found;
  };
}
