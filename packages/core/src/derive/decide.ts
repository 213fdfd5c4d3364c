import type { OriginItem, OriginTree } from './items.js';
import type { Decision, DerivationRequest, Reason } from './types.js';

export interface Outcome {
  readonly decision: Decision;
  readonly reason: Reason;
}

/**
 * What becomes of each item wherever nothing else was decided about one of its spots. `O(nodes + uses)`
 *
 * Copying spreads upwards to the top and to all that lives in the same file; what is swapped or left out lets its parents be
 * copied, and what only stood in it falls away.
 */
export function decide(tree: OriginTree, request: DerivationRequest): Map<string, Outcome> {
  const { items } = tree;
  const outcome = new Map<string, Outcome>();
  const queue: OriginItem[] = [];
  const copy = (item: OriginItem | undefined, reason: Reason): void => {
    if (!item || outcome.get(item.itemId)?.decision === 'copy') return;
    outcome.set(item.itemId, { decision: 'copy', reason });
    queue.push(item);
  };
  const isGone = (id: string): boolean => {
    const decided = request.decisions.get(id);
    return (decided === 'swap' || decided === 'omit') && items.get(id)?.isTop !== true;
  };
  const standing = stillStanding(tree, request, isGone);
  const spreadTo = (id: string, reason: Reason): void => {
    if (standing.has(id) && !isGone(id)) copy(items.get(id), reason);
  };
  const sharedWith = followShares(items, request.decisions);
  for (const item of items.values()) {
    const decided = request.decisions.get(item.itemId);
    if (decided !== undefined && isGone(item.itemId)) {
      outcome.set(item.itemId, { decision: decided, reason: { kind: 'decided' } });
      continue;
    }
    if (!standing.has(item.itemId)) {
      outcome.set(item.itemId, { decision: 'omit', reason: { kind: 'unused' } });
      continue;
    }
    const first = initialDecision(item, sharedWith.get(item.itemId), request);
    if (first.decision === 'copy') copy(item, first.reason);
    else outcome.set(item.itemId, first);
  }
  let taken = 0;
  const spread = (): void => {
    for (let item = queue[taken]; item; item = queue[++taken]) take(item);
  };
  const take = (item: OriginItem): void => {
    for (const parent of item.parents) spreadTo(parent, { kind: 'contains', number: item.number });
    // A file that something copied lives in is copied, whatever becomes of the product that it is about.
    for (const carrier of item.carriers) copy(items.get(carrier), { kind: 'carries', number: item.number });
    for (const carried of item.carried) spreadTo(carried, { kind: 'livesIn', number: item.number });
  };
  for (const { itemId, reason } of changesIn(tree, request, isGone)) spreadTo(itemId, reason);
  spread();
  for (const drawing of items.values()) {
    if (drawing.depicts.size === 0 || drawing.isTop || request.decisions.has(drawing.itemId)) continue;
    if (!standing.has(drawing.itemId)) continue;
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

/** Items that something of the variant may still use: all but what only stands in something that goes. */
function stillStanding(
  { byVersion, used }: OriginTree,
  { nodes, uses = [] }: DerivationRequest,
  isGone: (itemId: string) => boolean,
): ReadonlySet<string> {
  // What goes elsewhere may stay in one spot.
  const kept = new Set(
    uses.flatMap(({ chain, decision }) =>
      decision === 'copy' || decision === 'share' ? (chain.at(-1) ?? []) : [],
    ),
  );
  const seen = new Set<string>();
  const standing = new Set<string>();
  const waiting = nodes.filter(({ versionId }, at) => at === 0 || !used.has(versionId));
  for (let node = waiting.pop(); node; node = waiting.pop()) {
    if (seen.has(node.versionId)) continue;
    seen.add(node.versionId);
    standing.add(node.itemId);
    if (isGone(node.itemId) && !kept.has(node.itemId)) continue;
    node.children.forEach((child, at) => {
      const below = node.leftOut?.includes(at) === true ? undefined : byVersion.get(child);
      if (below) waiting.push(below);
    });
  }
  return standing;
}

/** Items that are copied because something in them goes. */
function* changesIn(
  { items, byVersion }: OriginTree,
  { nodes, decisions }: DerivationRequest,
  isGone: (itemId: string) => boolean,
): Generator<{ readonly itemId: string; readonly reason: Reason }> {
  for (const item of items.values()) {
    if (!isGone(item.itemId)) continue;
    const how = decisions.get(item.itemId) === 'swap' ? 'swapped' : 'left out';
    for (const itemId of item.parents)
      yield { itemId, reason: { kind: 'changes', number: item.number, how } };
  }
  for (const { itemId, children, leftOut = [] } of nodes) {
    for (const at of leftOut) {
      const number = byVersion.get(children[at] ?? '')?.number ?? '';
      yield { itemId, reason: { kind: 'changes', number, how: 'left out' } };
    }
  }
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
