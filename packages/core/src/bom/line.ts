/** Rows of bills of materials, wherever they come from: a structure of the store, a file, a manufacturing BOM. */
import { numberKey } from '../numbering/number.js';
import type { Placement } from '../model/link.js';
import type { ItemKind, Source } from '../model/reading.js';
import type { Amount } from '../model/amount.js';

/** What a row of a BOM says, without what lies below it. */
export interface LineFacts {
  /** Of the store; absent for what it does not know: a row of a file, a gap. */
  readonly itemId?: string;
  /** The same for an item and everything derived from it. */
  readonly stem?: string;
  readonly number: string;
  readonly name: string;
  /** Absent for a gap. */
  readonly versionId?: string;
  /** `B/3`; empty where nobody says. */
  readonly version: string;
  /** Version ids that this one was copied from, oldest first. */
  readonly originVersions: readonly string[];
  readonly amount: Amount;
  readonly find: string;
  readonly designators: readonly string[];
  /** Names, sorted; empty where it belongs to all of them. */
  readonly configurations: readonly string[];
  readonly placements: readonly Placement[];
  /** Chosen columns, as they are shown; absent where nothing is said. */
  readonly values: Readonly<Record<string, string>>;
  readonly kind?: ItemKind;
  readonly state?: string;
  readonly source?: Source;
  /** Of one of it, where there is nothing below. */
  readonly massKg?: number;
  readonly cost?: number;
  /** Nothing is there: the reference leads nowhere. */
  readonly isGap?: boolean;
  /** Something is there that the asker may not see. */
  readonly isHidden?: boolean;
}

/** A row with what lies below it; the root of a BOM is one too. */
export interface BomLine extends LineFacts {
  readonly children: readonly BomLine[];
}

/** What tells an item from others, in any list: its id, or its number where the store does not know it. */
export function itemKeyOf({ itemId, number }: Pick<LineFacts, 'itemId' | 'number'>): string {
  return itemId ?? `number ${numberKey(number)}`;
}

/**
 * What a line's content is known by: a copy has that of the version it goes back to, however often it was copied. What says no
 * version is known by none.
 */
export function contentOf({ versionId, originVersions, version }: LineFacts): string {
  return originVersions[0] ?? versionId ?? version;
}

/** Places as one text; the same for the same places, in whatever order. */
export function placesOf({ placements }: Pick<LineFacts, 'placements'>): string {
  if (placements.length === 0) return '';
  return placements
    .map((placement) => placement.map((value) => Math.round(value * 1e6)).join(' '))
    .sort()
    .join('|');
}

/**
 * The way to each line below a root, as somebody can write it down: numbers joined by ` › `, the second of the same beside each
 * other with `#2`. `O(lines)`
 */
export function waysOf(root: BomLine): Map<BomLine, string> {
  const ways = new Map<BomLine, string>();
  const stack: { readonly line: BomLine; readonly way: string }[] = [{ line: root, way: '' }];
  for (let top = stack.pop(); top; top = stack.pop()) {
    const met = new Map<string, number>();
    for (const child of top.line.children) {
      const times = (met.get(child.number) ?? 0) + 1;
      met.set(child.number, times);
      const own = times === 1 ? child.number : `${child.number}#${times}`;
      const way = top.way === '' ? own : `${top.way} › ${own}`;
      ways.set(child, way);
      stack.push({ line: child, way });
    }
  }
  return ways;
}
