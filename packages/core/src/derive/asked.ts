/** From decisions as people and programs say them, by numbers, to those that a plan is made from, by items. */
import { numberKey } from '../numbering/number.js';
import { AskedError, spotChains } from './chains.js';
import { originTree } from './items.js';
import type { Decision, DerivationRequest, OriginNode, OtherItem, UseDecision } from './types.js';

/** Decisions by numbers. */
export interface AskedDecisions {
  readonly copy: 'all' | 'proposed' | 'none';
  readonly alsoCopy: readonly string[];
  readonly share: readonly string[];
  readonly omit: readonly string[];
  readonly swap: readonly { readonly from: string; readonly to: string }[];
  readonly uses: readonly {
    readonly chain: readonly string[];
    /** The first is 1. */
    readonly occurrences?: readonly number[];
    readonly decision: Decision;
    readonly to?: string;
  }[];
  readonly renamed: Readonly<Record<string, { readonly number?: string; readonly name?: string }>>;
}

/** What numbers mean in an origin's tree. */
export interface TreeWords {
  /** @throws AskedError where the tree has no such number */
  readonly itemOf: (number: string) => string;
  /** Key of a line: of `NUMBER`, or of `NUMBER #2` for a further copy of an item. @throws AskedError */
  readonly keyOf: (line: string) => string;
  /** Chains of items, as `spotChains` finds them. @throws AskedError */
  readonly chainsOf: (chain: readonly string[]) => readonly (readonly string[])[];
}

/** @param top the origin, in words */
export function treeWords(nodes: readonly OriginNode[], top: string): TreeWords {
  const tree = originTree(nodes);
  const byNumber = new Map([...tree.items.values()].map(({ number, itemId }) => [numberKey(number), itemId]));
  const itemOf = (number: string): string => {
    const item = byNumber.get(numberKey(number));
    if (item === undefined) throw new AskedError(`${number} is not part of ${top}.`);
    return item;
  };
  const keyOf = (line: string): string => {
    const [, number = line, further] = /^(.*) #([0-9]+)$/.exec(line) ?? [];
    return further === undefined ? itemOf(line) : `${itemOf(number)}#${further}`;
  };
  return { itemOf, keyOf, chainsOf: spotChains(tree, itemOf) };
}

/**
 * @param other what takes the place of something, by how it was named
 * @throws AskedError where something is decided about that the tree does not have
 */
export function decisionsAsked(
  asked: AskedDecisions,
  { itemOf, keyOf, chainsOf }: TreeWords,
  other: (reference: string) => OtherItem,
): Required<Pick<DerivationRequest, 'decisions' | 'swaps' | 'uses' | 'otherwise' | 'renamed'>> {
  const decisions = new Map<string, Decision>();
  for (const number of asked.alsoCopy) decisions.set(itemOf(number), 'copy');
  for (const number of asked.share) decisions.set(itemOf(number), 'share');
  for (const number of asked.omit) decisions.set(itemOf(number), 'omit');
  for (const { from } of asked.swap) decisions.set(itemOf(from), 'swap');
  return {
    decisions,
    swaps: new Map(asked.swap.map(({ from, to }) => [itemOf(from), other(to)])),
    uses: asked.uses.flatMap(({ chain: numbers, decision, to, occurrences = [] }) =>
      chainsOf(numbers).map((chain): UseDecision => ({
        chain,
        decision,
        ...(to === undefined ? {} : { to: other(to) }),
        ...(occurrences.length === 0 ? {} : { occurrences: occurrences.map((at) => at - 1) }),
      })),
    ),
    otherwise: asked.copy === 'all' ? 'copy' : asked.copy === 'proposed' ? 'propose' : 'share',
    renamed: new Map(Object.entries(asked.renamed).map(([line, names]) => [keyOf(line), names])),
  };
}
