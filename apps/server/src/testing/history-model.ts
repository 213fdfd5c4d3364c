/**
 * What a store should hold after a random history, kept by the plainest means there are. It shares no code with the server
 * and asks it nothing: what is expected follows from what was done.
 */

export interface ModelLink {
  readonly child: string;
  /** Position of the version that was seen in the child's history. */
  readonly seen: number;
  readonly quantity: number;
  /** Whether the child lives in the same file. */
  readonly isCarried: boolean;
  readonly locator: string;
}

export interface ModelVersion {
  readonly revision: number;
  readonly sequence: number;
  /** Order in which versions of the whole store came to be. */
  readonly at: number;
  readonly links: readonly ModelLink[];
}

export interface ModelItem {
  readonly number: string;
  place: string;
  /** Empty where it lives in another's file. */
  fileName: string;
  readonly isDrawing: boolean;
  readonly versions: ModelVersion[];
  /** Revisions that were released. */
  readonly released: Set<number>;
}

export type ModelLens = 'newest' | 'recorded' | 'released';

export interface ModelRow {
  readonly number: string;
  readonly version: string | null;
  readonly total: number;
}

export class HistoryModel {
  readonly items = new Map<string, ModelItem>();
  private clock = 0;

  item(number: string): ModelItem {
    const item = this.items.get(number);
    if (!item) throw new Error(`the model has no ${number}`);
    return item;
  }

  add(number: string, where: { place: string; fileName: string; isDrawing?: boolean }): ModelItem {
    const item = { number, isDrawing: false, ...where, versions: [], released: new Set<number>() };
    this.items.set(number, item);
    return item;
  }

  newest(number: string): number {
    return this.item(number).versions.length - 1;
  }

  /** A further version: of the open revision, or of the next where that is released. */
  version(number: string, links: readonly ModelLink[]): void {
    const { versions, released } = this.item(number);
    const last = versions.at(-1);
    const isOpen = last !== undefined && !released.has(last.revision);
    const revision = last === undefined ? 1 : isOpen ? last.revision : last.revision + 1;
    versions.push({ revision, sequence: isOpen ? last.sequence + 1 : 1, at: ++this.clock, links });
  }

  release(number: string): void {
    const { versions, released } = this.item(number);
    released.add(versions.at(-1)?.revision ?? 0);
  }

  label(number: string, at: number): string {
    const version = this.item(number).versions[at];
    return version ? `${String.fromCharCode(64 + version.revision)}/${version.sequence}` : '';
  }

  /** The version that a lens gives for an item as a root; -1 where it gives none. */
  root(number: string, lens: ModelLens): number {
    return lens === 'released' ? this.lastReleased(number) : this.newest(number);
  }

  /** All levels below, one row for each place in the tree. */
  explode(number: string, lens: ModelLens, at = this.root(number, lens)): ModelRow[] {
    const rows: ModelRow[] = [];
    const walk = (parent: string, version: number, total: number): void => {
      for (const link of this.item(parent).versions[version]?.links ?? []) {
        const next = this.follow(link, lens);
        const rowTotal = total * link.quantity;
        rows.push({
          number: link.child,
          version: next < 0 ? null : this.label(link.child, next),
          total: rowTotal,
        });
        if (next >= 0) walk(link.child, next, rowTotal);
      }
    };
    walk(number, at, 1);
    return rows;
  }

  /** Versions of a tree under a lens, the root's included, as `NUMBER position`. */
  reach(
    number: string,
    lens: ModelLens,
    at = this.root(number, lens),
  ): Map<string, readonly [string, number]> {
    const found = new Map<string, readonly [string, number]>();
    const walk = (item: string, version: number): void => {
      if (version < 0 || found.has(`${item} ${version}`)) return;
      found.set(`${item} ${version}`, [item, version]);
      for (const link of this.item(item).versions[version]?.links ?? [])
        walk(link.child, this.follow(link, lens));
    };
    walk(number, at);
    return found;
  }

  /** Items whose newest version contains an item, on any level. */
  usersOf(number: string): string[] {
    return [...this.items.keys()].filter(
      (user) => user !== number && [...this.reach(user, 'newest').values()].some(([item]) => item === number),
    );
  }

  /** Copies of everything below a version as it was recorded, or of the top alone; what lives in a copied file is copied too. */
  derive(number: string, { prefix, place, isAll }: { prefix: string; place: string; isAll: boolean }): void {
    const top = this.newest(number);
    const tree = [...this.reach(number, 'recorded', top).values()];
    const copied = new Set(isAll ? tree.map(([item]) => item) : this.inFileOf(number, top));
    const versions = tree
      .filter(([item]) => copied.has(item))
      .sort(([a, x], [b, y]) => (this.item(a).versions[x]?.at ?? 0) - (this.item(b).versions[y]?.at ?? 0));
    const positions = new Map<string, number>();
    for (const [item, at] of versions) {
      const made = `${prefix}${item}`;
      const { fileName, isDrawing } = this.item(item);
      const copy =
        this.items.get(made) ??
        this.add(made, {
          place,
          fileName: fileName && `${made}.${fileName.split('.').at(-1) ?? ''}`,
          isDrawing,
        });
      positions.set(`${item} ${at}`, copy.versions.length);
      copy.versions.push({ revision: 1, sequence: copy.versions.length + 1, at: ++this.clock, links: [] });
    }
    for (const [item, at] of versions) {
      const copy = this.item(`${prefix}${item}`);
      const own = positions.get(`${item} ${at}`) ?? 0;
      const before = copy.versions[own];
      if (!before) continue;
      const links = (this.item(item).versions[at]?.links ?? []).map((link) => {
        const seen = positions.get(`${link.child} ${link.seen}`);
        return seen === undefined ? link : { ...link, child: `${prefix}${link.child}`, seen };
      });
      copy.versions[own] = { ...before, links };
    }
  }

  private inFileOf(number: string, at: number): string[] {
    const carried = (this.item(number).versions[at]?.links ?? []).filter(({ isCarried }) => isCarried);
    return [number, ...carried.flatMap(({ child, seen }) => this.inFileOf(child, seen))];
  }

  private follow({ child, seen, isCarried }: ModelLink, lens: ModelLens): number {
    if (isCarried || lens === 'recorded') return seen;
    return this.root(child, lens);
  }

  private lastReleased(number: string): number {
    const { versions, released } = this.item(number);
    return versions.findLastIndex(({ revision }) => released.has(revision));
  }
}
