/** What each file refers to or belongs to: rows of the same intake, items of the store, or nothing that is there. */
import { numberKey } from '../numbering/number.js';
import { isModel, numberOf, relationOf, type Owner } from './belonging.js';
import { definesItself, rowKey, type Draft } from './draft.js';
import { nameFold } from '../names/portable.js';
import { base, folderOf, normaliseLocator, pathsOf, type FileIndex, type LocatorMatch } from './locate.js';
import {
  comesIn,
  isGuess,
  placeOf,
  type IntakeOptions,
  type KnownItem,
  type LinkTarget,
  type PlannedLink,
  type Resolution,
} from './plan-types.js';
import { IDENTITY_PLACEMENT } from '../model/link.js';
import type { ProductReading, UseReading } from '../model/reading.js';

export interface LinkScope {
  readonly index: FileIndex;
  readonly byKey: ReadonlyMap<string, Draft>;
  /** Key of the row that a file is about, by path. */
  readonly rootOf: ReadonlyMap<string, string>;
  /** Keys of rows by path and product id, for references to a product that is not what its file is about. */
  readonly byPathAndId: ReadonlyMap<string, string>;
  /** Rows of models that come in by the key of the id that their file gives them. */
  readonly byId: ReadonlyMap<string, Draft | 'several'>;
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
): Pick<PlannedLink, 'target' | 'carried' | 'by'> {
  if (product.byNumber) {
    const target = byNumber(product.id, scope);
    if (target.kind === 'gap')
      draft.notes.push(`It depicts ${product.id}, which is not in the store; that stays a gap.`);
    return { target, carried: false };
  }
  if (definesItself(draft.file, product, scope.index))
    return { target: follow(rowKey(draft.file.path, product), scope), carried: true };
  return { ...resolve(draft, product, scope), carried: false };
}

/** Uses that belong to the same configurations are one link. */
function byConfigurations(
  uses: readonly UseReading[],
): Pick<PlannedLink, 'configurations' | 'occurrences'>[] {
  const links = new Map<string, { configurations: readonly string[]; occurrences: Occurrence[] }>();
  for (const { name, placement, designator, configurations = [] } of uses) {
    const occurrence = { name, placement, ...(designator === undefined ? {} : { designator }) };
    const sorted = [...configurations].sort();
    const key = JSON.stringify(sorted);
    const link = links.get(key);
    if (link) link.occurrences.push(occurrence);
    else links.set(key, { configurations: sorted, occurrences: [occurrence] });
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
      ? follow(owner.draft.key, scope)
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

type Resolved = Pick<PlannedLink, 'target' | 'by'>;

/**
 * What a locator means, asked in the order of how certain the answers are: what a person said, the working copy's manifest,
 * the link that the version before recorded under this locator, the path as it stands, the path in other capitals, the
 * product's id, and then only guesses that do not contradict the folder that the locator names.
 */
function resolve(draft: Draft, product: ProductReading, scope: LinkScope): Resolved {
  const locator = product.locator ?? '';
  for (const answer of [saidByHand, inWorkingCopy, inVersionBefore, atItsPath, byProductId, byLikelyName]) {
    const resolved = answer(draft, product, scope);
    if (!resolved) continue;
    if (resolved.by !== undefined && isGuess(resolved.by) && resolved.target.kind !== 'gap')
      draft.notes.push(
        `'${locator}' was taken to mean ${sayTarget(resolved.target, scope)}, by its ${resolved.by}.`,
      );
    return resolved;
  }
  const match = scope.index.find(locator, draft.file.path);
  draft.notes.push(gapNote(locator, match, scope.options));
  return { target: { kind: 'gap' } };
}

function saidByHand(draft: Draft, { locator = '' }: ProductReading, scope: LinkScope): Resolved | undefined {
  const said = scope.options.corrections?.get(draft.key)?.references?.[locator];
  if (said === undefined) return undefined;
  if (said === '') return { target: { kind: 'gap' }, by: 'hand' };
  const row = scope.byNumber.get(numberKey(said));
  const item = scope.options.store.byNumber(said);
  if (row) return { target: follow(row.key, scope), by: 'hand' };
  if (item?.isVisible) return { target: { kind: 'item', item }, by: 'hand' };
  draft.notes.push(`${said} is not in the store; '${locator}' stays a gap.`);
  return { target: { kind: 'gap' }, by: 'hand' };
}

/** What the manifest says of this locator of this file, else of the file that lies where it leads. */
function inWorkingCopy(
  draft: Draft,
  { locator = '' }: ProductReading,
  scope: LinkScope,
): Resolved | undefined {
  const { workingCopy, store } = scope.options;
  if (!workingCopy) return undefined;
  const from = draft.file.path;
  const { paths } = pathsOf(locator, folderOf(from));
  const said = workingCopy.files.get(from)?.references.find(({ says }) => says === locator);
  const path = paths.find((each) => workingCopy.files.has(each));
  const fetched = path === undefined ? undefined : workingCopy.files.get(path)?.items[0];
  if (said?.number === null) return undefined;
  const meant = said ?? fetched;
  const item = typeof meant?.number === 'string' ? store.byNumber(meant.number) : undefined;
  if (!meant || !item?.isVisible) return undefined;
  const seen = meant.version === null ? undefined : store.versionOf(item.id, meant.version);
  return { target: toItem(item, seen, scope), by: 'working copy' };
}

/** What the version before meant by the same text; in a working copy the files say other texts than the stored ones. */
function inVersionBefore(
  draft: Draft,
  { locator = '' }: ProductReading,
  scope: LinkScope,
): Resolved | undefined {
  const { store, workingCopy } = scope.options;
  if (!draft.known || draft.status.kind === 'new') return undefined;
  // A fetched file says other texts than the stored one; the manifest knows all of those that may be known.
  const said = workingCopy?.files.get(draft.file.path)?.references ?? [];
  if (said.length > 0 && !said.some(({ says, number }) => says === locator && number === null))
    return undefined;
  const links = store.linksOf(draft.known.id).filter((link) => link.locator === locator);
  const [link] = links;
  if (!link || links.some(({ target }) => target.id !== link.target.id)) return undefined;
  // A file that came along is meant as it came, also where it is what the store has already.
  const row = scope.byNumber.get(numberKey(link.target.number));
  if (row?.known?.id === link.target.id && comesIn(row))
    return { target: follow(row.key, scope), by: 'version before' };
  return { target: toItem(link.target, link.versionId, scope), by: 'version before' };
}

/** The file at the very path, among these files and then in the store; after that the same in other capitals. */
function atItsPath(draft: Draft, product: ProductReading, scope: LinkScope): Resolved | undefined {
  const locator = product.locator ?? '';
  const match = scope.index.findSure(locator, draft.file.path);
  const row = (): Resolved | undefined =>
    match.kind === 'found'
      ? resolved(rowAt(match.path, product, scope), match.allowance === 'exact' ? 'path' : 'other capitals')
      : undefined;
  const isExact = match.kind === 'found' && match.allowance === 'exact';
  return (
    (isExact ? row() : undefined) ??
    inStore(draft, locator, 'exact', scope) ??
    row() ??
    (match.kind === 'doubled' ? undefined : inStore(draft, locator, 'any', scope))
  );
}

function inStore(
  draft: Draft,
  locator: string,
  spelling: 'exact' | 'any',
  scope: LinkScope,
): Resolved | undefined {
  const { store, place } = scope.options;
  for (const path of pathsOf(locator, placeOf(place, draft.file.path).slice(1)).paths) {
    const item = store.byPath(`/${path}`, spelling);
    if (item?.isVisible && item.id !== draft.known?.id)
      return { target: toItem(item, undefined, scope), by: spelling === 'exact' ? 'path' : 'other capitals' };
  }
  return undefined;
}

function byProductId(draft: Draft, { id }: ProductReading, scope: LinkScope): Resolved | undefined {
  if (id === '') return undefined;
  const { store, prefix = '' } = scope.options;
  const row = scope.byId.get(numberKey(id));
  if (row === 'several') return undefined;
  if (row) return row.file === draft.file ? undefined : resolved(follow(row.key, scope), 'product id');
  const item =
    visible(store.byNumber(prefix + id)) ?? (prefix === '' ? undefined : visible(store.byNumber(id)));
  return item && isModel(item.kind) && item.id !== draft.known?.id
    ? { target: toItem(item, undefined, scope), by: 'product id' }
    : undefined;
}

function byLikelyName(draft: Draft, product: ProductReading, scope: LinkScope): Resolved | undefined {
  const locator = product.locator ?? '';
  const match = scope.index.guess(locator, draft.file.path);
  if (match.kind === 'doubled') return undefined;
  if (match.kind === 'found')
    return resolved(
      rowAt(match.path, product, scope),
      match.allowance === 'ending' ? 'other ending' : 'name elsewhere',
    );
  // An absolute path is that of somebody else's disk; what lies beside in the store is as near as can be known.
  const written = normaliseLocator(locator);
  return written.absolute ? guessed(inStore(draft, base(written.path), 'any', scope)) : undefined;
}

function guessed(found: Resolved | undefined): Resolved | undefined {
  return found && { ...found, by: 'name elsewhere' };
}

function resolved(target: LinkTarget, by: Resolution): Resolved | undefined {
  return target.kind === 'gap' ? undefined : { target, by };
}

/** The row that a file is about, or the product of that id where the file has several. */
function rowAt(path: string, product: ProductReading, scope: LinkScope): LinkTarget {
  const key = scope.byPathAndId.get(pathAndId(path, product.id)) ?? scope.rootOf.get(path);
  return key === undefined ? { kind: 'gap' } : follow(key, scope);
}

/** An item as a target: its row where it has one, for that may make the version that is meant. */
function toItem(item: KnownItem, seen: string | undefined, scope: LinkScope): LinkTarget {
  const row = scope.byNumber.get(numberKey(item.number));
  const isRow = row !== undefined && row.known?.id === item.id;
  const version = seen === undefined ? {} : { seen };
  if (!isRow) return { kind: 'item', item, ...version };
  return row.status.kind === 'newVersion'
    ? { kind: 'row', key: row.key }
    : { kind: 'row', key: row.key, ...version };
}

function sayTarget(target: LinkTarget, { byKey }: LinkScope): string {
  if (target.kind === 'item') return `${target.item.number} of the store`;
  const row = target.kind === 'row' ? byKey.get(target.key) : undefined;
  return row ? `${row.number} in ${row.file.path}` : 'nothing';
}

function gapNote(locator: string, match: LocatorMatch, { files }: IntakeOptions): string {
  if (match.kind === 'doubled')
    return `'${locator}' could be any of ${match.paths.join(', ')}; it stays a gap.`;
  const name = nameFold(base(normaliseLocator(locator).path));
  const broken = files.find(({ path, problem }) => problem !== undefined && nameFold(base(path)) === name);
  if (broken) return `'${locator}' is ${broken.path}, which cannot be read; it stays a gap.`;
  if (match.kind === 'missing' && match.outside)
    return `'${locator}' lies outside the folder; it stays a gap.`;
  return `'${locator}' is missing; it stays a gap.`;
}

function visible(item: KnownItem | undefined): KnownItem | undefined {
  return item?.isVisible ? item : undefined;
}

/** Where a reference to a row leads: through twins to the row that stands for both, or to a gap. */
function follow(key: string, { byKey, options }: Pick<LinkScope, 'byKey' | 'options'>): LinkTarget {
  const draft = byKey.get(key);
  if (draft?.status.kind === 'sameAs') return { kind: 'row', key: draft.status.key };
  if (!draft || !comesIn(draft)) return { kind: 'gap' };
  // What does not change was seen as it was fetched, though there may be newer ones by now.
  const fetched = options.workingCopy?.files
    .get(draft.file.path)
    ?.items.find(({ number }) => numberKey(number) === numberKey(draft.number));
  const seen =
    draft.known && fetched && draft.status.kind !== 'newVersion'
      ? options.store.versionOf(draft.known.id, fetched.version)
      : undefined;
  return { kind: 'row', key, ...(seen === undefined ? {} : { seen }) };
}

export function pathAndId(path: string, id: string): string {
  return JSON.stringify([path, id]);
}
