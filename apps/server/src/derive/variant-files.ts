/**
 * What the files of a variant must say where it is made of other things than its origin: for each file the uses that are taken
 * out, exchanged and added, and for each version in it the links that come of it. Plain data in and out.
 */
import {
  base,
  known,
  nameFold,
  uniqueFileName,
  type Becomes,
  type ChangedVersion,
  type DerivationPlan,
  type Occurrence,
  type OriginNode,
} from '@stem-trace/core';
import { aboutAnother } from '@stem-trace/formats';
import type { ExternalProduct, NamedUse, StructureEdit, UseTarget } from '@stem-trace/formats';
import type { DescribedVersion } from '../store/catalogue.service.js';
import type { NewLink } from '../store/store-writer.js';

export type WrittenLink = NewLink & { readonly id: string };

export interface VariantFacts {
  readonly plan: DerivationPlan;
  /** Versions of the origin's tree, and of what is swapped in and added. */
  readonly versions: ReadonlyMap<string, DescribedVersion>;
  /** Links of the versions that change, by version. */
  readonly links: ReadonlyMap<string, readonly WrittenLink[]>;
  /** Of the origin's tree, by version. */
  readonly nodes: ReadonlyMap<string, OriginNode>;
  /** Ids of the links that the places in a node's `children` mean, by version. */
  readonly linkIds: ReadonlyMap<string, readonly string[]>;
}

/** A file that is to say something else than the origin's. */
export interface FileChange {
  /** Of the copy of the version whose file it is. */
  readonly key: string;
  readonly versionId: string;
  readonly sha256: string;
  readonly storedFileName: string;
  readonly edit: StructureEdit;
}

/** A link of a changed version, before it is known which instance names its target. */
export interface PlannedUse {
  readonly key: string;
  readonly versionId: string;
  /** The origin's link that it comes from; absent for what is added. */
  readonly from?: WrittenLink;
  /** What it leads to: the origin's own target, a copy, or another item. */
  readonly leadsTo:
    | { readonly kind: 'own' }
    | { readonly kind: 'copy'; readonly key: string; readonly versionId: string }
    | { readonly kind: 'item'; readonly itemId: string; readonly versionId: string };
  /** Where the file names it, or what the file's edit calls it. */
  readonly target: UseTarget;
  readonly external?: ExternalProduct;
  readonly carried: boolean;
  readonly occurrences: readonly Occurrence[];
}

export interface VariantFiles {
  readonly changes: readonly FileChange[];
  readonly uses: readonly PlannedUse[];
  /** Versions, as `key version`, whose stated volume, area and centre no longer hold. */
  readonly stale: ReadonlySet<string>;
}

/** Works out what the files say. `O(uses of the changed versions)` */
export function planFiles(facts: VariantFacts): VariantFiles {
  const stale = staleVersions(facts);
  const files = new Map<string, FileOfCopy>();
  const fileOf = (key: string, versionId: string): FileOfCopy => {
    const version = known(facts.versions, versionId);
    const carrier = version.carrierVersion ?? versionId;
    const id = `${carrier}${suffixOf(key)}`;
    const file = files.get(id) ?? new FileOfCopy(facts, carrier, suffixOf(key));
    files.set(id, file);
    return file;
  };
  for (const changed of facts.plan.changed) fileOf(changed.key, changed.versionId).take(changed);
  for (const made of facts.plan.made) {
    const version = known(facts.versions, made.versionId);
    if (stale.has(sayVersion(made)) && version.facts.properties.some(({ name }) => STATED.has(name)))
      fileOf(made.key, made.versionId).state(version.productRef);
  }
  const worked = [...files.values()].map((file) => file.work());
  return {
    changes: worked.flatMap(({ change }) => change ?? []),
    uses: worked.flatMap(({ uses }) => uses),
    stale,
  };
}

/** Names of properties that files state of geometry. */
export const STATED: ReadonlySet<string> = new Set(['volume', 'surface', 'centroid']);

export function sayVersion({ key, versionId }: { readonly key: string; readonly versionId: string }): string {
  return `${key} ${versionId}`;
}

function suffixOf(key: string): string {
  const at = key.indexOf('#');
  return at < 0 ? '' : key.slice(at);
}

/** Copies that fill another room than the origin's: something is swapped, left out or added in them, or below them. */
function staleVersions({ plan, nodes }: VariantFacts): Set<string> {
  const stale = new Set<string>();
  const parents = new Map<string, string[]>();
  const changed = new Map(plan.changed.map((each) => [sayVersion(each), each]));
  const made = new Set(plan.made.map(sayVersion));
  for (const each of plan.changed) {
    const isOther = ({ kind }: Becomes): boolean => kind === 'item' || kind === 'nothing';
    if (each.added.length > 0 || each.uses.some((becomes) => becomes.some(isOther)))
      stale.add(sayVersion(each));
  }
  if (stale.size === 0) return stale;
  for (const { key, versionId } of plan.made) {
    const own = changed.get(sayVersion({ key, versionId }));
    known(nodes, versionId).children.forEach((id, at) => {
      const child = nodes.get(id);
      if (!child) return;
      const keys = own
        ? (own.uses[at] ?? []).flatMap((becomes) => (becomes.kind === 'copy' ? becomes.key : []))
        : [child.itemId];
      for (const each of new Set(keys)) {
        const said = sayVersion({ key: each, versionId: child.versionId });
        if (!made.has(said)) continue;
        const list = parents.get(said);
        if (list) list.push(sayVersion({ key, versionId }));
        else parents.set(said, [sayVersion({ key, versionId })]);
      }
    });
  }
  const waiting = [...stale];
  for (let each = waiting.pop(); each !== undefined; each = waiting.pop()) {
    for (const parent of parents.get(each) ?? []) {
      if (stale.has(parent)) continue;
      stale.add(parent);
      waiting.push(parent);
    }
  }
  return stale;
}

interface Slot {
  readonly changed: ChangedVersion;
  readonly link: WrittenLink;
  readonly nth: number;
  readonly becomes: Becomes;
}

/** One file of the variant, with all that lives in it. */
class FileOfCopy {
  private readonly taken: ChangedVersion[] = [];
  private readonly stated: number[] = [];

  constructor(
    private readonly facts: VariantFacts,
    private readonly carrier: string,
    private readonly suffix: string,
  ) {}

  take(changed: ChangedVersion): void {
    this.taken.push(changed);
  }

  /** Notes a product that no longer fills what it is said to fill. */
  state(ref: number): void {
    this.stated.push(ref);
  }

  work(): { readonly change: FileChange | undefined; readonly uses: readonly PlannedUse[] } {
    const slots = this.taken.flatMap((changed) => this.slotsOf(changed));
    const targets = new Targets(this.facts, { carrier: this.carrier, suffix: this.suffix, slots });
    const edits: { use: NamedUse; becomes: 'nothing' | UseTarget }[] = [];
    const uses: PlannedUse[] = [];
    for (const { changed, link, nth, becomes } of slots) {
      const parent = known(this.facts.versions, changed.versionId).productRef;
      const use = { parent, child: link.targetRef, configurations: link.configurations ?? [], nth };
      if (becomes.kind === 'nothing') {
        edits.push({ use, becomes: 'nothing' });
        continue;
      }
      const target = targets.of(becomes, link);
      if (!('ref' in target) || target.ref !== link.targetRef) edits.push({ use, becomes: target });
      uses.push({
        key: changed.key,
        versionId: changed.versionId,
        from: link,
        leadsTo: leadsTo(becomes, link),
        target,
        ...externalOf(target, targets),
        carried: link.carried && becomes.kind === 'copy',
        occurrences: link.occurrences
          .slice(nth, nth + 1)
          .map((occurrence) => this.calledAfter(occurrence, link, target, targets)),
      });
    }
    const added = this.taken.flatMap((changed) =>
      changed.added.map(({ becomes, name, placement }) => {
        const target = targets.of(becomes);
        const copied = becomes.kind === 'copy' ? copyNamed(this.facts, becomes.key) : undefined;
        uses.push({
          key: changed.key,
          versionId: changed.versionId,
          leadsTo:
            becomes.kind === 'copy'
              ? { kind: 'copy', key: becomes.key, versionId: copied?.versionId ?? '' }
              : leadsTo(becomes),
          target,
          ...externalOf(target, targets),
          carried: targets.livesHere(target),
          occurrences: [{ name, placement }],
        });
        const parent = known(this.facts.versions, changed.versionId).productRef;
        return { parent, target, name, placement };
      }),
    );
    const version = known(this.facts.versions, this.carrier);
    const edit = { uses: edits, added, externals: targets.externals, stale: [...new Set(this.stated)] };
    const isEdited = edits.length + added.length + edit.stale.length > 0;
    return {
      uses,
      change: isEdited
        ? {
            key: `${version.itemId}${this.suffix}`,
            versionId: this.carrier,
            sha256: version.sha256,
            storedFileName: version.storedFileName,
            edit,
          }
        : undefined,
    };
  }

  /** An occurrence that is called after what stood there, as the file calls it now. */
  private calledAfter(
    occurrence: Occurrence,
    link: WrittenLink,
    target: UseTarget,
    targets: Targets,
  ): Occurrence {
    if ('ref' in target && target.ref === link.targetRef) return occurrence;
    const becomes = targets.calledIn(target);
    if (!becomes || occurrence.designator === occurrence.name) return occurrence;
    const was = { id: link.targetIdInFile, name: link.targetNameInFile };
    return { ...occurrence, name: aboutAnother(occurrence.name, was, becomes) };
  }

  private slotsOf(changed: ChangedVersion): Slot[] {
    const links = new Map((this.facts.links.get(changed.versionId) ?? []).map((link) => [link.id, link]));
    return known(this.facts.linkIds, changed.versionId).flatMap((id, at) => {
      const link = known(links, id);
      return (changed.uses[at] ?? []).map((becomes, nth): Slot => ({ changed, link, nth, becomes }));
    });
  }
}

function leadsTo(becomes: Becomes, link?: WrittenLink): PlannedUse['leadsTo'] {
  if (becomes.kind === 'copy')
    return { kind: 'copy', key: becomes.key, versionId: link?.targetVersionId ?? '' };
  if (becomes.kind === 'item') {
    const { itemId, versionId } = becomes.item;
    return { kind: 'item', itemId, versionId };
  }
  return { kind: 'own' };
}

function externalOf(target: UseTarget, targets: Targets): Pick<PlannedUse, 'external'> {
  return 'external' in target ? { external: known(new Map(targets.externals), target.external) } : {};
}

/** The newest version that a copy is of, for what is added and stood nowhere. */
function copyNamed({ plan }: VariantFacts, key: string): { readonly versionId: string } | undefined {
  return plan.made.findLast((made) => made.key === key);
}

/**
 * Which instance of a file names what: a product that the file names keeps its placeholder for the first of what its uses
 * lead to; whatever else they lead to gets one of its own, once.
 */
class Targets {
  private readonly kept = new Map<number, string>();
  private readonly byToken = new Map<string, UseTarget>();
  private readonly products = new Map<string, ExternalProduct>();
  private readonly fileNames: Set<string>;
  private readonly own: ReadonlyMap<string, number>;
  /** What the file calls the products that it names, by their `ref`. */
  private readonly inFile: ReadonlyMap<number, { readonly id: string; readonly name: string }>;

  constructor(
    private readonly facts: VariantFacts,
    {
      carrier,
      suffix,
      slots,
    }: { readonly carrier: string; readonly suffix: string; readonly slots: readonly Slot[] },
  ) {
    const { plan, versions } = facts;
    this.own = new Map(
      plan.made.flatMap(({ key, versionId }) => {
        const version = known(versions, versionId);
        const isHere = (version.carrierVersion ?? version.id) === carrier && suffixOf(key) === suffix;
        return isHere ? [[sayVersion({ key, versionId }), version.productRef] as const] : [];
      }),
    );
    this.inFile = new Map(
      slots.map(({ link }) => [link.targetRef, { id: link.targetIdInFile, name: link.targetNameInFile }]),
    );
    // What is called like the file itself would be taken for it.
    this.fileNames = new Set([
      nameFold(known(versions, carrier).storedFileName),
      ...[...facts.links.values()].flat().flatMap(({ locator }) => (locator ? nameFold(base(locator)) : [])),
    ]);
    for (const { link, becomes } of slots) {
      // What takes another's place is another thing, about which nothing that the file says of the old one holds.
      const isOther = becomes.kind === 'item' && link.relation === 'component';
      if (link.carried || isOther || becomes.kind === 'nothing') continue;
      const token = tokenOf(becomes, facts, link);
      if (this.kept.has(link.targetRef)) continue;
      this.kept.set(link.targetRef, token);
      if (!this.byToken.has(token)) this.byToken.set(token, { ref: link.targetRef });
    }
  }

  get externals(): readonly (readonly [string, ExternalProduct])[] {
    return [...this.products];
  }

  /** What the file calls a target. */
  calledIn(target: UseTarget): { readonly id: string; readonly name: string } | undefined {
    if ('external' in target) return this.products.get(target.external);
    return this.inFile.get(target.ref);
  }

  livesHere(target: UseTarget): boolean {
    return 'ref' in target && [...this.own.values()].includes(target.ref);
  }

  of(becomes: Becomes, link?: WrittenLink): UseTarget {
    if (link?.carried && becomes.kind === 'copy') return { ref: link.targetRef };
    const token = tokenOf(becomes, this.facts, link);
    if (link && this.kept.get(link.targetRef) === token) return { ref: link.targetRef };
    const here = becomes.kind === 'copy' ? this.ownProduct(becomes.key) : undefined;
    if (here !== undefined && !link) return { ref: here };
    const before = this.byToken.get(token);
    if (before) return before;
    const target: UseTarget = { external: token };
    this.byToken.set(token, target);
    this.products.set(token, this.productFor(becomes, link));
    return target;
  }

  private ownProduct(key: string): number | undefined {
    for (const [said, ref] of this.own) if (said.startsWith(`${key} `)) return ref;
    return undefined;
  }

  private productFor(becomes: Becomes, link: WrittenLink | undefined): ExternalProduct {
    const { plan, versions } = this.facts;
    if (becomes.kind === 'copy') {
      const copy = plan.lines.find(({ key }) => key === becomes.key)?.copy;
      return this.product(copy?.number ?? '', copy?.name ?? '', copy?.fileName ?? '');
    }
    const id = becomes.kind === 'item' ? becomes.item.versionId : (link?.targetVersionId ?? '');
    const version = known(versions, id);
    const carrier = version.carrierVersion === null ? version : versions.get(version.carrierVersion);
    return this.product(version.number, version.name, carrier?.fileName ?? '');
  }

  private product(number: string, name: string, fileName: string): ExternalProduct {
    const locator = uniqueFileName(fileName || `${number}.stp`, this.fileNames);
    this.fileNames.add(nameFold(locator));
    return { id: number, name, locator };
  }
}

/** What a use leads to; the same for a use that was there and for one that is added. */
function tokenOf(becomes: Becomes, facts: VariantFacts, link?: WrittenLink): string {
  if (becomes.kind === 'copy')
    return `copy ${becomes.key} ${link?.targetVersionId ?? copyNamed(facts, becomes.key)?.versionId ?? ''}`;
  return `version ${becomes.kind === 'item' ? becomes.item.versionId : (link?.targetVersionId ?? '')}`;
}
