/** How links are followed under a lens, downwards and upwards, on dense numbers. */
import { keepsRecorded, leavesOut, passesOver, type Lens } from '../../model/lens.js';
import { HOLDS_CARRIED, HOLDS_LIMITED, IS_CARRIED, NEWEST, NONE, type LinkIndex } from './link-index.js';

/** The version of an item that a lens picks without looking at a link; `NONE` where there is none. */
function pick(index: LinkIndex, item: number, lens: Lens): number {
  let version = index.newestOf(item);
  while (version !== NONE && isPassedOver(index, version, lens)) version = index.previousOf(version);
  return version;
}

function isPassedOver(index: LinkIndex, version: number, lens: Lens): boolean {
  return passesOver(
    lens,
    index.releasedAt(version),
    index.createdAt(version),
    index.versionIds.at(version),
    lens.kind === 'effective' ? index.effectivityOf(version) : undefined,
  );
}

/** The version that a link leads to; `NONE` where the lens finds none. */
function followLink(index: LinkIndex, link: number, lens: Lens): number {
  const item = index.targetItemOf(link);
  if (item === NONE) return NONE;
  const recorded = index.targetVersionOf(link);
  if (keepsRecorded(lens, index.isCarried(link)) && recorded !== NONE) return recorded;
  return pick(index, item, lens);
}

/** Calls for each link of a version that counts under a lens, with the version that it leads to or `NONE`. */
export function eachLinkBelow(
  index: LinkIndex,
  version: number,
  lens: Lens,
  call: (child: number, link: number) => void,
): void {
  const end = index.endOfLinks(version);
  for (let link = index.firstLink(version); link < end; link++)
    if (index.isIn(link, lens)) call(followLink(index, link, lens), link);
}

/** Versions in the order in which they were reached, each once. */
export class MarkSet {
  readonly marked: Uint8Array;
  readonly reached: Int32Array;
  count = 0;

  /** @param versions how many there are */
  constructor(versions: number) {
    this.marked = new Uint8Array(versions);
    this.reached = new Int32Array(versions);
  }

  add(version: number): void {
    if (this.marked[version] === 1) return;
    this.marked[version] = 1;
    this.reached[this.count++] = version;
  }
}

type EachParent = (parent: number, quantity: number, link: number) => void;

/** What uses a version under a lens; the inverse of `followLink`. */
export class Upward {
  private readonly live: Uint8Array | undefined;
  private readonly carried = new Map<number, boolean>();
  /** Users whose links are not to be taken without a closer look. */
  private readonly special: number;

  constructor(
    private readonly index: LinkIndex,
    private readonly lens: Lens,
  ) {
    this.live = lens.kind === 'recorded' ? index.live(lens.configuration) : undefined;
    this.special = HOLDS_CARRIED | IS_CARRIED | (leavesOut(lens) ? HOLDS_LIMITED : 0);
  }

  /** Of one version of an item, or of any where it is `NONE`. */
  eachParent(item: number, version: number, call: EachParent): void {
    if (this.lens.kind === 'newest') this.eachNewestParent(item, version, call);
    else this.index.eachUse(item, (link, parent) => this.take(link, parent, version, call));
  }

  /** As `eachParent`, without quantities, into a set. */
  markParents(item: number, version: number, mark: MarkSet): void {
    if (this.lens.kind === 'newest') this.markNewestParents(item, version, mark);
    else this.eachParent(item, version, (parent) => mark.add(parent));
  }

  /** The lens asked most, in a loop of its own: most users are older versions, which go at the first look. */
  private eachNewestParent(item: number, version: number, call: EachParent): void {
    const { flags, uses } = this.index.columns;
    const { numbers, quantities } = uses;
    const { special } = this;
    const [start, end] = this.index.mergedUses(item);
    for (let at = start; at < end; at++) {
      const parent = numbers[4 * at] ?? 0;
      const known = flags[parent] ?? 0;
      if ((known & (NEWEST | IS_CARRIED)) === 0) continue;
      const link = numbers[4 * at + 1] ?? 0;
      if ((known & special) === 0) call(parent, quantities[2 * at + 1] ?? 0, link);
      else this.take(link, parent, version, call);
    }
    this.index.eachRecentUse(item, (link, parent) => this.take(link, parent, version, call));
  }

  private markNewestParents(item: number, version: number, mark: MarkSet): void {
    const { flags, uses } = this.index.columns;
    const { numbers } = uses;
    const { marked } = mark;
    const { special } = this;
    const [start, end] = this.index.mergedUses(item);
    for (let at = start; at < end; at++) {
      const parent = numbers[4 * at] ?? 0;
      // Most are older versions, or known already, and go at the first look.
      if (marked[parent] === 1) continue;
      const known = flags[parent] ?? 0;
      if ((known & (NEWEST | IS_CARRIED)) === 0) continue;
      if ((known & special) === 0) {
        marked[parent] = 1;
        mark.reached[mark.count++] = parent;
      } else this.take(numbers[4 * at + 1] ?? 0, parent, version, (user) => mark.add(user));
    }
    this.index.eachRecentUse(item, (link, parent) =>
      this.take(link, parent, version, (user) => mark.add(user)),
    );
  }

  private take(link: number, parent: number, version: number, call: EachParent): void {
    if (!this.index.isIn(link, this.lens)) return;
    const isFixed = keepsRecorded(this.lens, this.index.isCarried(link));
    if (version !== NONE && isFixed && this.index.targetVersionOf(link) !== version) return;
    if (this.counts(parent)) call(parent, this.index.quantityOf(link), link);
  }

  private counts(version: number): boolean {
    if (this.live) return this.live[version] === 1;
    if (pick(this.index, this.index.itemOfVersion(version), this.lens) === version) return true;
    return (this.index.flagsOf(version) & IS_CARRIED) !== 0 && this.isCarriedByPicked(version);
  }

  /** A carried version counts through the carrier that holds it, whatever newer one there may be elsewhere. */
  private isCarriedByPicked(version: number): boolean {
    const known = this.carried.get(version);
    if (known !== undefined) return known;
    this.carried.set(version, false);
    const item = this.index.itemOfVersion(version);
    let answer = false;
    this.index.eachUse(item, (link, parent) => {
      if (answer || !this.index.isCarried(link) || this.index.targetVersionOf(link) !== version) return;
      if (!this.index.isIn(link, this.lens)) return;
      answer = this.index.itemOfVersion(parent) !== item && this.counts(parent);
    });
    this.carried.set(version, answer);
    return answer;
  }
}
