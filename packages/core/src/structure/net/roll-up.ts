import type { PropertyValue } from '../../model/reading.js';
import { toSi } from '../../quantity/quantity.js';
import type { StateBook } from '../../lifecycle/diagram.js';
import { byAttention } from '../../lifecycle/states.js';
import type { Net, NetNode } from './net.js';

/** A sum over everything below, and how much of it nobody knows. */
export interface RolledSum {
  readonly value: number;
  /** Lines of the structure that say nothing, of all lines that should. */
  readonly unknown: number;
  readonly of: number;
}

export interface RollUp {
  readonly massKg: RolledSum;
  readonly cost: RolledSum;
  /** The least far in the lifecycle, of the node itself and everything below; null where all are gaps. */
  readonly worst: string | null;
  /** Links below whose recorded version is not the newest, and references that lead nowhere; each line counted. */
  readonly behind: number;
  readonly gaps: number;
  /** Lines below, with all levels open. */
  readonly lines: number;
}

/** Properties that add up: what one of something weighs, and what it costs in the currency of the store. */
export const ROLLED_UP = [
  { key: 'mass', unit: 'kg' },
  { key: 'cost', unit: '' },
] as const;

/**
 * What something says of itself.
 *
 * @param unit an SI unit, or one that none can be made of, such as a currency; what has another unit says nothing. Empty where
 *   any will do.
 */
export function ownValue(
  properties: readonly PropertyValue[],
  { key, unit }: { readonly key: string; readonly unit: string },
): number | undefined {
  const found = properties.find(({ name }) => name.toLowerCase() === key);
  if (found?.kind !== 'number') return undefined;
  if (unit === '' || unit === found.unit) return found.value;
  const si = toSi(found.value, found.unit);
  return si?.unit === unit ? si.value : undefined;
}

/** A line below a node: how often it is there, and what one of it adds up to. */
export interface SumLine {
  readonly sum: RolledSum;
  readonly quantity: number;
  readonly isPaper: boolean;
}

/**
 * What is made of something weighs and costs what that does; an own value counts where there is nothing below, and where
 * there are only drawings and documents. `O(lines)`
 */
export function sumOf(own: number | undefined, isPaperItself: boolean, lines: readonly SumLine[]): RolledSum {
  if (!lines.some((line) => !line.isPaper))
    // A drawing or a document that something needs to be complete weighs nothing.
    return isPaperItself && own === undefined
      ? { value: 0, unknown: 0, of: 0 }
      : { value: own ?? 0, unknown: own === undefined ? 1 : 0, of: 1 };
  let [value, unknown, of] = [0, 0, 0];
  for (const { sum, quantity } of lines) {
    value += sum.value * quantity;
    unknown += sum.unknown;
    of += sum.of;
  }
  return { value, unknown, of };
}

/**
 * Sums over everything below each node, for one of it. A line is a position in the tree with all levels open, so that a part
 * used in two places is two lines. `O(nodes + links)`
 */
export function rollUp(net: Net, book: StateBook): readonly RollUp[] {
  const compare = compareStates(book);
  const worse = (a: string | null, b: string | null): string | null => (compare(a, b) <= 0 ? a : b);
  const done: RollUp[] = [];
  for (const at of net.inwards()) {
    const node = net.nodes[at];
    if (!node) continue;
    let [worst, behind, gaps, lines] = [node.state, 0, 0, 0];
    const below = net.below(at);
    for (const link of below) {
      const child = done[link.to];
      if (!child) continue;
      worst = worse(worst, child.worst);
      behind += child.behind + (link.behind > 0 ? 1 : 0);
      gaps += child.gaps;
      lines += child.lines + 1;
    }
    const linesOf = (sum: (child: RollUp) => RolledSum): SumLine[] =>
      below.flatMap(({ to, quantity }) => {
        const child = done[to];
        return child ? [{ sum: sum(child), quantity, isPaper: isPaper(net.nodes[to]) }] : [];
      });
    done[at] = {
      massKg: sumOf(
        node.massKg,
        isPaper(node),
        linesOf(({ massKg }) => massKg),
      ),
      cost: sumOf(
        node.cost,
        isPaper(node),
        linesOf(({ cost }) => cost),
      ),
      worst,
      behind,
      gaps: below.length === 0 && node.isGap ? 1 : gaps,
      lines,
    };
  }
  return done;
}

/** Drawings and documents. */
export function isPaper(node: Pick<NetNode, 'kind'> | undefined): boolean {
  return node?.kind === 'drawing' || node?.kind === 'document';
}

/** Which of two states wants more attention; below zero where the first does. Nodes without one come last. */
export function compareStates(book: StateBook): (a: NetNode['state'], b: NetNode['state']) => number {
  const compare = byAttention(book);
  return (a, b) => (a === null || b === null ? Number(a === null) - Number(b === null) : compare(a, b));
}
