/**
 * What deriving a variant will do, as plain data: for each item of the origin's tree whether the variant shares
 * or copies it, why, and what the copies will be called.
 *
 * Two rules turn a few decisions into a whole plan:
 * - copying an item means copying every assembly between it and the top, for they must refer to the copy;
 * - products that live in one file go together, for the file can only be copied whole.
 * Seen from the other side: what is decided to be shared takes along all that it is made of.
 */
import { applyRules, type NameRule } from '../naming/rules.js';
import { fileNameFor, numberKey, uniqueFileName, validateNumber } from '../numbering/number.js';
import type { Source } from '../model/reading.js';
import { nameFold } from '../names/portable.js';

export type Decision = 'share' | 'copy';

/** One item version of the origin's tree. The top comes first. */
export interface OriginNode {
  readonly versionId: string;
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly source: Source;
  /** What the file of this version calls the product; a name that only repeats it is not a name of its own. */
  readonly idInFile: string;
  /** Version whose file holds this product, where it has no file of its own. */
  readonly carrierVersion?: string;
  /** Versions it is made of. */
  readonly children: readonly string[];
  /** Items that it shows, where it is a drawing: it goes with them, and they do not depend on it. */
  readonly depicts?: readonly string[];
  /** Whether it is a drawing or a document: a frame, a table or a picture that others draw on stays what it is. */
  readonly isPaper?: boolean;
}

export interface DerivationRequest {
  readonly nodes: readonly OriginNode[];
  /** Decisions made by hand, by item. */
  readonly decisions: ReadonlyMap<string, Decision>;
  /** Where nothing was decided: the proposal, or the same for all. */
  readonly otherwise: Decision | 'propose';
  /** What makes the copies' names of those of the origin. */
  readonly rules: readonly NameRule[];
  /** Numbers for copies that no rule gives another number, in the order of the lines: those of a scheme. */
  readonly spare?: readonly string[];
  /** Names made by hand, by item. */
  readonly renamed: ReadonlyMap<string, { readonly number?: string; readonly name?: string }>;
  /** Number keys in use, see `numberKey`. */
  readonly takenNumbers: ReadonlySet<string>;
  /** File names in use at the variant's place, as `nameFold` makes them. */
  readonly takenFileNames: ReadonlySet<string>;
}

/** Why a line is shared or copied. */
export type Reason =
  | { readonly kind: 'top' }
  | { readonly kind: 'decided' }
  | { readonly kind: 'all' }
  | { readonly kind: 'notChosen' }
  | { readonly kind: 'bought' }
  | { readonly kind: 'designed' }
  /** It is part of something that was decided to be shared, or lives in the same file. */
  | { readonly kind: 'within'; readonly number: string }
  /** It contains something that is copied. */
  | { readonly kind: 'contains'; readonly number: string }
  /** Its file is copied with the carrier. */
  | { readonly kind: 'livesIn'; readonly number: string }
  /** It is the drawing of something that is copied, or of nothing that is. */
  | { readonly kind: 'drawingOf'; readonly number: string }
  | { readonly kind: 'drawingStays' }
  /** A frame, a table or a picture that something draws on. */
  | { readonly kind: 'drawnOn' }
  /** Something that lives in its file is copied. */
  | { readonly kind: 'carries'; readonly number: string };

export interface DerivationLine {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly decision: Decision;
  readonly reason: Reason;
  /** Whether the decision follows from others and cannot be changed by itself. */
  readonly forced: boolean;
  /** The copy's names; absent where shared. */
  readonly copy?: { readonly number: string; readonly name: string; readonly fileName: string };
  /** What stands in the way of carrying this out: a decision that cannot be kept, or a name that cannot be given. */
  readonly clash?: { readonly of: 'decision' | 'name'; readonly says: string };
}

export interface DerivationPlan {
  readonly lines: readonly DerivationLine[];
  /** Whether nothing stands in the way. */
  readonly ready: boolean;
}

/** Plans a derivation. `O(nodes + uses)`. */
export function planDerivation(request: DerivationRequest): DerivationPlan {
  const items = groupByItem(request.nodes);
  const resolved = decide(items, request);
  const names = nameCopies(items, resolved, request);
  const lines = [...items.values()].map((item): DerivationLine => {
    const outcome = resolved.get(item.itemId);
    const decision = outcome?.decision ?? 'share';
    const reason = outcome?.reason ?? { kind: 'notChosen' };
    const name = names.get(item.itemId);
    const wanted = request.decisions.get(item.itemId);
    const overruled =
      wanted === 'share' && decision === 'copy' ? `cannot be shared: ${sayReason(reason)}` : undefined;
    const clash =
      overruled !== undefined
        ? ({ of: 'decision', says: overruled } as const)
        : name?.clash !== undefined
          ? ({ of: 'name', says: name.clash } as const)
          : undefined;
    return {
      itemId: item.itemId,
      number: item.number,
      name: item.name,
      decision,
      reason,
      forced:
        reason.kind === 'top' ||
        reason.kind === 'contains' ||
        reason.kind === 'livesIn' ||
        reason.kind === 'carries',
      ...(decision === 'copy' && name ? { copy: name.copy } : {}),
      ...(clash === undefined ? {} : { clash }),
    };
  });
  return { lines, ready: lines.every((line) => line.clash === undefined) };
}

/** Every number that a plan may come to give: look up which of them are taken, then plan. `O(nodes)`. */
export function numbersToGive({
  nodes,
  rules,
  spare = [],
  renamed,
}: Pick<DerivationRequest, 'nodes' | 'rules' | 'spare' | 'renamed'>): string[] {
  const numbers = new Set([...renamed.values()].flatMap(({ number }) => number ?? []));
  for (const node of nodes) numbers.add(applyRules(node.number, rules, 'numbers'));
  return [...numbers, ...spare];
}

/** A reason as the end of a sentence. */
export function sayReason(reason: Reason): string {
  switch (reason.kind) {
    case 'top':
      return 'it is what the variant is made from';
    case 'decided':
      return 'decided by hand';
    case 'all':
      return 'everything is copied';
    case 'notChosen':
      return 'not chosen for copying';
    case 'bought':
      return 'bought';
    case 'designed':
      return 'own design';
    case 'within':
      return `it belongs to ${reason.number}, which is shared`;
    case 'contains':
      return `it contains ${reason.number}, which is copied`;
    case 'livesIn':
      return `it lives in the file of ${reason.number}, which is copied`;
    case 'drawingOf':
      return `it is the drawing of ${reason.number}, which is copied`;
    case 'drawingStays':
      return 'what it shows is shared';
    case 'drawnOn':
      return 'it is only drawn on';
    case 'carries':
      return `${reason.number}, which is copied, lives in its file`;
  }
}

interface OriginItem {
  readonly itemId: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly source: Source;
  readonly idInFile: string;
  readonly isTop: boolean;
  readonly isPaper: boolean;
  readonly depicts: Set<string>;
  readonly parents: Set<string>;
  readonly children: Set<string>;
  readonly carriers: Set<string>;
  readonly carried: Set<string>;
}

function groupByItem(nodes: readonly OriginNode[]): Map<string, OriginItem> {
  const items = new Map<string, OriginItem>();
  const itemOf = new Map(nodes.map((node) => [node.versionId, node.itemId]));
  for (const [index, node] of nodes.entries()) {
    if (items.has(node.itemId)) continue;
    const { itemId, number, name, fileName, source, idInFile, isPaper = false } = node;
    items.set(itemId, {
      isPaper,
      itemId,
      number,
      name,
      fileName,
      source,
      idInFile,
      isTop: index === 0,
      depicts: new Set(),
      parents: new Set(),
      children: new Set(),
      carriers: new Set(),
      carried: new Set(),
    });
  }
  for (const node of nodes) {
    for (const shown of node.depicts ?? []) items.get(node.itemId)?.depicts.add(shown);
    for (const child of node.children) {
      const childItem = items.get(itemOf.get(child) ?? '');
      childItem?.parents.add(node.itemId);
      if (childItem) items.get(node.itemId)?.children.add(childItem.itemId);
    }
    const carrier = node.carrierVersion === undefined ? undefined : itemOf.get(node.carrierVersion);
    if (carrier === undefined) continue;
    items.get(node.itemId)?.carriers.add(carrier);
    items.get(carrier)?.carried.add(node.itemId);
  }
  return items;
}

function decide(
  items: ReadonlyMap<string, OriginItem>,
  request: DerivationRequest,
): Map<string, { decision: Decision; reason: Reason }> {
  const outcome = new Map<string, { decision: Decision; reason: Reason }>();
  const queue: OriginItem[] = [];
  const copy = (item: OriginItem | undefined, reason: Reason): void => {
    if (!item || outcome.get(item.itemId)?.decision === 'copy') return;
    outcome.set(item.itemId, { decision: 'copy', reason });
    queue.push(item);
  };
  const sharedWith = followShares(items, request.decisions);
  for (const item of items.values()) {
    const first = initialDecision(item, sharedWith.get(item.itemId), request);
    if (first.decision === 'copy') copy(item, first.reason);
    else outcome.set(item.itemId, first);
  }
  const spread = (): void => {
    for (let item = queue.shift(); item; item = queue.shift()) take(item);
  };
  const take = (item: OriginItem): void => {
    for (const parent of item.parents) copy(items.get(parent), { kind: 'contains', number: item.number });
    for (const carrier of item.carriers) copy(items.get(carrier), { kind: 'carries', number: item.number });
    for (const carried of item.carried) copy(items.get(carried), { kind: 'livesIn', number: item.number });
  };
  spread();
  for (const drawing of items.values()) {
    if (drawing.depicts.size === 0 || drawing.isTop || request.decisions.has(drawing.itemId)) continue;
    // Copied already, for something that it draws on is.
    if (outcome.get(drawing.itemId)?.decision === 'copy') continue;
    const followed = followModel(drawing, { items, outcome, request });
    if (followed.decision === 'copy') {
      copy(drawing, followed.reason);
      spread();
    } else outcome.set(drawing.itemId, followed);
  }
  return outcome;
}

/** A drawing nobody decided about is copied with the first of what it shows that is. */
function followModel(
  drawing: OriginItem,
  {
    items,
    outcome,
    request,
  }: {
    items: ReadonlyMap<string, OriginItem>;
    outcome: ReadonlyMap<string, { decision: Decision }>;
    request: DerivationRequest;
  },
): { decision: Decision; reason: Reason } {
  if (request.otherwise === 'share') return { decision: 'share', reason: { kind: 'notChosen' } };
  const copied = [...drawing.depicts].find((shown) => outcome.get(shown)?.decision === 'copy');
  const model = copied === undefined ? undefined : items.get(copied);
  return model
    ? { decision: 'copy', reason: { kind: 'drawingOf', number: model.number } }
    : { decision: 'share', reason: { kind: 'drawingStays' } };
}

/**
 * What goes along with items that were decided to be shared, where nothing else was decided for it: all that they are
 * made of, and what lives in the same files. A shared assembly can contain nothing else.
 *
 * @returns number of the item decided, by the item that goes along
 */
function followShares(
  items: ReadonlyMap<string, OriginItem>,
  decisions: ReadonlyMap<string, Decision>,
): Map<string, string> {
  const along = new Map<string, string>();
  for (const decided of items.values()) {
    if (decisions.get(decided.itemId) !== 'share') continue;
    const waiting = [decided];
    for (let item = waiting.pop(); item; item = waiting.pop()) {
      for (const id of [...item.children, ...item.carried, ...item.carriers]) {
        const next = items.get(id);
        if (!next || next.isTop || along.has(id) || decisions.has(id)) continue;
        along.set(id, decided.number);
        waiting.push(next);
      }
    }
  }
  return along;
}

function initialDecision(
  item: OriginItem,
  sharedWith: string | undefined,
  request: DerivationRequest,
): { decision: Decision; reason: Reason } {
  if (item.isTop) return { decision: 'copy', reason: { kind: 'top' } };
  const decided = request.decisions.get(item.itemId);
  if (decided) return { decision: decided, reason: { kind: 'decided' } };
  if (item.depicts.size > 0) return { decision: 'share', reason: { kind: 'drawingStays' } };
  if (sharedWith !== undefined) return { decision: 'share', reason: { kind: 'within', number: sharedWith } };
  if (request.otherwise === 'copy') return { decision: 'copy', reason: { kind: 'all' } };
  if (request.otherwise === 'share') return { decision: 'share', reason: { kind: 'notChosen' } };
  if (item.isPaper) return { decision: 'share', reason: { kind: 'drawnOn' } };
  return item.source === 'bought'
    ? { decision: 'share', reason: { kind: 'bought' } }
    : { decision: 'copy', reason: { kind: 'designed' } };
}

interface CopyName {
  readonly copy: { readonly number: string; readonly name: string; readonly fileName: string };
  readonly clash?: string;
}

function nameCopies(
  items: ReadonlyMap<string, OriginItem>,
  outcome: ReadonlyMap<string, { decision: Decision }>,
  request: DerivationRequest,
): Map<string, CopyName> {
  const names = new Map<string, CopyName>();
  const given = new Map<string, string>();
  const fileNames = new Set(request.takenFileNames);
  const spare = (request.spare ?? []).values();
  for (const item of items.values()) {
    if (outcome.get(item.itemId)?.decision !== 'copy') continue;
    const renamed = request.renamed.get(item.itemId);
    const ruled = applyRules(item.number, request.rules, 'numbers');
    const number = renamed?.number ?? (ruled === item.number ? (spare.next().value ?? ruled) : ruled);
    const name = renamed?.name ?? nameOfCopy(item, number, request.rules);
    const fileName =
      item.carriers.size > 0 ? '' : uniqueFileName(fileNameFor(number, endingOf(item.fileName)), fileNames);
    fileNames.add(nameFold(fileName));
    const twin = given.get(numberKey(number));
    given.set(numberKey(number), item.number);
    const clash = clashOf(number, item, twin, request);
    names.set(item.itemId, { copy: { number, name, fileName }, ...(clash === undefined ? {} : { clash }) });
  }
  return names;
}

/** A name that only repeats the number repeats the new one; any other has the rules for names applied. */
function nameOfCopy(item: OriginItem, number: string, rules: readonly NameRule[]): string {
  const repeats = [item.number, item.idInFile, ''].some((text) => numberKey(text) === numberKey(item.name));
  return repeats ? number : applyRules(item.name, rules, 'names');
}

function endingOf(fileName: string): string {
  const dot = fileName.lastIndexOf('.');
  return dot > 0 ? fileName.slice(dot) : '';
}

function clashOf(
  number: string,
  item: OriginItem,
  twin: string | undefined,
  request: DerivationRequest,
): string | undefined {
  const invalid = validateNumber(number);
  if (invalid) return invalid;
  if (numberKey(number) === numberKey(item.number)) return 'needs a new number; this is the origin’s';
  if (request.takenNumbers.has(numberKey(number))) return `${number} is already in the store`;
  if (twin !== undefined) return `the copy of ${twin} gets the same number`;
  return undefined;
}
