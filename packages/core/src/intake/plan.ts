/**
 * Works out what an intake will do, as plain data, before anything is written: which product of which file
 * becomes which item, what each file refers to, what is new, changed, unchanged, doubled or in the way.
 *
 * The plan is worked out twice with the same code: for the review table, and again inside the transaction that
 * carries it out, on what the store holds then.
 */
import { numberKey, validateNumber } from '../numbering/number.js';
import { base, FileIndex, stemOf, type Allowance } from './locate.js';
import type { FileReading, Placement, ProductReading } from './reading.js';

export interface IntakeFile {
  /** Relative path with `/`. */
  readonly path: string;
  readonly sha256: string;
  readonly reading?: FileReading;
  readonly problem?: { readonly line: number; readonly reason: string };
  /** Whether the content is what was once fetched, so that nothing changed though the stored bytes differ. */
  readonly asFetched?: boolean;
  /** Why a file is passed over, where it is. */
  readonly passedOver?: string;
}

/** What a person changed in the review table, by row key. */
export interface RowCorrection {
  readonly number?: string;
  readonly name?: string;
  readonly leaveOut?: boolean;
}

/** An item of the store that may be met. */
export interface KnownItem {
  readonly id: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly place: string;
  readonly newest: { readonly id: string; readonly label: string; readonly sha256: string };
}

export interface IntakeStore {
  byNumber(number: string): KnownItem | undefined;
  /** The one item of a place with this file name; case does not count. */
  byFile(place: string, fileName: string): KnownItem | undefined;
}

export type RowStatus =
  | { readonly kind: 'new' }
  | { readonly kind: 'newVersion'; readonly of: KnownItem }
  | { readonly kind: 'unchanged'; readonly of: KnownItem }
  | { readonly kind: 'leftOut' }
  /** It is changed, but custody does not allow it in; the item stays as it is. */
  | {
      readonly kind: 'refused';
      readonly of: KnownItem;
      readonly reason: string;
      readonly canOverwrite: boolean;
    }
  /** The same content as another row; that row stands for both. */
  | { readonly kind: 'sameAs'; readonly key: string }
  | { readonly kind: 'problem'; readonly line: number; readonly reason: string };

export type LinkTarget =
  | { readonly kind: 'row'; readonly key: string }
  | { readonly kind: 'item'; readonly item: KnownItem }
  | { readonly kind: 'gap' };

export interface PlannedLink {
  /** The placeholder, or the product itself where it lives in the same file. */
  readonly product: ProductReading;
  readonly target: LinkTarget;
  /** Whether the target lives in the same file. */
  readonly carried: boolean;
  readonly allowance?: Allowance;
  readonly occurrences: readonly { readonly name: string; readonly placement: Placement }[];
}

export interface IntakeRow {
  /** Path and product instance, `head.stp#40`. */
  readonly key: string;
  readonly path: string;
  readonly product: ProductReading;
  readonly number: string;
  readonly name: string;
  /** Key of the row whose file this product lives in. */
  readonly carrier?: string;
  readonly status: RowStatus;
  readonly links: readonly PlannedLink[];
  /** Sentences for the person who reviews. */
  readonly notes: readonly string[];
}

export interface IntakePlan {
  readonly rows: readonly IntakeRow[];
  readonly problems: readonly { readonly file: string; readonly line: number; readonly reason: string }[];
  readonly gaps: readonly { readonly file: string; readonly locator: string }[];
  readonly passedOver: readonly { readonly file: string; readonly reason: string }[];
}

export interface IntakeOptions {
  readonly files: readonly IntakeFile[];
  readonly store: IntakeStore;
  readonly corrections?: ReadonlyMap<string, RowCorrection>;
  /** Goes before every number that was not corrected by hand. */
  readonly prefix?: string;
  /** Place in the store that the folder becomes. */
  readonly place: string;
}

interface Draft {
  readonly key: string;
  readonly file: IntakeFile;
  readonly reading: FileReading;
  readonly index: number;
  readonly product: ProductReading;
  readonly carrierKey?: string;
  number: string;
  name: string;
  status: RowStatus;
  links: PlannedLink[];
  notes: string[];
}

/** Plans an intake. `O(files + products + uses)`. */
export function planIntake(options: IntakeOptions): IntakePlan {
  const readable = options.files.filter((file) => file.reading !== undefined);
  const index = new FileIndex(readable.map((file) => file.path));
  const drafts = draftRows(readable, index);
  proposeNumbers(drafts, index, options);
  decideStatus(drafts, options);
  const byKey = new Map(drafts.map((draft) => [draft.key, draft]));
  const rootOf = new Map(
    drafts.flatMap((draft) => (draft.carrierKey === undefined ? [[draft.file.path, draft.key]] : [])),
  );
  const byPathAndId = new Map(
    drafts.map((draft) => [pathAndId(draft.file.path, draft.product.id), draft.key]),
  );
  for (const draft of drafts) draft.links = linksOf(draft, { index, byKey, rootOf, byPathAndId, options });
  refuseCycles(byKey);
  return {
    rows: drafts.map(toRow),
    problems: [
      ...options.files.flatMap((file) => (file.problem ? [{ file: file.path, ...file.problem }] : [])),
      ...drafts.flatMap(({ file, status }) =>
        status.kind === 'problem' ? [{ file: file.path, line: status.line, reason: status.reason }] : [],
      ),
    ],
    gaps: drafts
      .filter(comesIn)
      .flatMap((draft) =>
        draft.links.flatMap((link) =>
          link.target.kind === 'gap'
            ? [{ file: draft.file.path, locator: link.product.locator ?? link.product.id }]
            : [],
        ),
      ),
    passedOver: options.files.flatMap((file) =>
      file.passedOver ? [{ file: file.path, reason: file.passedOver }] : [],
    ),
  };
}

/** Whether a row leads to something in the store after the intake. */
export function comesIn(row: { readonly status: RowStatus }): boolean {
  const { kind } = row.status;
  return kind === 'new' || kind === 'newVersion' || kind === 'unchanged' || kind === 'refused';
}

/** Place of a file: the intake's place with the file's folders below. */
export function placeOf(place: string, path: string): string {
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  return folder === '' ? place : `${place === '/' ? '' : place}/${folder}`;
}

function pathAndId(path: string, id: string): string {
  return JSON.stringify([path, id]);
}

function rowKey(path: string, product: ProductReading): string {
  return `${path}#${product.ref}`;
}

/** A reference of a file to itself is no reference: the product is defined right here. */
function definesItself(file: IntakeFile, product: ProductReading, index: FileIndex): boolean {
  if (product.locator === undefined) return true;
  const match = index.find(product.locator, file.path);
  return match.kind === 'found' && match.path === file.path;
}

function draftRows(files: readonly IntakeFile[], index: FileIndex): Draft[] {
  return files.flatMap((file): Draft[] => {
    const { reading } = file;
    const root = reading?.products[reading.root];
    if (!reading || !root) return [];
    const own = reading.products.flatMap((product, at) =>
      at === reading.root || definesItself(file, product, index) ? [{ product, at }] : [],
    );
    // The root first, so that a carrier always stands before what it carries.
    own.sort((a, b) => Number(b.at === reading.root) - Number(a.at === reading.root) || a.at - b.at);
    return own.map(({ product, at }) => ({
      key: rowKey(file.path, product),
      file,
      reading,
      index: at,
      product,
      ...(at === reading.root ? {} : { carrierKey: rowKey(file.path, root) }),
      number: '',
      name: '',
      status: { kind: 'new' },
      links: [],
      notes: [],
    }));
  });
}

/**
 * The number is the product's id in its own file. Some systems write the same id into every file and the real
 * one only where it is used; so where an id is doubled, or where the name of the file and those who refer to it
 * agree on another, that other one is proposed.
 */
function proposeNumbers(drafts: readonly Draft[], index: FileIndex, options: IntakeOptions): void {
  const referrers = new Map<string, Set<string>>();
  for (const { file, reading } of drafts) {
    for (const product of reading.products) {
      if (product.locator === undefined) continue;
      const match = index.find(product.locator, file.path);
      const name = product.id || product.name;
      if (match.kind !== 'found' || !name) continue;
      referrers.set(match.path, (referrers.get(match.path) ?? new Set()).add(name));
    }
  }
  const contentsById = new Map<string, Set<string>>();
  for (const draft of drafts) {
    const id = numberKey(ownId(draft));
    contentsById.set(id, (contentsById.get(id) ?? new Set()).add(draft.file.sha256));
  }
  const seenInFile = new Map<string, number>();
  for (const draft of drafts) {
    const own = uniqueInFile(draft, seenInFile);
    const [calledByOthers, ...disagreeing] =
      draft.carrierKey === undefined ? (referrers.get(draft.file.path) ?? []) : [];
    const agreed = disagreeing.length === 0 ? calledByOthers : undefined;
    const doubled = (contentsById.get(numberKey(own))?.size ?? 0) > 1;
    let proposed = own;
    if (agreed !== undefined && numberKey(agreed) !== numberKey(own)) {
      if (doubled || numberKey(agreed) === numberKey(stemOf(draft.file.path))) proposed = agreed;
    } else if (doubled && draft.carrierKey === undefined && agreed === undefined)
      proposed = stemOf(draft.file.path);
    if (proposed !== own)
      draft.notes.push(`The file calls itself '${own}'; proposed is the name by which it is used.`);
    const correction = options.corrections?.get(draft.key);
    draft.number = correction?.number ?? `${options.prefix ?? ''}${proposed}`;
    const ownName = draft.product.name;
    draft.name = correction?.name ?? (ownName === '' || ownName === own ? draft.number : ownName);
  }
}

/** Two products of one file that share an id are told apart by a count. */
function uniqueInFile(draft: Draft, seen: Map<string, number>): string {
  const own = ownId(draft);
  const key = `${draft.file.path}#${numberKey(own)}`;
  const count = (seen.get(key) ?? 0) + 1;
  seen.set(key, count);
  return count === 1 ? own : `${own}-${count}`;
}

function ownId(draft: Draft): string {
  return draft.product.id || draft.product.name || stemOf(draft.file.path);
}

function decideStatus(drafts: readonly Draft[], options: IntakeOptions): void {
  const byNumber = new Map<string, Draft>();
  const byKey = new Map<string, Draft>();
  for (const draft of drafts) {
    byKey.set(draft.key, draft);
    draft.status = statusOf(draft, { byNumber, byKey, options });
    if (comesIn(draft)) byNumber.set(numberKey(draft.number), draft);
  }
}

function statusOf(
  draft: Draft,
  {
    byNumber,
    byKey,
    options,
  }: { byNumber: Map<string, Draft>; byKey: Map<string, Draft>; options: IntakeOptions },
): RowStatus {
  if (options.corrections?.get(draft.key)?.leaveOut) return { kind: 'leftOut' };
  const carrier = draft.carrierKey === undefined ? undefined : byKey.get(draft.carrierKey);
  if (carrier?.status.kind === 'leftOut') return { kind: 'leftOut' };
  if (carrier?.status.kind === 'problem') {
    return {
      kind: 'problem',
      line: 0,
      reason: `lives in the file of '${carrier.number}', which cannot come in`,
    };
  }
  const twin = byNumber.get(numberKey(draft.number));
  if (twin && twin.file.sha256 === draft.file.sha256 && twin.product.ref === draft.product.ref) {
    return { kind: 'sameAs', key: twin.key };
  }
  if (twin) {
    return {
      kind: 'problem',
      line: 0,
      reason: `number '${draft.number}' is also that of a different product in ${twin.file.path}; give one of them another number, or leave one out`,
    };
  }
  const invalid = validateNumber(draft.number);
  if (invalid) return { kind: 'problem', line: 0, reason: `number '${draft.number}': ${invalid}` };
  const known = options.store.byNumber(draft.number);
  if (!known) return { kind: 'new' };
  if (known.newest.sha256 === draft.file.sha256 || draft.file.asFetched)
    return { kind: 'unchanged', of: known };
  if (known.fileName && base(draft.file.path).toLowerCase() !== known.fileName.toLowerCase()) {
    draft.notes.push(`${known.number} is in the store as ${known.fileName}; this file has another name.`);
  }
  if (known.number !== draft.number) draft.notes.push(`In the store the number is written ${known.number}.`);
  return { kind: 'newVersion', of: known };
}

interface LinkScope {
  readonly index: FileIndex;
  readonly byKey: ReadonlyMap<string, Draft>;
  /** Key of the row that a file is about, by path. */
  readonly rootOf: ReadonlyMap<string, string>;
  /** Keys of rows by path and product id, for references to a product that is not what its file is about. */
  readonly byPathAndId: ReadonlyMap<string, string>;
  readonly options: IntakeOptions;
}

function linksOf(draft: Draft, scope: LinkScope): PlannedLink[] {
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

/** Files that contain one another in a circle cannot come in; the chain is named. */
function refuseCycles(byKey: ReadonlyMap<string, Draft>): void {
  const done = new Set<string>();
  for (const start of byKey.keys()) {
    const path: { key: string; next: number }[] = done.has(start) ? [] : [{ key: start, next: 0 }];
    const onPath = new Set<string>([start]);
    for (let top = path.at(-1); top; top = path.at(-1)) {
      const link = byKey.get(top.key)?.links[top.next++];
      if (link === undefined) {
        done.add(top.key);
        onPath.delete(top.key);
        path.pop();
      } else if (link.target.kind === 'row' && onPath.has(link.target.key)) {
        breakCycle(
          [
            ...path.slice(path.findIndex(({ key }) => link.target.kind === 'row' && key === link.target.key)),
          ].map(({ key }) => key),
          byKey,
        );
      } else if (link.target.kind === 'row' && !done.has(link.target.key)) {
        onPath.add(link.target.key);
        path.push({ key: link.target.key, next: 0 });
      }
    }
  }
}

function breakCycle(keys: readonly string[], byKey: ReadonlyMap<string, Draft>): void {
  const drafts = keys.flatMap((key) => byKey.get(key) ?? []);
  const chain = [...drafts, drafts[0]].map((draft) => draft?.number).join(' › ');
  const reason = `contains itself: ${chain}`;
  for (const draft of drafts) draft.status = { kind: 'problem', line: 0, reason };
  for (const draft of byKey.values()) {
    if (draft.carrierKey !== undefined && keys.includes(draft.carrierKey))
      draft.status = { kind: 'problem', line: 0, reason };
    draft.links = draft.links.map((link) =>
      link.target.kind === 'row' && keys.includes(link.target.key)
        ? { ...link, target: { kind: 'gap' } }
        : link,
    );
  }
}

function toRow(draft: Draft): IntakeRow {
  return {
    key: draft.key,
    path: draft.file.path,
    product: draft.product,
    number: draft.number,
    name: draft.name,
    ...(draft.carrierKey === undefined ? {} : { carrier: draft.carrierKey }),
    status: draft.status,
    links: draft.links,
    notes: draft.notes,
  };
}
