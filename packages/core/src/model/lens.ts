/**
 * The rules of the lenses, once. Whoever follows links, in a graph or in typed arrays, downwards or upwards, asks these; only the
 * SQL that the index is held against in tests says them again, on purpose.
 */
import type { LinkFacts } from './link.js';

/** How links are turned into a tree; see the glossary. */
export type Lens = (
  | { readonly kind: 'recorded' }
  | { readonly kind: 'newest' }
  | { readonly kind: 'released' }
  | { readonly kind: 'date'; readonly atMs: number }
  /** What a release froze: the versions below it, with itself, and nothing else of their items. */
  | { readonly kind: 'baseline'; readonly id: string; readonly versions: ReadonlySet<string> }
) & {
  /** Leaves out links that belong to other configurations only; all of them count where absent. */
  readonly configuration?: string;
};

export const RECORDED: Lens = { kind: 'recorded' };

/** Whether a link counts under a lens: it belongs to every configuration, or to the one that is looked at. */
export function isIn({ configurations = [] }: Pick<LinkFacts, 'configurations'>, lens: Lens): boolean {
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
export function passesOver(lens: Lens, released: boolean, createdAtMs: number, id: string | number): boolean {
  switch (lens.kind) {
    case 'released':
      return !released;
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
