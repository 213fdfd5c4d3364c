/**
 * All links of all versions in typed arrays, for asking both ways in the time of a key press.
 *
 * Items and versions are dense numbers inside; ids of the database are translated at the edge. Layout:
 * - a version knows its item, the version before it (`previous`), and its links as a range `[downStart, downEnd)`;
 * - an item knows its newest version; older ones are reached through `previous`, for an item has few;
 * - links lie together by parent, since a version comes with all its links and never changes;
 * - uses of an item are a range of `uses`, built in one pass: user, link and quantity side by side, since what is read
 *   together must lie together once the store is larger than a processor's cache. What came since lies in `recentUses`
 *   until there is enough of it to build the ranges anew. So a check-in costs its own links, not the store's.
 *
 * 41 bytes a link, 42 a version, 12 an item, and the maps of ids and of the few links that do not count always.
 */
import { isIn, RECORDED, type Lens, type LinkLimits } from '../../model/lens.js';
import type { Effectivity } from '../../model/effectivity.js';
import type { LinkFacts } from '../../model/link.js';
import type { LensFacts } from '../../model/version.js';
import { Column } from './columns.js';

export interface IndexVersion extends LensFacts {
  readonly id: number;
  readonly item: number;
}

/** A link by the numbers of the database; occurrences are asked for where they are shown. */
export interface IndexLink extends Pick<LinkFacts, 'quantity' | 'carried'>, LinkLimits {
  readonly id: number;
  /** Version that holds it. */
  readonly parent: number;
  /** -1 for a gap. */
  readonly targetItem: number;
  readonly targetVersion: number;
}

export const NONE = -1;

/** What is known of a version, as bits. */
export const NEWEST = 1;
/** Some of its links lead to parts that live in its own file. */
export const HOLDS_CARRIED = 4;
/** It lives in the file of another. */
export const IS_CARRIED = 8;
/** Some of its links do not count under every lens: in some configurations only, or for some time. */
export const HOLDS_LIMITED = 16;

/** What is known of a link, as bits. */
const CARRIED = 1;
const LIMITED = 2;

/** New uses beyond which the ranges are built anew. */
const MERGE_AT = 20_000;

/** Records of 16 bytes: the version that uses and the link as 32-bit numbers, then the quantity as a 64-bit one. */
export interface Uses {
  readonly numbers: Int32Array;
  readonly quantities: Float64Array;
}

function usesFor(count: number): Uses {
  const bytes = new ArrayBuffer(16 * count);
  return { numbers: new Int32Array(bytes), quantities: new Float64Array(bytes) };
}

export class LinkIndex {
  private readonly itemOf = new Map<number, number>();
  private readonly versionOf = new Map<number, number>();
  private readonly gaps = new Map<number, number>();

  readonly itemIds: Column<Float64Array>;
  private readonly newest: Column<Int32Array>;
  private upStart = new Int32Array(0);
  private uses = usesFor(0);
  private readonly recentUses = new Map<number, number[]>();
  private recentCount = 0;

  readonly versionIds: Column<Float64Array>;
  private readonly versionItem: Column<Int32Array>;
  private readonly previous: Column<Int32Array>;
  private readonly createdAtMs: Column<Float64Array>;
  private readonly releasedAtMs: Column<Float64Array>;
  private readonly flags: Column<Uint8Array>;
  private readonly downStart: Column<Int32Array>;
  private readonly downEnd: Column<Int32Array>;

  private readonly linkParent: Column<Int32Array>;
  private readonly linkItem: Column<Int32Array>;
  private readonly linkVersion: Column<Int32Array>;
  private readonly linkQuantity: Column<Float64Array>;
  private readonly linkFlags: Column<Uint8Array>;
  /** Of links that do not count always. */
  private readonly limits = new Map<number, LinkLimits>();
  /** Of versions that do not count from their release on. */
  private readonly effectivities = new Map<number, Effectivity>();

  /** By configuration; empty for all. Only the last that was asked for, besides all. */
  private readonly liveness = new Map<string, Uint8Array>();

  /** @param expected how many there will be about; more may come */
  constructor(expected: { readonly items: number; readonly versions: number; readonly links: number }) {
    this.itemIds = Column.floats(expected.items);
    this.newest = Column.ints(expected.items);
    this.versionIds = Column.floats(expected.versions);
    this.versionItem = Column.ints(expected.versions);
    this.previous = Column.ints(expected.versions);
    this.createdAtMs = Column.floats(expected.versions);
    this.releasedAtMs = Column.floats(expected.versions);
    this.flags = Column.bytes(expected.versions);
    this.downStart = Column.ints(expected.versions);
    this.downEnd = Column.ints(expected.versions);
    this.linkParent = Column.ints(expected.links);
    this.linkItem = Column.ints(expected.links);
    this.linkVersion = Column.ints(expected.links);
    this.linkQuantity = Column.floats(expected.links);
    this.linkFlags = Column.bytes(expected.links);
  }

  get size(): { items: number; versions: number; links: number; bytes: number } {
    const columns = [
      this.itemIds,
      this.newest,
      this.versionIds,
      this.versionItem,
      this.previous,
      this.createdAtMs,
      this.releasedAtMs,
      this.flags,
      this.downStart,
      this.downEnd,
      this.linkParent,
      this.linkItem,
      this.linkVersion,
      this.linkQuantity,
      this.linkFlags,
    ];
    return {
      items: this.itemIds.length,
      versions: this.versionIds.length,
      links: this.linkParent.length,
      bytes:
        columns.reduce((sum, { bytes }) => sum + bytes, 0) +
        this.upStart.byteLength +
        this.uses.numbers.byteLength,
    };
  }

  /** Dense number of an item's id; `NONE` where it has no version here. */
  item(id: number): number {
    return this.itemOf.get(id) ?? NONE;
  }

  version(id: number): number {
    return this.versionOf.get(id) ?? NONE;
  }

  /** Adds a version after those that its item has. Versions of an item come oldest first. */
  addVersion({ id, item, createdAtMs, releasedAtMs, effectivity }: IndexVersion): void {
    let dense = this.itemOf.get(item);
    if (dense === undefined) {
      dense = this.itemIds.push(item);
      this.newest.push(NONE);
      this.itemOf.set(item, dense);
    }
    const version = this.versionIds.push(id);
    this.versionOf.set(id, version);
    this.versionItem.push(dense);
    const before = this.newest.at(dense);
    this.previous.push(before);
    this.createdAtMs.push(createdAtMs);
    this.releasedAtMs.push(releasedAtMs);
    this.flags.push(NEWEST);
    if (before !== NONE) this.setFlag(before, NEWEST, false);
    this.downStart.push(this.linkParent.length);
    this.downEnd.push(this.linkParent.length);
    this.newest.data[dense] = version;
    if (effectivity) this.effectivities.set(version, effectivity);
    this.liveness.clear();
  }

  /**
   * Adds a link. Links of one version come together, and after all versions that they speak of.
   *
   * @throws RangeError where they do not
   */
  addLink(added: IndexLink): void {
    const { id, parent, targetItem, targetVersion, quantity, carried } = added;
    const from = this.version(parent);
    if (from === NONE) throw new RangeError(`link ${id} belongs to version ${parent}, which is not known`);
    const link = this.linkParent.push(from);
    if (this.downStart.at(from) === this.downEnd.at(from)) this.downStart.data[from] = link;
    else if (this.downEnd.at(from) !== link)
      throw new RangeError(`links of version ${parent} do not come together`);
    this.downEnd.data[from] = link + 1;
    const item = targetItem < 0 ? NONE : this.item(targetItem);
    this.linkItem.push(item);
    this.linkVersion.push(targetVersion < 0 ? NONE : this.version(targetVersion));
    this.linkQuantity.push(quantity);
    this.linkFlags.push(carried ? CARRIED : 0);
    this.limit(link, added);
    if (carried) {
      this.setFlag(from, HOLDS_CARRIED, true);
      const target = this.linkVersion.at(link);
      if (target !== NONE) this.setFlag(target, IS_CARRIED, true);
    }
    if (item === NONE) this.gaps.set(id, link);
    else this.addUse(item, link);
    this.liveness.clear();
  }

  /** A reference that led nowhere leads somewhere now. */
  fillGap(id: number, targetItem: number, targetVersion: number): void {
    const link = this.gaps.get(id);
    const item = this.item(targetItem);
    if (link === undefined || item === NONE) return;
    this.gaps.delete(id);
    this.linkItem.data[link] = item;
    this.linkVersion.data[link] = this.version(targetVersion);
    this.addUse(item, link);
    this.liveness.clear();
  }

  setReleased(
    versionId: number,
    { releasedAtMs, effectivity }: Pick<IndexVersion, 'releasedAtMs' | 'effectivity'>,
  ): void {
    const version = this.version(versionId);
    if (version === NONE) return;
    this.releasedAtMs.data[version] = releasedAtMs;
    if (effectivity) this.effectivities.set(version, effectivity);
    else this.effectivities.delete(version);
  }

  /**
   * From when until when the links of a version count from now on.
   *
   * @param effectivities of its links, in their order; undefined for those that count always
   */
  setEffectivities(versionId: number, effectivities: readonly (Effectivity | undefined)[]): void {
    const version = this.version(versionId);
    if (version === NONE) return;
    const start = this.downStart.at(version);
    for (const [at, effectivity] of effectivities.entries()) {
      if (start + at >= this.downEnd.at(version)) break;
      this.limit(start + at, {
        configurations: this.configurationsOf(start + at),
        ...(effectivity ? { effectivity } : {}),
      });
    }
  }

  private limit(link: number, { configurations = [], effectivity }: LinkLimits): void {
    const isLimited = configurations.length > 0 || effectivity !== undefined;
    const flags = this.linkFlags.at(link);
    this.linkFlags.data[link] = isLimited ? flags | LIMITED : flags & ~LIMITED;
    if (isLimited) {
      this.limits.set(link, { configurations, ...(effectivity ? { effectivity } : {}) });
      this.setFlag(this.linkParent.at(link), HOLDS_LIMITED, true);
    } else this.limits.delete(link);
  }

  private setFlag(version: number, flag: number, isSet: boolean): void {
    const flags = this.flags.at(version);
    this.flags.data[version] = isSet ? flags | flag : flags & ~flag;
  }

  /** Builds the ranges of uses anew. `O(links)`; called by itself when enough has come in. */
  merge(): void {
    const items = this.itemIds.length;
    const links = this.linkItem.length;
    const start = new Int32Array(items + 1);
    for (let link = 0; link < links; link++) {
      const item = this.linkItem.at(link);
      if (item !== NONE) start[item + 1] = (start[item + 1] ?? 0) + 1;
    }
    for (let item = 0; item < items; item++) start[item + 1] = (start[item + 1] ?? 0) + (start[item] ?? 0);
    const uses = usesFor(start[items] ?? 0);
    const next = start.slice(0, items);
    for (let link = 0; link < links; link++) {
      const item = this.linkItem.at(link);
      if (item === NONE) continue;
      const at = next[item] ?? 0;
      uses.numbers[4 * at] = this.linkParent.at(link);
      uses.numbers[4 * at + 1] = link;
      uses.quantities[2 * at + 1] = this.linkQuantity.at(link);
      next[item] = at + 1;
    }
    this.upStart = start;
    this.uses = uses;
    this.recentUses.clear();
    this.recentCount = 0;
  }

  private addUse(item: number, link: number): void {
    const recent = this.recentUses.get(item);
    if (recent) recent.push(link);
    else this.recentUses.set(item, [link]);
    this.recentCount++;
    if (this.recentCount > MERGE_AT && this.recentCount * 32 > this.uses.numbers.length) this.merge();
  }

  // --- what questions are asked with; all on dense numbers, `O(1)` unless said

  itemOfVersion(version: number): number {
    return this.versionItem.at(version);
  }

  newestOf(item: number): number {
    return this.newest.at(item);
  }

  previousOf(version: number): number {
    return this.previous.at(version);
  }

  releasedAt(version: number): number {
    return this.releasedAtMs.at(version);
  }

  createdAt(version: number): number {
    return this.createdAtMs.at(version);
  }

  /** From when on it counts, where that is said. */
  effectivityOf(version: number): Effectivity | undefined {
    return this.effectivities.get(version);
  }

  /** The columns themselves, for loops that cannot afford a call; not to be kept, for they move as they grow. */
  get columns(): { readonly flags: Uint8Array; readonly uses: Uses } {
    return { flags: this.flags.data, uses: this.uses };
  }

  /** Where the uses of an item begin and end in `uses`, those apart that came since it was built. */
  mergedUses(item: number): readonly [start: number, end: number] {
    return item + 1 < this.upStart.length ? [this.upStart[item] ?? 0, this.upStart[item + 1] ?? 0] : [0, 0];
  }

  eachRecentUse(item: number, call: (link: number, parent: number) => void): void {
    if (this.recentCount === 0) return;
    for (const link of this.recentUses.get(item) ?? []) call(link, this.linkParent.at(link));
  }

  flagsOf(version: number): number {
    return this.flags.at(version);
  }

  firstLink(version: number): number {
    return this.downStart.at(version);
  }

  endOfLinks(version: number): number {
    return this.downEnd.at(version);
  }

  parentOf(link: number): number {
    return this.linkParent.at(link);
  }

  targetItemOf(link: number): number {
    return this.linkItem.at(link);
  }

  targetVersionOf(link: number): number {
    return this.linkVersion.at(link);
  }

  quantityOf(link: number): number {
    return this.linkQuantity.at(link);
  }

  isCarried(link: number): boolean {
    return (this.linkFlags.at(link) & CARRIED) !== 0;
  }

  /** Names of the configurations that a link belongs to; empty where that is all of them. */
  configurationsOf(link: number): readonly string[] {
    return this.limits.get(link)?.configurations ?? [];
  }

  /** Whether a link counts under a lens. */
  isIn(link: number, lens: Lens): boolean {
    return (this.linkFlags.at(link) & LIMITED) === 0 || isIn(this.limits.get(link) ?? {}, lens);
  }

  /** Versions that a link's recorded one is behind the newest; 0 for gaps and carried ones. `O(versions between)` */
  behindOf(link: number): number {
    const item = this.linkItem.at(link);
    const recorded = this.linkVersion.at(link);
    if (item === NONE || recorded === NONE || this.isCarried(link)) return 0;
    let behind = 0;
    for (let version = this.newest.at(item); version !== recorded && version !== NONE; behind++)
      version = this.previous.at(version);
    return behind;
  }

  /** Calls for every link to an item, from any version. `O(uses)` */
  eachUse(item: number, call: (link: number, parent: number) => void): void {
    const { numbers } = this.uses;
    const [start, end] = this.mergedUses(item);
    for (let at = start; at < end; at++) call(numbers[4 * at + 1] ?? 0, numbers[4 * at] ?? 0);
    this.eachRecentUse(item, call);
  }

  /**
   * Which versions some newest product still reaches as recorded: newest ones, and what live ones recorded, in a
   * configuration or in any. Worked out once after a change, `O(links)`.
   */
  live(configuration?: string): Uint8Array {
    const known = this.liveness.get(configuration ?? '');
    if (known) return known;
    const live = new Uint8Array(this.versionIds.length);
    const lens: Lens = { ...RECORDED, ...(configuration === undefined ? {} : { configuration }) };
    const stack: number[] = [];
    for (let item = 0; item < this.itemIds.length; item++) {
      const version = this.newest.at(item);
      live[version] = 1;
      stack.push(version);
    }
    for (let version = stack.pop(); version !== undefined; version = stack.pop()) {
      for (let link = this.downStart.at(version); link < this.downEnd.at(version); link++) {
        const target = this.linkVersion.at(link);
        if (target === NONE || live[target] === 1 || !this.isIn(link, lens)) continue;
        live[target] = 1;
        stack.push(target);
      }
    }
    if (configuration !== undefined)
      for (const other of this.liveness.keys()) if (other !== '') this.liveness.delete(other);
    this.liveness.set(configuration ?? '', live);
    return live;
  }
}
