/** How links are followed under a lens, downwards and upwards, on dense numbers. */
import type { Lens } from '../lens.js';
import { NONE, type LinkIndex } from './link-index.js';

/** The version of an item that a lens picks without looking at a link; `NONE` where there is none. */
function pick(index: LinkIndex, item: number, lens: Lens): number {
  let version = index.newestOf(item);
  if (lens.kind === 'released')
    while (version !== NONE && !index.isReleased(version)) version = index.previousOf(version);
  if (lens.kind === 'date')
    while (version !== NONE && index.createdAt(version) > lens.atMs) version = index.previousOf(version);
  return version;
}

/** The version that a link leads to; `NONE` where the lens finds none. */
export function followLink(index: LinkIndex, link: number, lens: Lens): number {
  const item = index.targetItemOf(link);
  if (item === NONE) return NONE;
  const recorded = index.targetVersionOf(link);
  if ((lens.kind === 'recorded' || index.isCarried(link)) && recorded !== NONE) return recorded;
  return pick(index, item, lens);
}

/** What uses a version under a lens; the inverse of `followLink`. */
export class Upward {
  private readonly live: Uint8Array | undefined;
  private readonly carried = new Map<number, boolean>();

  constructor(
    private readonly index: LinkIndex,
    private readonly lens: Lens,
  ) {
    this.live = lens.kind === 'recorded' ? index.live() : undefined;
  }

  /** Of one version of an item, or of any where it is `NONE`. */
  eachParent(item: number, version: number, call: (parent: number, quantity: number, link: number) => void): void {
    this.index.eachUse(item, (link) => {
      const parent = this.index.parentOf(link);
      const isFixed = this.live !== undefined || this.index.isCarried(link);
      if (version !== NONE && isFixed && this.index.targetVersionOf(link) !== version) return;
      if (this.counts(parent)) call(parent, this.index.quantityOf(link), link);
    });
  }

  private counts(version: number): boolean {
    if (this.live) return this.live[version] === 1;
    return (
      pick(this.index, this.index.itemOfVersion(version), this.lens) === version ||
      this.isCarriedByPicked(version)
    );
  }

  /** A carried version counts through the carrier that holds it, whatever newer one there may be elsewhere. */
  private isCarriedByPicked(version: number): boolean {
    const known = this.carried.get(version);
    if (known !== undefined) return known;
    this.carried.set(version, false);
    const item = this.index.itemOfVersion(version);
    let answer = false;
    this.index.eachUse(item, (link) => {
      if (answer || !this.index.isCarried(link) || this.index.targetVersionOf(link) !== version) return;
      const parent = this.index.parentOf(link);
      answer = this.index.itemOfVersion(parent) !== item && this.counts(parent);
    });
    this.carried.set(version, answer);
    return answer;
  }
}
