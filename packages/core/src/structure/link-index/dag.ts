/** Everything below or above, each version once, with every link between them. Trees, maps and chains are drawn from it. */
import { StructureTooLarge } from '../errors.js';
import type { Lens } from '../../model/lens.js';
import { Column } from './columns.js';
import { eachLinkBelow, Upward } from './follow.js';
import { NONE, type LinkIndex } from './link-index.js';

const MAX_DAG_LINKS = 1_000_000;

export interface LinkDag {
  /** Ids of versions; the one asked about is the first. */
  readonly versions: Float64Array;
  /** Shortest way to the one asked about. */
  readonly levels: Uint16Array;
  /** Place of the user in `versions`. Links of one user come together, in the order of its file. */
  readonly from: Int32Array;
  /** Place of the used one in `versions`; -1 where the lens finds none. */
  readonly to: Int32Array;
  /** Id of the used item; -1 where nobody knows it. */
  readonly items: Float64Array;
  /** Id of the version that was recorded; -1 for a gap. */
  readonly recorded: Float64Array;
  readonly quantities: Float64Array;
  /** Versions that the recorded one is behind the newest. */
  readonly behind: Int32Array;
  /** Names of the configurations that a link belongs to, by its place; those that belong to all are absent. */
  readonly configurations: ReadonlyMap<number, readonly string[]>;
}

/**
 * What a version is made of under a lens. `O(links reached)`
 *
 * @throws StructureTooLarge beyond a million links
 */
export function dagBelow(index: LinkIndex, versionId: number, lens: Lens): LinkDag {
  const reached = new Reached(index, versionId);
  for (let slot = 0; slot < reached.count; slot++) {
    eachLinkBelow(index, reached.versionAt(slot), lens, (child, link) =>
      reached.link(slot, child === NONE ? NONE : reached.slotOf(child, slot), link),
    );
  }
  return reached.done();
}

/**
 * What uses an item under a lens. The version asked about stands for the item: whichever version a user recorded, its
 * link leads there.
 *
 * @throws StructureTooLarge beyond a million links
 */
export function dagAbove(index: LinkIndex, versionId: number, lens: Lens): LinkDag {
  const reached = new Reached(index, versionId);
  const upward = new Upward(index, lens);
  for (let slot = 0; slot < reached.count; slot++) {
    const version = reached.versionAt(slot);
    const item = index.itemOfVersion(version);
    upward.eachParent(item, slot === 0 ? NONE : version, (parent, _, link) => {
      // A circle would lead back to the one asked about.
      if (slot === 0 || index.itemOfVersion(parent) !== index.itemOfVersion(reached.versionAt(0)))
        reached.link(reached.slotOf(parent, slot), slot, link);
    });
  }
  return reached.done();
}

class Reached {
  private readonly slots = new Map<number, number>();
  private readonly versions: number[] = [];
  private readonly levels: number[] = [];
  private readonly from = Column.ints(64);
  private readonly to = Column.ints(64);
  private readonly links = Column.ints(64);

  constructor(
    private readonly index: LinkIndex,
    versionId: number,
  ) {
    const start = index.version(versionId);
    if (start === NONE) return;
    this.slots.set(start, 0);
    this.versions.push(start);
    this.levels.push(0);
  }

  get count(): number {
    return this.versions.length;
  }

  versionAt(slot: number): number {
    return this.versions[slot] ?? NONE;
  }

  /** The place of a version that was reached from another. */
  slotOf(version: number, by: number): number {
    const known = this.slots.get(version);
    if (known !== undefined) return known;
    const slot = this.versions.push(version) - 1;
    this.levels.push((this.levels[by] ?? 0) + 1);
    this.slots.set(version, slot);
    return slot;
  }

  link(from: number, to: number, link: number): void {
    if (this.links.length >= MAX_DAG_LINKS) throw new StructureTooLarge(MAX_DAG_LINKS);
    this.from.push(from);
    this.to.push(to);
    this.links.push(link);
  }

  done(): LinkDag {
    const { index } = this;
    // By user and there in the order of the file; the index numbers links so.
    const order = Int32Array.from({ length: this.links.length }, (_, at) => at).sort(
      (a, b) => this.from.at(a) - this.from.at(b) || this.links.at(a) - this.links.at(b),
    );
    const links = order.map((at) => this.links.at(at));
    return {
      versions: Float64Array.from(this.versions, (version) => index.versionIds.at(version)),
      levels: Uint16Array.from(this.levels),
      from: order.map((at) => this.from.at(at)),
      to: order.map((at) => this.to.at(at)),
      items: Float64Array.from(links, (link) => {
        const item = index.targetItemOf(link);
        return item === NONE ? -1 : index.itemIds.at(item);
      }),
      recorded: Float64Array.from(links, (link) => {
        const version = index.targetVersionOf(link);
        return version === NONE ? -1 : index.versionIds.at(version);
      }),
      quantities: Float64Array.from(links, (link) => index.quantityOf(link)),
      behind: links.map((link) => index.behindOf(link)),
      configurations: new Map(
        [...links.entries()].flatMap(([at, link]) => {
          const names = index.configurationsOf(link);
          return names.length === 0 ? [] : [[at, names] as const];
        }),
      ),
    };
  }
}

/** Ids of the items whose newest version holds a link that is behind. `O(links of newest versions)` */
export function behindItems(index: LinkIndex): Float64Array {
  const behind: number[] = [];
  for (let item = 0; item < index.itemIds.length; item++) {
    const version = index.newestOf(item);
    const end = index.endOfLinks(version);
    for (let link = index.firstLink(version); link < end; link++) {
      if (index.behindOf(link) === 0) continue;
      behind.push(index.itemIds.at(item));
      break;
    }
  }
  return Float64Array.from(behind);
}
