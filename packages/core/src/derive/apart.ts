/**
 * What a variant is made of where its spots were decided apart: one item may be copied in one branch and shared, swapped or left
 * out in another, so that its parents become different things in different places.
 *
 * Products that live in one file go together, so that what is copied is a *unit*: a file with all that lives in it. A unit is
 * copied once for each different content that it gets; copies of equal content are one. The first copy of an item keeps the
 * item's own line, a further one has a line of its own.
 */
import type { Outcome } from './decide.js';
import type { OriginItem } from './items.js';
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
  readonly made: readonly MadeVersion[];
  readonly changed: readonly ChangedVersion[];
  readonly further: readonly FurtherCopy[];
  /** Items of which the variant has a copy under the item's own key, and why where the item alone would not have it. */
  readonly copied: ReadonlyMap<string, Reason | undefined>;
  /** Items that the variant shares somewhere. */
  readonly shared: ReadonlySet<string>;
  /** What cannot be kept, by item. */
  readonly clashes: ReadonlyMap<string, string>;
  /** The tree of the variant, told from the origin's, the top first. */
  readonly spots: () => PlanSpot[];
}

/** Decisions that begin at a spot: about its uses, about what is added, and about what lies deeper. */
interface Wishes {
  readonly below: Map<string, Wishes>;
  readonly uses: Map<string, UseDecision[]>;
  readonly added: AddedUse[];
}

/** What a version of a unit's copy is made of; keys of what lives in the same unit are not known before its content is. */
interface Content {
  readonly node: OriginNode;
  readonly uses: readonly (readonly Becomes[])[];
  readonly added: ChangedVersion['added'];
}

interface Unit {
  readonly root: OriginNode;
  readonly nodes: readonly OriginNode[];
  /** Versions that others of the unit use. */
  readonly usedWithin: ReadonlySet<string>;
  /** Copies by their content, and the first that has the decisions of the items alone. */
  readonly copies: Map<string, UnitCopy>;
  plain?: UnitCopy;
}

interface UnitCopy {
  readonly unit: Unit;
  readonly contents: ReadonlyMap<string, Content>;
  readonly chain: readonly string[];
  readonly reason: Reason | undefined;
  /** Among all copies of all units. */
  readonly at: number;
  /** 1 for the one with the items' own keys; set at the end. */
  count: number;
}

/** Stands for what lives in the same unit, until the key of the unit's copy is known. */
const HERE = '\u0000';

export function structureOf(
  items: ReadonlyMap<string, OriginItem>,
  outcome: ReadonlyMap<string, Outcome>,
  request: DerivationRequest,
): VariantStructure {
  return new Structure(items, outcome, request).work();
}

class Structure {
  private readonly byVersion: ReadonlyMap<string, OriginNode>;
  private readonly units = new Map<string, Unit>();
  private readonly clashes = new Map<string, string>();
  private readonly used: ReadonlySet<string>;
  /** Copies of other units by the keys that stand for them. */
  private readonly copyByKey = new Map<string, UnitCopy>();
  private made = 0;

  constructor(
    private readonly items: ReadonlyMap<string, OriginItem>,
    private readonly outcome: ReadonlyMap<string, Outcome>,
    private readonly request: DerivationRequest,
  ) {
    this.byVersion = new Map(request.nodes.map((node) => [node.versionId, node]));
    this.used = new Set(request.nodes.flatMap(({ children }) => children));
    const inUnit = new Map<string, OriginNode[]>();
    for (const node of request.nodes) {
      const id = this.unitIdOf(node);
      const list = inUnit.get(id);
      if (list) list.push(node);
      else inUnit.set(id, [node]);
    }
    for (const [id, nodes] of inUnit) {
      const root = this.byVersion.get(id) ?? nodes[0];
      const usedWithin = new Set(nodes.flatMap(({ children }) => children));
      if (root) this.units.set(id, { root, nodes, usedWithin, copies: new Map() });
    }
  }

  work(): VariantStructure {
    const [top] = this.request.nodes;
    if (!top) throw new Error('a derivation has a top');
    const wishes = wishesOf(this.request);
    const begins = this.copyOf(top, wishes, []);
    const reached = this.reach(begins);
    this.count(reached);
    const made = this.madeVersions(reached);
    return {
      made,
      changed: this.changedVersions(reached, made),
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

  /** The version whose file a version lives in, its own where it has a file. */
  private unitIdOf(node: OriginNode): string {
    let carrier = node;
    for (let next: OriginNode | undefined = node; next; next = this.byVersion.get(next.carrierVersion ?? ''))
      carrier = next;
    return carrier.versionId;
  }

  private unitOf(node: OriginNode): Unit {
    const unit = this.units.get(this.unitIdOf(node));
    if (!unit) throw new Error(`version ${node.versionId} is in no unit`);
    return unit;
  }

  /** The copy of a unit with the decisions of the items alone. */
  private plainCopy(unit: Unit): UnitCopy {
    if (unit.plain) return unit.plain;
    // Known before its content is: what it uses may use something that lives in its file.
    const contents = new Map<string, Content>();
    const copy: UnitCopy = { unit, contents, chain: [], reason: undefined, at: this.made++, count: 0 };
    unit.plain = copy;
    for (const [version, content] of this.contentsOf(unit, unit.root, undefined, []))
      contents.set(version, content);
    return copy;
  }

  /** The copy that stands at a spot. */
  private copyOf(entry: OriginNode, wishes: Wishes | undefined, chain: readonly string[]): UnitCopy {
    const unit = this.unitOf(entry);
    const isCopied = this.outcome.get(unit.root.itemId)?.decision === 'copy';
    if (isCopied && !wishes) return this.plainCopy(unit);
    if (isCopied) {
      const plain = this.plainCopy(unit);
      unit.copies.set(signatureOf(plain.contents), plain);
    }
    if (wishes && this.request.decisions.get(entry.itemId) === 'share')
      this.clashes.set(entry.itemId, 'cannot be shared: something in it was decided otherwise');
    const contents = this.contentsOf(unit, entry, wishes, chain);
    const signature = signatureOf(contents);
    const known = unit.copies.get(signature);
    if (known) return known;
    const reason = this.reasonOf(contents, entry);
    const copy: UnitCopy = { unit, contents, chain, reason, at: this.made++, count: 0 };
    unit.copies.set(signature, copy);
    return copy;
  }

  private contentsOf(
    unit: Unit,
    entry: OriginNode,
    wishes: Wishes | undefined,
    chain: readonly string[],
  ): Map<string, Content> {
    const contents = new Map<string, Content>();
    const visit = (node: OriginNode, wished: Wishes | undefined, at: readonly string[]): void => {
      const next: { node: OriginNode; wished: Wishes | undefined }[] = [];
      const content = this.contentOf(node, { unit, wished, chain: at, next });
      const before = contents.get(node.versionId);
      if (before) {
        if (sayContent(before) !== sayContent(content))
          this.clashes.set(
            node.itemId,
            `stands in several places of the file of ${unit.root.number}, which can only be alike; take the file apart first`,
          );
        return;
      }
      contents.set(node.versionId, content);
      for (const each of next) visit(each.node, each.wished, [...at, each.node.itemId]);
    };
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
      readonly unit: Unit;
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

  private addedBecomes(item: AddedUse['item']): Becomes {
    if (this.outcome.get(item.itemId)?.decision !== 'copy') return { kind: 'item', item };
    return { kind: 'copy', key: item.itemId };
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
      readonly unit: Unit;
      readonly wished: Wishes | undefined;
      readonly chain: readonly string[];
      readonly next: { node: OriginNode; wished: Wishes | undefined }[];
    },
  ): readonly Becomes[] {
    const child = this.byVersion.get(node.children[at] ?? '');
    const count = node.occurrences?.[at] ?? 1;
    if (!child) return filled(count, { kind: 'share' });
    const deeper = wished?.below.get(child.itemId);
    const livesHere = this.unitIdOf(child) === this.unitIdOf(node);
    let own: Becomes | undefined;
    const copied = (): Becomes => {
      if (own) return own;
      if (livesHere) {
        next.push({ node: child, wished: deeper });
        own = { kind: 'copy', key: HERE + child.itemId };
      } else {
        const isPlain = this.outcome.get(child.itemId)?.decision === 'copy';
        const copy = this.copyOf(child, deeper ?? (isPlain ? undefined : NO_WISHES), [
          ...chain,
          child.itemId,
        ]);
        // A key that tells copies apart before they are counted.
        own = { kind: 'copy', key: `${child.itemId}\u0001${copy.at}` };
        this.copyByKey.set(own.key, copy);
      }
      return own;
    };
    const plain = this.plainBecomes(node, at, child);
    const isCopied = plain.kind === 'copy' || (plain.kind === 'share' && (livesHere || deeper !== undefined));
    const becomes = filled(count, isCopied ? copied() : plain);
    for (const decision of wished?.uses.get(child.itemId) ?? []) {
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
      readonly unit: Unit;
      readonly child: OriginNode;
      readonly livesHere: boolean;
      readonly copied: () => Becomes;
    },
  ): Becomes {
    if (decision === 'omit') return { kind: 'nothing' };
    if (decision === 'swap' && to) return { kind: 'item', item: to };
    if (decision !== 'share') return copied();
    if (!livesHere) return { kind: 'share' };
    this.clashes.set(
      child.itemId,
      `cannot be shared: it lives in the file of ${unit.root.number}, which is copied; take the file apart first`,
    );
    return copied();
  }

  /** What becomes of a use by the decisions about items alone. */
  private plainBecomes(node: OriginNode, at: number, child: OriginNode): Becomes {
    if (node.leftOut?.includes(at) === true) return { kind: 'nothing' };
    const decision = this.outcome.get(child.itemId)?.decision;
    if (decision === 'copy') return { kind: 'copy', key: child.itemId };
    if (decision === 'omit') return { kind: 'nothing' };
    const to = decision === 'swap' ? this.request.swaps?.get(child.itemId) : undefined;
    return to ? { kind: 'item', item: to } : { kind: 'share' };
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
      const number = this.byVersion.get(entry.children[at] ?? '')?.number ?? '';
      for (const { kind } of becomes) {
        if (kind === 'item') return { kind: 'changes', number, how: 'swapped' };
        if (kind === 'nothing') return { kind: 'changes', number, how: 'left out' };
        if (
          kind === 'copy' &&
          this.outcome.get(this.byVersion.get(entry.children[at] ?? '')?.itemId ?? '')?.decision !== 'copy'
        )
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
        const node = sharedVersions.has(id) ? undefined : this.byVersion.get(id);
        if (!node) continue;
        sharedVersions.add(id);
        shared.add(node.itemId);
        down.push(...node.children, ...this.besidesIn(this.unitOf(node)));
      }
    };
    for (const node of this.request.nodes) {
      // Drawings and documents stand beside the tree.
      if (this.used.has(node.versionId) || this.unitOf(node).root !== node) continue;
      if (node === this.request.nodes[0]) continue;
      if (this.outcome.get(node.itemId)?.decision === 'copy') waiting.push(this.plainCopy(this.unitOf(node)));
      else share(node.versionId);
    }
    for (let copy = waiting.pop(); copy; copy = waiting.pop()) {
      if (copies.has(copy)) continue;
      copies.add(copy);
      for (const { node, uses, added } of copy.contents.values()) {
        for (const [at, becomes] of uses.entries()) {
          for (const each of new Set(becomes)) {
            if (each.kind === 'share') share(node.children[at] ?? '');
            const led = each.kind === 'copy' ? this.leadsTo(each.key) : undefined;
            if (led) waiting.push(led);
          }
        }
        for (const { becomes } of added) {
          const led = becomes.kind === 'copy' ? this.leadsTo(becomes.key) : undefined;
          if (led) waiting.push(led);
        }
      }
    }
    return { copies, shared };
  }

  /** What is in a file though nothing in it uses it. */
  private besidesIn({ nodes, usedWithin }: Unit): string[] {
    return nodes.flatMap(({ versionId }) => (usedWithin.has(versionId) ? [] : versionId));
  }

  /** The copy that a key of another unit means. */
  private leadsTo(key: string): UnitCopy | undefined {
    if (key.startsWith(HERE)) return undefined;
    const known = this.copyByKey.get(key);
    if (known) return known;
    // What is added is meant as the items' own decisions make it.
    const node = this.request.nodes.find(({ itemId }) => itemId === key);
    return node && this.plainCopy(this.unitOf(node));
  }

  /** Which copy of a unit has the items' own keys: that of the items' decisions where the variant has it, else the first. */
  private count({ copies }: { readonly copies: ReadonlySet<UnitCopy> }): void {
    for (const unit of this.units.values()) {
      const all = new Set([...(unit.plain ? [unit.plain] : []), ...unit.copies.values()]);
      const mine = [...all].filter((copy) => copies.has(copy));
      const plainFirst = mine.toSorted((a, b) => Number(b === unit.plain) - Number(a === unit.plain));
      plainFirst.forEach((copy, at) => (copy.count = at + 1));
    }
  }

  private resolved(becomes: Becomes, within: UnitCopy): Becomes {
    if (becomes.kind !== 'copy') return becomes;
    if (becomes.key.startsWith(HERE)) return { kind: 'copy', key: lineKey(becomes.key.slice(1), within) };
    const copy = this.leadsTo(becomes.key);
    const itemId = itemIn(becomes.key);
    return { kind: 'copy', key: copy ? lineKey(itemId, copy) : itemId };
  }

  private madeVersions({ copies }: { readonly copies: ReadonlySet<UnitCopy> }): MadeVersion[] {
    return [...copies].flatMap((copy) =>
      [...copy.contents.values()].map(({ node }) => ({
        key: lineKey(node.itemId, copy),
        versionId: node.versionId,
      })),
    );
  }

  private changedVersions(
    { copies }: { readonly copies: ReadonlySet<UnitCopy> },
    made: readonly MadeVersion[],
  ): ChangedVersion[] {
    const own = new Map(made.map(({ key, versionId }) => [`${key} ${versionId}`, key]));
    return [...copies].flatMap((copy) =>
      [...copy.contents.values()].flatMap(({ node, uses, added }): ChangedVersion[] => {
        const resolved = uses.map((becomes) => becomes.map((each) => this.resolved(each, copy)));
        const isPlain =
          copy.count === 1 &&
          added.length === 0 &&
          resolved.every((becomes, at) => {
            const child = this.byVersion.get(node.children[at] ?? '');
            const copyOfChild = child && own.get(`${child.itemId} ${child.versionId}`);
            return becomes.every((each) =>
              copyOfChild === undefined
                ? each.kind === 'share'
                : each.kind === 'copy' && each.key === copyOfChild,
            );
          });
        if (isPlain) return [];
        return [
          {
            key: lineKey(node.itemId, copy),
            versionId: node.versionId,
            uses: resolved,
            added: added.map((use) => ({ ...use, becomes: this.resolved(use.becomes, copy) })),
          },
        ];
      }),
    );
  }

  private furtherOf(copy: UnitCopy): FurtherCopy[] {
    if (copy.count === 1) return [];
    const chain = copy.chain.map((id) => this.items.get(id)?.number ?? id);
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

  private spots(begins: UnitCopy): PlanSpot[] {
    const [top] = this.request.nodes;
    if (!top) return [];
    const spots: PlanSpot[] = [];
    const copied = (node: OriginNode, copy: UnitCopy, level: number): void => {
      const content = copy.contents.get(node.versionId);
      for (const [at, becomes] of (content?.uses ?? []).entries()) {
        const child = this.byVersion.get(node.children[at] ?? '');
        for (const group of alike(becomes)) {
          const each = group.becomes;
          const said = {
            level,
            itemId: child?.itemId ?? '',
            number: child?.number ?? '',
            quantity: group.occurrences.length,
            ...(group.occurrences.length === becomes.length ? {} : { occurrences: group.occurrences }),
          };
          if (each.kind === 'share') {
            spots.push({ ...said, decision: 'share' });
            if (child) shared(child, level + 1);
          } else if (each.kind === 'copy') {
            const resolved = this.resolved(each, copy);
            spots.push({ ...said, decision: 'copy', key: resolved.kind === 'copy' ? resolved.key : '' });
            const leads = each.key.startsWith(HERE) ? copy : this.leadsTo(each.key);
            if (child && leads) copied(child, leads, level + 1);
          } else if (each.kind === 'item') spots.push({ ...said, decision: 'swap', to: each.item });
          else spots.push({ ...said, decision: 'omit' });
        }
      }
      gaps(node, level);
      for (const { becomes } of content?.added ?? []) {
        const item = becomes.kind === 'item' ? becomes.item : undefined;
        const itemId = becomes.kind === 'copy' ? itemIn(becomes.key) : (item?.itemId ?? '');
        spots.push({
          level,
          itemId,
          number: item?.number ?? this.items.get(itemId)?.number ?? '',
          quantity: 1,
          decision: 'add',
          ...(item ? { to: item } : {}),
        });
      }
    };
    const shared = (node: OriginNode, level: number): void => {
      node.children.forEach((id, at) => {
        const child = this.byVersion.get(id);
        if (!child) return;
        const quantity = node.occurrences?.[at] ?? 1;
        spots.push({ level, itemId: child.itemId, number: child.number, quantity, decision: 'share' });
        shared(child, level + 1);
      });
      gaps(node, level);
    };
    const gaps = (node: OriginNode, level: number): void => {
      for (const { text, quantity } of node.gaps ?? [])
        spots.push({ level, itemId: '', number: text, quantity, decision: 'share' });
    };
    spots.push({
      level: 0,
      itemId: top.itemId,
      number: top.number,
      quantity: 1,
      decision: 'copy',
      key: top.itemId,
    });
    copied(top, begins, 1);
    return spots;
  }
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

function filled(count: number, becomes: Becomes): Becomes[] {
  return Array.from({ length: count }, () => becomes);
}

function itemIn(key: string): string {
  return key.split('\u0001')[0] ?? '';
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

function sayBecomes(becomes: Becomes): string {
  if (becomes.kind === 'copy') return `copy ${becomes.key}`;
  return becomes.kind === 'item' ? `item ${becomes.item.versionId}` : becomes.kind;
}

/** Occurrences by what they become, in the order of the first of each. */
function alike(becomes: readonly Becomes[]): { readonly becomes: Becomes; readonly occurrences: number[] }[] {
  const groups = new Map<string, { readonly becomes: Becomes; readonly occurrences: number[] }>();
  becomes.forEach((each, at) => {
    const said = sayBecomes(each);
    const group = groups.get(said);
    if (group) group.occurrences.push(at);
    else groups.set(said, { becomes: each, occurrences: [at] });
  });
  return [...groups.values()];
}
