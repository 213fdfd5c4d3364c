/**
 * What deriving a variant will do, as plain data: for each item of the origin's tree whether the variant shares, copies,
 * swaps or omits it, why, and what the copies will be called; and for each copy that is made of other things than the origin's
 * parts and their copies, of what.
 *
 * Two rules turn a few decisions into a whole plan:
 * - copying an item means copying every assembly between it and the top, for they must refer to the copy; so does anything
 *   that is swapped, left out or added in them;
 * - products that live in one file go together, for the file can only be copied whole.
 * Seen from the other side: what is decided to be shared takes along all that it is made of.
 */
import { applyRules } from '../naming/rules.js';
import { addTo } from '../collections.js';
import { structureOf, type FurtherCopy, type VariantStructure } from './apart.js';
import { nameCopies, type Unnamed } from './copy-names.js';
import { decide, type Outcome } from './decide.js';
import { originTree, type OriginItem, type OriginTree } from './items.js';
import { sayReason } from './reasons.js';
import type {
  Decision,
  DerivationLine,
  DerivationPlan,
  DerivationRequest,
  PlanSpot,
  Reason,
} from './types.js';

/** Plans a derivation. `O(nodes + uses)`, and for each decision about a spot what lies on the way to it. */
export function planDerivation(request: DerivationRequest): DerivationPlan {
  return planWithSpots(request).plan;
}

/** As `planDerivation`, with what says the variant's tree for showing it: `O(lines of the tree)` when it is asked. */
export function planWithSpots(request: DerivationRequest): {
  readonly plan: DerivationPlan;
  readonly spots: () => Iterable<PlanSpot>;
} {
  const { lines, spots, versions } = sketchDerivation(request);
  return { plan: { lines, ...versions(), ready: lines.every(({ clash }) => clash === undefined) }, spots };
}

/** What is shown of a plan, without what is written when it is carried out. `O(nodes + uses)` */
export function sketchDerivation(
  request: DerivationRequest,
): Pick<DerivationPlan, 'lines'> & Pick<VariantStructure, 'spots' | 'versions'> {
  const tree = originTree(request.nodes);
  const outcome = decide(tree, request);
  const structure = structureOf(tree, outcome, request);
  const drafts = draftLines(tree, outcome, structure);
  const toName: Unnamed[] = drafts.filter(({ decision }) => decision === 'copy');
  const names = nameCopies(toName, request);
  const lines = drafts.map((draft): DerivationLine => {
    const { key, item, decision, reason } = draft;
    const { itemId, number, name } = item;
    const named = decision === 'copy' ? names.get(key) : undefined;
    const isOverruled = outcome.get(itemId)?.decision === 'copy';
    const spot = structure.clashes.get(itemId);
    const clash = clashOf(draft, { request, isOverruled, name: named?.clash, spot });
    const to = decision === 'swap' ? request.swaps?.get(itemId) : undefined;
    const line = { key, itemId, number, name, decision, reason, forced: FORCED.has(reason.kind) };
    if (!to && clash === undefined) return named ? { ...line, copy: named.copy } : line;
    return {
      ...line,
      ...(named ? { copy: named.copy } : {}),
      ...(to ? { to } : {}),
      ...(clash === undefined ? {} : { clash }),
    };
  });
  return { lines, spots: structure.spots, versions: structure.versions };
}

/** A line for each item, and for each further copy of it. */
function draftLines(
  { items }: OriginTree,
  outcome: ReadonlyMap<string, Outcome>,
  { further, copied, shared }: VariantStructure,
): Draft[] {
  const furtherOf = new Map<string, FurtherCopy[]>();
  for (const copy of further) addTo(furtherOf, copy.itemId, copy);
  const drafts: Draft[] = [];
  for (const item of items.values()) {
    const { decision, reason } = firstLine(item, outcome.get(item.itemId), { copied, shared });
    drafts.push({ key: item.itemId, item, decision, reason });
    const apart = new Map(furtherOf.get(item.itemId)?.map((copy) => [copy.key, copy]));
    for (const { key, chain } of apart.values())
      drafts.push({ key, item, decision: 'copy', reason: { kind: 'apart', chain } });
  }
  return drafts;
}

interface Draft {
  readonly key: string;
  readonly item: OriginItem;
  readonly decision: Decision;
  readonly reason: Reason;
}

const FORCED: ReadonlySet<Reason['kind']> = new Set([
  'top',
  'contains',
  'changes',
  'livesIn',
  'carries',
  'unused',
  'apart',
]);

/** What an item's own line says: what was decided about it, as far as the variant has it at all. */
function firstLine(
  item: OriginItem,
  outcome: Outcome | undefined,
  {
    copied,
    shared,
  }: { readonly copied: ReadonlyMap<string, Reason | undefined>; readonly shared: ReadonlySet<string> },
): Outcome {
  const decided = outcome ?? { decision: 'share', reason: { kind: 'notChosen' } };
  if (copied.has(item.itemId)) {
    if (decided.decision === 'copy') return decided;
    return { decision: 'copy', reason: copied.get(item.itemId) ?? { kind: 'decided' } };
  }
  if (decided.decision === 'omit' || decided.decision === 'swap') return decided;
  if (shared.has(item.itemId))
    return decided.decision === 'share' ? decided : { decision: 'share', reason: { kind: 'decided' } };
  return { decision: 'omit', reason: { kind: 'unused' } };
}

function clashOf(
  { key, item, reason }: Draft,
  {
    request,
    isOverruled,
    name,
    spot,
  }: {
    readonly request: DerivationRequest;
    /** Whether the item is copied, whatever was decided about it. */
    readonly isOverruled: boolean;
    readonly name: string | undefined;
    readonly spot: string | undefined;
  },
): DerivationLine['clash'] {
  const wanted = request.decisions.get(item.itemId);
  if (key === item.itemId && spot !== undefined) return { of: 'decision', says: spot };
  if (wanted !== undefined && wanted !== 'copy' && isOverruled && key === item.itemId)
    return { of: 'decision', says: `cannot be ${DONE[wanted]}: ${sayReason(reason)}` };
  if (wanted === 'swap' && !request.swaps?.has(item.itemId))
    return { of: 'decision', says: 'it is not said what takes its place' };
  return name === undefined ? undefined : { of: 'name', says: name };
}

const DONE: Readonly<Record<Decision, string>> = {
  share: 'shared',
  copy: 'copied',
  swap: 'swapped',
  omit: 'left out',
};

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
