/**
 * The rules of the lenses, once. Whoever follows links, in a graph or in typed arrays, downwards or upwards, asks these; only the
 * SQL that the index is held against in tests says them again, on purpose.
 */
import { isInEffect, type EffectiveAt, type Effectivity } from './effectivity.js';
import type { LinkFacts } from './link.js';
import { NOT_RELEASED } from './version.js';

/** How links are turned into a tree; see the glossary. */
export type Lens = (
  | { readonly kind: 'recorded' }
  | { readonly kind: 'newest' }
  | { readonly kind: 'released' }
  | { readonly kind: 'date'; readonly atMs: number }
  /** What a release froze: the versions below it, with itself, and nothing else of their items. */
  /**
   * What is built on a day, or in one piece of a product: the newest versions that were released by the end of that day, or by now,
   * and that the order that made them lets count then, without the uses that do not count then.
   */
  | { readonly kind: 'effective'; readonly at: EffectiveAt; readonly untilMs: number }
  | { readonly kind: 'baseline'; readonly id: string; readonly versions: ReadonlySet<string> }
) & {
  /** Leaves out links that belong to other configurations only; all of them count where absent. */
  readonly configuration?: string;
};

export const RECORDED: Lens = { kind: 'recorded' };

/** What of a link decides whether a lens leaves it out. */
export interface LinkLimits extends Pick<LinkFacts, 'configurations'> {
  /** From when until when it counts; always where absent. It is said beside the version, and may change after that was made. */
  readonly effectivity?: Effectivity;
}

/** Whether a lens leaves out links at all. */
export function leavesOut(lens: Lens): boolean {
  return lens.configuration !== undefined || lens.kind === 'effective';
}

/**
 * Whether a link counts under a lens: it belongs to every configuration, or to the one that is looked at, and is in effect where
 * that is asked.
 */
export function isIn({ configurations = [], effectivity }: LinkLimits, lens: Lens): boolean {
  if (lens.kind === 'effective' && !isInEffect(effectivity, lens.at)) return false;
  return (
    lens.configuration === undefined ||
    configurations.length === 0 ||
    configurations.includes(lens.configuration)
  );
}

/** Whether a link leads to the version that it recorded, whatever others there are. */
export function keepsRecorded(lens: Lens, isCarried: boolean): boolean {
  return lens.kind === 'recorded' || isCarried;
}

/**
 * Whether a lens passes over a version of an item: it picks the newest that it does not pass over. In values, not in an
 * object, since it is asked for every version on the way.
 */
export function passesOver(
  lens: Lens,
  releasedAtMs: number,
  createdAtMs: number,
  id: string | number,
  effectivity?: Effectivity,
): boolean {
  switch (lens.kind) {
    case 'released':
      return releasedAtMs === NOT_RELEASED;
    case 'effective':
      return releasedAtMs > lens.untilMs || !isInEffect(effectivity, lens.at);
    case 'date':
      return createdAtMs > lens.atMs;
    case 'baseline':
      return !lens.versions.has(String(id));
    default:
      return false;
  }
}

/** Whether a lens picks the newest version of every item; `recorded` does so where no link says which. */
export function picksNewest(lens: Lens): boolean {
  return lens.kind === 'recorded' || lens.kind === 'newest';
}
