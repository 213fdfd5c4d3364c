/** What each file refers to or belongs to: rows of the same intake, items of the store, or nothing that is there. */
import { numberKey } from '../numbering/number.js';
import { isModel, numberOf, relationOf, type Owner } from './belonging.js';
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
import { IDENTITY_PLACEMENT, type ProductReading, type UseReading } from './reading.js';

export interface LinkScope {
  readonly index: FileIndex;
  readonly byKey: ReadonlyMap<string, Draft>;
  /** Key of the row that a file is about, by path. */
  readonly rootOf: ReadonlyMap<string, string>;
  /** Keys of rows by path and product id, for references to a product that is not what its file is about. */
  readonly byPathAndId: ReadonlyMap<string, string>;
  /** Rows that come in, by number key. */
  readonly byNumber: ReadonlyMap<string, Draft>;
  /** What drawings and documents belong to by their names. */
  readonly owners: ReadonlyMap<Draft, Owner>;
  readonly options: IntakeOptions;
}

export function linksOf(draft: Draft, scope: LinkScope): PlannedLink[] {
  return [...usesOf(draft, scope), ...belongingOf(draft, scope)];
}

function usesOf(draft: Draft, scope: LinkScope): PlannedLink[] {
  const isCorrected = scope.options.corrections?.get(draft.key)?.belongsTo !== undefined;
  const byChild = new Map<number, UseReading[]>();
  for (const use of draft.reading.uses) {
    if (use.parent !== draft.index) continue;
    const list = byChild.get(use.child);
    if (list) list.push(use);
    else byChild.set(use.child, [use]);
  }
  return [...byChild].flatMap(([child, uses]): PlannedLink[] => {
    const product = draft.reading.products[child];
    if (!product || (product.byNumber && isCorrected)) return [];
    const relation = uses.at(-1)?.relation ?? 'component';
    const found = targetOf(draft, product, scope);
    return byConfigurations(uses).map((link) => ({ product, relation, ...found, ...link }));
  });
}

function targetOf(
  draft: Draft,
  product: ProductReading,
  scope: LinkScope,
): Pick<PlannedLink, 'target' | 'carried' | 'allowance'> {
  if (product.byNumber) {
    const target = byNumber(product.id, scope);
    if (target.kind === 'gap')
      draft.notes.push(`It depicts ${product.id}, which is not in the store; that stays a gap.`);
    return { target, carried: false };
  }
  if (definesItself(draft.file, product, scope.index))
    return { target: follow(rowKey(draft.file.path, product), scope.byKey), carried: true };
  return { ...resolve(draft, product, scope), carried: false };
}

/** Uses that belong to the same configurations are one link. */
function byConfigurations(
  uses: readonly UseReading[],
): Pick<PlannedLink, 'configurations' | 'occurrences'>[] {
  const links = new Map<string, { configurations: readonly string[]; occurrences: Occurrence[] }>();
  for (const { name, placement, configurations = [] } of uses) {
    const sorted = [...configurations].sort();
    const key = JSON.stringify(sorted);
    const link = links.get(key);
    if (link) link.occurrences.push({ name, placement });
    else links.set(key, { configurations: sorted, occurrences: [{ name, placement }] });
  }
  return [...links.values()];
}

type Occurrence = PlannedLink['occurrences'][number];

/** The link of a drawing or a document to its model, where a person said it or the name of the file does. */
function belongingOf(draft: Draft, scope: LinkScope): PlannedLink[] {
  const { kind } = draft.product;
  if (isModel(kind)) return [];
  const said = scope.options.corrections?.get(draft.key)?.belongsTo;
  const owner = said === undefined ? scope.owners.get(draft) : undefined;
  const before = draft.status.kind === 'newVersion' ? draft.status.of.belongsTo : undefined;
  const isNamed = draft.reading.products.some((product) => product.byNumber);
  const number = said ?? (owner ? numberOf(owner) : isNamed ? '' : (before ?? ''));
  if (number === '') return [];
  const target =
    owner?.kind === 'row'
      ? follow(owner.draft.key, scope.byKey)
      : owner?.kind === 'item'
        ? ({ kind: 'item', item: owner.item } as const)
        : byNumber(number, scope);
  if (target.kind === 'gap') {
    if (said !== undefined) draft.notes.push(`${number} is not in the store; the link was not made.`);
    return [];
  }
  const product: ProductReading = {
    ref: 0,
    id: number,
    name: '',
    description: '',
    versionText: '',
    kind: 'part',
    source: 'unknown',
    properties: [],
    byNumber: true,
  };
  const occurrences = [{ name: '', placement: IDENTITY_PLACEMENT }];
  return [{ product, relation: relationOf(kind), target, carried: false, configurations: [], occurrences }];
}

/** A number as a file or a person says it: with the intake's prefix where it is that of a newcomer. */
function byNumber(number: string, { byNumber: rows, options }: LinkScope): LinkTarget {
  const row = rows.get(numberKey((options.prefix ?? '') + number)) ?? rows.get(numberKey(number));
  if (row && isModel(row.product.kind)) return { kind: 'row', key: row.key };
  const item = options.store.byNumber(number);
  return item?.isVisible && isModel(item.kind) ? { kind: 'item', item } : { kind: 'gap' };
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
    (product.id ? visible(options.store.byNumber(prefix + product.id)) : undefined)
  );
}

function visible(item: KnownItem | undefined): KnownItem | undefined {
  return item?.isVisible ? item : undefined;
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
