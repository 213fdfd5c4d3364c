/**
 * What a variant is made of where its spots were decided apart: one item may be copied in one branch and shared, swapped or left
 * out in another, so that its parents become different things in different places.
 *
 * Products that live in one file go together, so that what is copied is a *unit*: a file with all that lives in it. A unit is
 * copied once for each different content that it gets; copies of equal content are one. The first copy of an item keeps the
 * item's own line, a further one has a line of its own.
 */
import { DEFAULT_MAX_ROWS } from '../structure/explode.js';
import { StructureTooLarge } from '../structure/errors.js';
import type { Outcome } from './decide.js';
import { unitOf, type OriginTree, type OriginUnit } from './items.js';
import type {
  AddedUse,
  Becomes,
  ChangedVersion,
  DerivationRequest,
  MadeVersion,
  OriginNode,
  PlanSpot,
  Reason,
  UseDecision,
} from './types.js';

/** A copy besides the first of an item. */
export interface FurtherCopy {
  readonly key: string;
  readonly itemId: string;
  readonly chain: readonly string[];
}

export interface VariantStructure {
  /** What is written, which is worked out when it is asked for. */
  readonly versions: () => {
    readonly made: readonly MadeVersion[];
    readonly changed: readonly ChangedVersion[];
  };
  readonly further: readonly FurtherCopy[];
  /** Items of which the variant has a copy under the item's own key, and why where the item alone would not have it. */
  readonly copied: ReadonlyMap<string, Reason | undefined>;
  /** Items that the variant shares somewhere. */
  readonly shared: ReadonlySet<string>;
  /** What cannot be kept, by item. */
  readonly clashes: ReadonlyMap<string, string>;
  /** The tree of the variant, told from the origin's, the top first. */
  readonly spots: () => Iterable<PlanSpot>;
}

/** Decisions that begin at a spot: about its uses, about what is added, and about what lies deeper. */
interface Wishes {
  readonly below: Map<string, Wishes>;
  readonly uses: Map<string, UseDecision[]>;
  readonly added: AddedUse[];
}

/** What becomes of an occurrence; of what lives in the same file, it is not said in which copy before its content is known. */
type Standing =
  | Exclude<Becomes, { readonly kind: 'copy' }>
  | { readonly kind: 'copy'; readonly itemId: string; readonly copy: UnitCopy | 'here' };

const SHARED = { kind: 'share' } as const;
const NOTHING = { kind: 'nothing' } as const;

/** What a version of a unit's copy is made of. */
interface Content {
  readonly node: OriginNode;
  readonly uses: readonly (readonly Standing[])[];
  readonly added: readonly {
    readonly becomes: Standing;
    readonly name: string;
    readonly placement: AddedUse['placement'];
  }[];
}

/** What is made of a unit. */
interface UnitCopies {
  /** By their content. */
  readonly byContent: Map<string, UnitCopy>;
  /** The one that has the decisions of the items alone. */
  plain?: UnitCopy;
  /** The one that has the items' own keys. */
  first?: UnitCopy;
}

interface UnitCopy {
  readonly unit: OriginUnit;
  readonly contents: ReadonlyMap<string, Content>;
  readonly chain: readonly string[];
  readonly reason: Reason | undefined;
  /** Among all copies of all units. */
  readonly at: number;
  /** 1 for the one with the items' own keys; set at the end. */
  count: number;
}

export function structureOf(
  tree: OriginTree,
  outcome: ReadonlyMap<string, Outcome>,
  request: DerivationRequest,
): VariantStructure {
  return new Structure(tree, outcome, request).work();
}

class Structure {
  private readonly copies = new Map<OriginUnit, UnitCopies>();
  private readonly clashes = new Map<string, string>();
  private made = 0;
  /** Plain copies whose content is not known yet. */
  private readonly empty: { readonly unit: OriginUnit; readonly contents: Map<string, Content> }[] = [];

  constructor(
    private readonly tree: OriginTree,
    private readonly outcome: ReadonlyMap<string, Outcome>,
    private readonly request: DerivationRequest,
  ) {}

  work(): VariantStructure {
    const [top] = this.request.nodes;
    if (!top) throw new Error('a derivation has a top');
    const wishes = wishesOf(this.request);
    const begins = this.copyOf(top, wishes, []);
    this.fill();
    const reached = this.reach(begins);
    this.count(reached);
    return {
      versions: () => ({ made: this.madeVersions(reached), changed: this.changedVersions(reached) }),
      further: [...reached.copies].flatMap((copy) => this.furtherOf(copy)),
      copied: this.copiedItems(reached),
      shared: reached.shared,
      clashes: this.clashes,
      spots: () => this.spots(begins),
    };
  }

  private stands({ itemId }: OriginNode): boolean {
    const decision = this.outcome.get(itemId)?.decision;
    return decision === 'copy' || decision === 'share';
  }

  private copiesOf(unit: OriginUnit): UnitCopies {
    let copies = this.copies.get(unit);
    if (!copies) this.copies.set(unit, (copies = { byContent: new Map() }));
    return copies;
  }

  private childOf(node: OriginNode, at: number): OriginNode | undefined {
    return this.tree.byVersion.get(node.children[at] ?? '');
  }

  /** The copy of a unit with the decisions of the items alone. */
  private plainCopy(unit: OriginUnit): UnitCopy {
    const copies = this.copiesOf(unit);
    if (copies.plain) return copies.plain;
    // Known before its content is: what it uses may use something that lives in its file, and trees are deep.
    const contents = new Map<string, Content>();
    const copy: UnitCopy = { unit, contents, chain: [], reason: undefined, at: this.made++, count: 0 };
    copies.plain = copy;
    this.empty.push({ unit, contents });
    return copy;
  }

  /** Gives plain copies their content, and what that leads to. */
  private fill(): void {
    for (let next = this.empty.pop(); next; next = this.empty.pop())
      for (const [version, content] of this.contentsOf(next.unit, next.unit.root, undefined, []))
        next.contents.set(version, content);
  }

  /** The copy that stands at a spot. */
  private copyOf(entry: OriginNode, wishes: Wishes | undefined, chain: readonly string[]): UnitCopy {
    const unit = unitOf(this.tree, entry);
    const isCopied = this.outcome.get(unit.root.itemId)?.decision === 'copy';
    if (isCopied && !wishes) return this.plainCopy(unit);
    const { byContent } = this.copiesOf(unit);
    if (isCopied) {
      const plain = this.plainCopy(unit);
      this.fill();
      byContent.set(signatureOf(plain.contents), plain);
    }
    if (wishes && this.request.decisions.get(entry.itemId) === 'share')
      this.clashes.set(entry.itemId, 'cannot be shared: something in it was decided otherwise');
    const contents = this.contentsOf(unit, entry, wishes, chain);
    const signature = signatureOf(contents);
    const before = byContent.get(signature);
    if (before) return before;
    const reason = this.reasonOf(contents, entry);
    const copy: UnitCopy = { unit, contents, chain, reason, at: this.made++, count: 0 };
    byContent.set(signature, copy);
    return copy;
  }

  private contentsOf(
    unit: OriginUnit,
    entry: OriginNode,
    wishes: Wishes | undefined,
    chain: readonly string[],
  ): Map<string, Content> {
    const contents = new Map<string, Content>();
    const visit = (first: OriginNode, wishesThere: Wishes | undefined, chainTo: readonly string[]): void => {
      const waiting = [{ node: first, wished: wishesThere, at: chainTo }];
      for (let visited = waiting.pop(); visited; visited = waiting.pop()) {
        const { node, wished, at } = visited;
        const before = contents.get(node.versionId);
        if (before && !wished && isPlainIn.has(node.versionId)) continue;
        const next: { node: OriginNode; wished: Wishes | undefined }[] = [];
        const content = this.contentOf(node, { unit, wished, chain: at, next });
        if (!wished) isPlainIn.add(node.versionId);
        if (before) {
          if (sayContent(before) !== sayContent(content))
            this.clashes.set(
              node.itemId,
              `stands in several places of the file of ${unit.root.number}, which can only be alike; take the file apart first`,
            );
          continue;
        }
        contents.set(node.versionId, content);
        for (const each of next.toReversed())
          waiting.push({ ...each, at: each.wished ? [...at, each.node.itemId] : at });
      }
    };
    // What nothing was decided about is the same wherever it stands.
    const isPlainIn = new Set<string>();
    visit(unit.root, entry === unit.root ? wishes : undefined, chain);
    if (entry !== unit.root && wishes) visit(entry, wishes, chain);
    // What nothing in the file uses stays in it all the same.
    for (const node of unit.nodes)
      if (!unit.usedWithin.has(node.versionId) && !contents.has(node.versionId) && this.stands(node))
        visit(node, undefined, [...chain, node.itemId]);
    return contents;
  }

  private contentOf(
    node: OriginNode,
    scope: {
      readonly unit: OriginUnit;
      readonly wished: Wishes | undefined;
      readonly chain: readonly string[];
      readonly next: { node: OriginNode; wished: Wishes | undefined }[];
    },
  ): Content {
    const uses = node.children.map((_, at) => this.becomesOf(node, at, scope));
    const added = (scope.wished?.added ?? []).map(({ item, name, placement }) => ({
      becomes: this.addedBecomes(item),
      name,
      placement,
    }));
    return { node, uses, added };
  }

  /** What is added is meant as the items' own decisions make it. */
  private addedBecomes(item: AddedUse['item']): Standing {
    const { itemId } = item;
    const isCopied = this.outcome.get(itemId)?.decision === 'copy';
    const node = isCopied ? this.request.nodes.find((each) => each.itemId === itemId) : undefined;
    return node
      ? { kind: 'copy', itemId, copy: this.plainCopy(unitOf(this.tree, node)) }
      : { kind: 'item', item };
  }

  private becomesOf(
    node: OriginNode,
    at: number,
    {
      unit,
      wished,
      chain,
      next,
    }: {
      readonly unit: OriginUnit;
      readonly wished: Wishes | undefined;
      readonly chain: readonly string[];
      readonly next: { node: OriginNode; wished: Wishes | undefined }[];
    },
  ): readonly Standing[] {
    const child = this.childOf(node, at);
    const count = node.occurrences?.[at] ?? 1;
    if (!child) return filled(count, SHARED);
    const { itemId } = child;
    const deeper = wished?.below.get(itemId);
    const livesHere = unitOf(this.tree, child) === unit;
    let own: Standing | undefined;
    const copied = (): Standing => {
      if (own) return own;
      if (livesHere) {
        next.push({ node: child, wished: deeper });
        own = { kind: 'copy', itemId, copy: 'here' };
      } else {
        const isPlain = this.outcome.get(itemId)?.decision === 'copy';
        const wishes = deeper ?? (isPlain ? undefined : NO_WISHES);
        // Where a plain copy stands first is nobody's concern.
        const to = wished ? [...chain, itemId] : chain;
        own = { kind: 'copy', itemId, copy: this.copyOf(child, wishes, to) };
      }
      return own;
    };
    const plain = this.plainBecomes(node, at, child);
    const isCopied = plain === 'copy' || (plain.kind === 'share' && (livesHere || deeper !== undefined));
    const becomes = filled(count, isCopied ? copied() : plain);
    for (const decision of wished?.uses.get(itemId) ?? []) {
      const each = this.decided(decision, { unit, child, livesHere, copied });
      for (const occurrence of decision.occurrences ?? becomes.keys())
        if (occurrence < count) becomes[occurrence] = each;
    }
    return becomes;
  }

  private decided(
    { decision, to }: UseDecision,
    {
      unit,
      child,
      livesHere,
      copied,
    }: {
      readonly unit: OriginUnit;
      readonly child: OriginNode;
      readonly livesHere: boolean;
      readonly copied: () => Standing;
    },
  ): Standing {
    if (decision === 'omit') return NOTHING;
    if (decision === 'swap' && to) return { kind: 'item', item: to };
    if (decision !== 'share') return copied();
    if (!livesHere) return SHARED;
    this.clashes.set(
      child.itemId,
      `cannot be shared: it lives in the file of ${unit.root.number}, which is copied; take the file apart first`,
    );
    return copied();
  }

  /** What becomes of a use by the decisions about items alone. */
  private plainBecomes(
    node: OriginNode,
    at: number,
    child: OriginNode,
  ): 'copy' | Exclude<Standing, { readonly kind: 'copy' }> {
    if (node.leftOut?.includes(at) === true) return NOTHING;
    const decision = this.outcome.get(child.itemId)?.decision;
    if (decision === 'copy') return 'copy';
    if (decision === 'omit') return NOTHING;
    const to = decision === 'swap' ? this.request.swaps?.get(child.itemId) : undefined;
    return to ? { kind: 'item', item: to } : SHARED;
  }

  /** Why a copy is made that the decisions about items alone would not make. */
  private reasonOf(contents: ReadonlyMap<string, Content>, entry: OriginNode): Reason {
    const content = contents.get(entry.versionId);
    const [added] = content?.added ?? [];
    if (added) {
      const number = added.becomes.kind === 'item' ? added.becomes.item.number : '';
      return { kind: 'changes', number, how: 'added' };
    }
    for (const [at, becomes] of (content?.uses ?? []).entries()) {
      const child = this.childOf(entry, at);
      const number = child?.number ?? '';
      for (const { kind } of becomes) {
        if (kind === 'item') return { kind: 'changes', number, how: 'swapped' };
        if (kind === 'nothing') return { kind: 'changes', number, how: 'left out' };
        if (kind === 'copy' && this.outcome.get(child?.itemId ?? '')?.decision !== 'copy')
          return { kind: 'contains', number };
      }
    }
    return { kind: 'decided' };
  }

  /** Everything that the variant is made of. */
  private reach(begins: UnitCopy): { copies: Set<UnitCopy>; shared: Set<string> } {
    const copies = new Set<UnitCopy>();
    const shared = new Set<string>();
    const sharedVersions = new Set<string>();
    const waiting: UnitCopy[] = [begins];
    const share = (version: string): void => {
      const down = [version];
      for (let id = down.pop(); id !== undefined; id = down.pop()) {
        const node = sharedVersions.has(id) ? undefined : this.tree.byVersion.get(id);
        if (!node) continue;
        sharedVersions.add(id);
        shared.add(node.itemId);
        down.push(...node.children, ...unitOf(this.tree, node).besides);
      }
    };
    for (const node of this.request.nodes) {
      // Drawings and documents stand beside the tree.
      if (this.tree.used.has(node.versionId) || node === this.request.nodes[0]) continue;
      const unit = unitOf(this.tree, node);
      if (unit.root !== node) continue;
      if (this.outcome.get(node.itemId)?.decision === 'copy') waiting.push(this.plainCopy(unit));
      else share(node.versionId);
    }
    this.fill();
    for (let copy = waiting.pop(); copy; copy = waiting.pop()) {
      if (copies.has(copy)) continue;
      copies.add(copy);
      for (const { node, uses, added } of copy.contents.values()) {
        uses.forEach((becomes, at) => {
          let before: Standing | undefined;
          for (const each of becomes) {
            if (each === before) continue;
            before = each;
            if (each.kind === 'share') share(node.children[at] ?? '');
            else if (each.kind === 'copy' && each.copy !== 'here') waiting.push(each.copy);
          }
        });
        for (const { becomes } of added)
          if (becomes.kind === 'copy' && becomes.copy !== 'here') waiting.push(becomes.copy);
      }
    }
    return { copies, shared };
  }

  /** Which copy of a unit has the items' own keys: that of the items' decisions where the variant has it, else the first. */
  private count({ copies: reached }: { readonly copies: ReadonlySet<UnitCopy> }): void {
    for (const copies of this.copies.values()) {
      const all = new Set([...(copies.plain ? [copies.plain] : []), ...copies.byContent.values()]);
      let count = 0;
      for (const copy of all) {
        if (!reached.has(copy)) continue;
        copy.count = ++count;
        copies.first ??= copy;
      }
    }
  }

  private madeVersions({ copies }: { readonly copies: ReadonlySet<UnitCopy> }): MadeVersion[] {
    return [...copies].flatMap((copy) =>
      [...copy.contents.values()].map(({ node }) => ({
        key: lineKey(node.itemId, copy),
        versionId: node.versionId,
      })),
    );
  }

  private changedVersions({ copies }: { readonly copies: ReadonlySet<UnitCopy> }): ChangedVersion[] {
    const changed: ChangedVersion[] = [];
    for (const copy of copies) {
      for (const { node, uses, added } of copy.contents.values()) {
        if (
          copy.count === 1 &&
          added.length === 0 &&
          uses.every((use, at) => this.isPlain(node, at, use, copy))
        )
          continue;
        changed.push({
          key: lineKey(node.itemId, copy),
          versionId: node.versionId,
          uses: uses.map((use) => use.map((each) => resolved(each, copy))),
          added: added.map((use) => ({ ...use, becomes: resolved(use.becomes, copy) })),
        });
      }
    }
    return changed;
  }

  /** Whether a child that is copied under its item's own key becomes that copy, and any other is shared. */
  private isPlain(node: OriginNode, at: number, use: readonly Standing[], within: UnitCopy): boolean {
    const child = this.childOf(node, at);
    const first = child && this.copies.get(unitOf(this.tree, child))?.first;
    if (!child || first?.contents.has(child.versionId) !== true)
      return use.every(({ kind }) => kind === 'share');
    return use.every(
      (each) => each.kind === 'copy' && each.itemId === child.itemId && copyMeant(each, within).count === 1,
    );
  }

  private furtherOf(copy: UnitCopy): FurtherCopy[] {
    if (copy.count === 1) return [];
    const chain = copy.chain.map((id) => this.tree.items.get(id)?.number ?? id);
    return [...copy.contents.values()].map(({ node }) => ({
      key: lineKey(node.itemId, copy),
      itemId: node.itemId,
      chain,
    }));
  }

  private copiedItems({
    copies,
  }: {
    readonly copies: ReadonlySet<UnitCopy>;
  }): Map<string, Reason | undefined> {
    const copied = new Map<string, Reason | undefined>();
    for (const copy of copies) {
      if (copy.count !== 1) continue;
      for (const { node } of copy.contents.values())
        if (!copied.has(node.itemId))
          copied.set(
            node.itemId,
            node === copy.unit.root
              ? copy.reason
              : copy.reason && { kind: 'livesIn', number: copy.unit.root.number },
          );
    }
    return copied;
  }

  private *spots(begins: UnitCopy): Generator<PlanSpot, void> {
    const [top] = this.request.nodes;
    if (!top) return;
    const { itemId, number } = top;
    yield { level: 0, itemId, number, quantity: 1, decision: 'copy', key: itemId };
    let count = 1;
    const open: Opened[] = [{ node: top, within: begins, next: 0, waiting: [] }];
    for (let inner = open.at(-1); inner; inner = open.at(-1)) {
      const waiting = inner.waiting.pop();
      if (waiting) {
        yield waiting.spot;
        if (++count > DEFAULT_MAX_ROWS) throw new StructureTooLarge(DEFAULT_MAX_ROWS);
        if (waiting.opens) open.push(waiting.opens);
      } else if (inner.next < inner.node.children.length) {
        this.openUse(inner, open.length);
      } else {
        yield* this.besides(inner, open.length);
        open.pop();
      }
    }
  }

  /** Goes on to the next use of a version, and says what its occurrences become. */
  private openUse(inner: Opened, level: number): void {
    const { node, within } = inner;
    const at = inner.next++;
    const child = this.childOf(node, at);
    const itemId = child?.itemId ?? '';
    const number = child?.number ?? '';
    const opened = (leads: UnitCopy | undefined): Opened | undefined => {
      const added = child && leads?.contents.get(child.versionId)?.added.length;
      return child && (added || child.gaps?.length || child.children.length)
        ? { node: child, within: leads, next: 0, waiting: [] }
        : undefined;
    };
    const becomes = within?.contents.get(node.versionId)?.uses[at];
    if (!becomes) {
      const quantity = node.occurrences?.[at] ?? 1;
      const spot = { level, itemId, number, quantity, decision: 'share' } as const;
      inner.waiting.push({ spot, opens: opened(undefined) });
      return;
    }
    // What waits is taken from its end.
    for (const { becomes: each, occurrences } of alike(becomes).toReversed()) {
      const quantity = occurrences.length;
      const said = { level, itemId, number, quantity };
      const some = quantity === becomes.length ? said : { ...said, occurrences };
      if (each.kind === 'share') {
        inner.waiting.push({ spot: { ...some, decision: 'share' }, opens: opened(undefined) });
      } else if (each.kind === 'copy' && within) {
        const leads = copyMeant(each, within);
        const key = lineKey(each.itemId, leads);
        inner.waiting.push({ spot: { ...some, decision: 'copy', key }, opens: opened(leads) });
      } else if (each.kind === 'item') {
        inner.waiting.push({ spot: { ...some, decision: 'swap', to: each.item } });
      } else inner.waiting.push({ spot: { ...some, decision: 'omit' } });
    }
  }

  /** What is in a version though the origin's tree has nothing there. */
  private *besides({ node, within }: Opened, level: number): Generator<PlanSpot, void> {
    for (const { text, quantity } of node.gaps ?? [])
      yield { level, itemId: '', number: text, quantity, decision: 'share' };
    for (const { becomes } of within?.contents.get(node.versionId)?.added ?? []) {
      const to = becomes.kind === 'item' ? { to: becomes.item } : {};
      const itemId =
        becomes.kind === 'copy' ? becomes.itemId : becomes.kind === 'item' ? becomes.item.itemId : '';
      const number =
        becomes.kind === 'item' ? becomes.item.number : (this.tree.items.get(itemId)?.number ?? '');
      yield { level, itemId, number, quantity: 1, decision: 'add', ...to };
    }
  }
}

/** A version whose uses are being told. */
interface Opened {
  readonly node: OriginNode;
  /** The copy that it is in; undefined where it is shared. */
  readonly within: UnitCopy | undefined;
  /** Place of the use that comes next. */
  next: number;
  /** Spots of the use before, the last first. */
  readonly waiting: { readonly spot: PlanSpot; readonly opens?: Opened | undefined }[];
}

const NO_WISHES: Wishes = { below: new Map(), uses: new Map(), added: [] };

/** Decisions about spots as a tree; undefined where there are none. */
function wishesOf({ uses = [], added = [] }: DerivationRequest): Wishes | undefined {
  if (uses.length === 0 && added.length === 0) return undefined;
  const top: Wishes = { below: new Map(), uses: new Map(), added: [] };
  const at = (chain: readonly string[]): Wishes => {
    let here = top;
    for (const itemId of chain) {
      let next = here.below.get(itemId);
      if (!next) here.below.set(itemId, (next = { below: new Map(), uses: new Map(), added: [] }));
      here = next;
    }
    return here;
  };
  for (const use of uses) {
    const itemId = use.chain.at(-1);
    if (itemId === undefined || use.chain.length < 2) continue;
    const here = at(use.chain.slice(1, -1)).uses;
    const list = here.get(itemId);
    if (list) list.push(use);
    else here.set(itemId, [use]);
  }
  for (const use of added) at(use.chain.slice(1)).added.push(use);
  return top;
}

function filled(count: number, becomes: Standing): Standing[] {
  return count === 1 ? [becomes] : Array.from({ length: count }, () => becomes);
}

function copyMeant({ copy }: Extract<Standing, { readonly kind: 'copy' }>, within: UnitCopy): UnitCopy {
  return copy === 'here' ? within : copy;
}

function resolved(standing: Standing, within: UnitCopy): Becomes {
  if (standing.kind !== 'copy') return standing;
  return { kind: 'copy', key: lineKey(standing.itemId, copyMeant(standing, within)) };
}

function lineKey(itemId: string, { count }: UnitCopy): string {
  return count <= 1 ? itemId : `${itemId}#${count}`;
}

function signatureOf(contents: ReadonlyMap<string, Content>): string {
  return [...contents.values()]
    .map((content) => `${content.node.versionId}:${sayContent(content)}`)
    .sort()
    .join('\n');
}

function sayContent({ uses, added }: Content): string {
  return JSON.stringify([
    uses.map((becomes) => becomes.map(sayBecomes)),
    added.map(({ becomes, ...use }) => [sayBecomes(becomes), use.name, use.placement]),
  ]);
}

function sayBecomes(becomes: Standing): string {
  if (becomes.kind === 'copy')
    return `copy ${becomes.itemId} ${becomes.copy === 'here' ? 'here' : becomes.copy.at}`;
  return becomes.kind === 'item' ? `item ${becomes.item.versionId}` : becomes.kind;
}

/** Occurrences by what they become, in the order of the first of each. */
function alike(
  becomes: readonly Standing[],
): { readonly becomes: Standing; readonly occurrences: readonly number[] }[] {
  const [only] = becomes;
  if (only && becomes.length === 1) return [{ becomes: only, occurrences: [0] }];
  const groups = new Map<string, { readonly becomes: Standing; readonly occurrences: number[] }>();
  becomes.forEach((each, at) => {
    const said = sayBecomes(each);
    const group = groups.get(said);
    if (group) group.occurrences.push(at);
    else groups.set(said, { becomes: each, occurrences: [at] });
  });
  return [...groups.values()];
}
