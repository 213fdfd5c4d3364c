/** What each file refers to: rows of the same intake, items of the store, or nothing that is there. */
import { definesItself, rowKey, type Draft } from './draft.js';
import { base, type FileIndex, type Allowance } from './locate.js';
import {
  comesIn,
  placeOf,
  type IntakeOptions,
  type KnownItem,
  type LinkTarget,
  type PlannedLink,
} from './plan-types.js';
import type { Placement, ProductReading } from './reading.js';

export interface LinkScope {
  readonly index: FileIndex;
  readonly byKey: ReadonlyMap<string, Draft>;
  /** Key of the row that a file is about, by path. */
  readonly rootOf: ReadonlyMap<string, string>;
  /** Keys of rows by path and product id, for references to a product that is not what its file is about. */
  readonly byPathAndId: ReadonlyMap<string, string>;
  readonly options: IntakeOptions;
}

export function linksOf(draft: Draft, scope: LinkScope): PlannedLink[] {
  const byChild = new Map<number, { name: string; placement: Placement }[]>();
  for (const use of draft.reading.uses) {
    if (use.parent !== draft.index) continue;
    const list = byChild.get(use.child) ?? [];
    list.push({ name: use.name, placement: use.placement });
    byChild.set(use.child, list);
  }
  return [...byChild].flatMap(([child, occurrences]): PlannedLink[] => {
    const product = draft.reading.products[child];
    if (!product) return [];
    if (definesItself(draft.file, product, scope.index)) {
      const key = rowKey(draft.file.path, product);
      return [{ product, target: follow(key, scope.byKey), carried: true, occurrences }];
    }
    return [{ product, ...resolve(draft, product, scope), carried: false, occurrences }];
  });
}

function resolve(
  draft: Draft,
  product: ProductReading,
  scope: LinkScope,
): { target: LinkTarget; allowance?: Allowance } {
  const locator = product.locator ?? '';
  const match = scope.index.find(locator, draft.file.path);
  if (match.kind === 'found') {
    const root = scope.byPathAndId.get(pathAndId(match.path, product.id)) ?? scope.rootOf.get(match.path);
    const target = root === undefined ? ({ kind: 'gap' } as const) : follow(root, scope.byKey);
    if (target.kind !== 'gap') {
      if (match.allowance !== 'exact') draft.notes.push(`'${locator}' was taken to mean ${match.path}.`);
      return { target, allowance: match.allowance };
    }
  }
  const stored = inStore(draft, product, scope.options);
  if (stored) {
    draft.notes.push(`'${locator}' is not among these files; it was found in the store as ${stored.number}.`);
    return { target: { kind: 'item', item: stored } };
  }
  draft.notes.push(gapNote(locator, match));
  return { target: { kind: 'gap' } };
}

function gapNote(locator: string, match: ReturnType<FileIndex['find']>): string {
  if (match.kind === 'doubled')
    return `'${locator}' could be any of ${match.paths.join(', ')}; it stays a gap.`;
  if (match.kind === 'missing' && match.outside)
    return `'${locator}' lies outside the folder; it stays a gap.`;
  return `'${locator}' is missing; it stays a gap.`;
}

function inStore(draft: Draft, product: ProductReading, options: IntakeOptions): KnownItem | undefined {
  const name = base((product.locator ?? '').replaceAll('\\', '/'));
  const prefix = options.prefix ?? '';
  return (
    options.store.byFile(placeOf(options.place, draft.file.path), name) ??
    (product.id ? options.store.byNumber(prefix + product.id) : undefined)
  );
}

/** Where a reference to a row leads: through twins to the row that stands for both, or to a gap. */
function follow(key: string, byKey: ReadonlyMap<string, Draft>): LinkTarget {
  const draft = byKey.get(key);
  if (draft?.status.kind === 'sameAs') return { kind: 'row', key: draft.status.key };
  return draft && comesIn(draft) ? { kind: 'row', key } : { kind: 'gap' };
}

export function pathAndId(path: string, id: string): string {
  return JSON.stringify([path, id]);
}
