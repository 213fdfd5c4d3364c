import { IDENTITY_PLACEMENT, type Placement } from '../model/link.js';
import { StructureTooLarge } from '../structure/errors.js';
import type { LinkEdge, StructureGraph } from '../structure/graph.js';
import { follow, linksUnder } from '../structure/lens.js';
import type { Lens } from '../model/lens.js';
import { multiply } from './placement.js';

/** What a scene needs to know of a version. */
export interface SceneNode {
  readonly isPart: boolean;
  /** Version whose file holds its geometry; its own id where it has a file. */
  readonly file: string;
}

/** A file's geometry, and everywhere it stands in the root's frame. */
export interface SceneFile {
  readonly file: string;
  readonly at: readonly Placement[];
  /** Of each place, the use that it is: its place in the list of nodes. */
  readonly nodes: readonly number[];
}

/** A use of the tree below which there is something to be seen. */
export interface ScenePlace {
  readonly version: string;
  /** Place in the list of the use that it lies in; -1 for the root. */
  readonly parent: number;
  /** What its parent calls it; empty where it has no name. */
  readonly name: string;
  /** Where it stands in the root's frame. */
  readonly at: Placement;
}

export interface ScenePlan {
  readonly files: readonly SceneFile[];
  /** Depth first. */
  readonly nodes: readonly ScenePlace[];
}

const MOST_PLACED = 20_000;

interface SceneOptions {
  readonly lens: Lens;
  /** A version of the tree. */
  readonly nodeOf: (version: string) => SceneNode | undefined;
}

/**
 * Where the geometry of every file of a tree stands, under any lens, so that an assembly can be shown that was never saved as
 * a whole. What lives in a file is drawn with it, once for each place of the file.
 *
 * What a version places is counted first, each version once; then only ways are walked that lead to something placed:
 * `O(links + placed files × levels)`, however many ways lead through the tree.
 *
 * @throws StructureTooLarge beyond 20,000 placed files
 */
export function sceneOf(graph: StructureGraph, root: string, options: SceneOptions): ScenePlan {
  const yields = new Yields(graph, options);
  const total = yields.of(root).placed;
  if (total > MOST_PLACED) throw new StructureTooLarge(MOST_PLACED, total);
  const files = new Map<string, { readonly at: Placement[]; readonly nodes: number[] }>();
  const nodes: ScenePlace[] = [];
  const visit = (place: ScenePlace, path: ReadonlySet<string>): void => {
    const { version, at } = place;
    const node = nodes.push(place) - 1;
    const deeper = new Set(path).add(version);
    for (const { child, occurrences } of yields.childrenOf(version)) {
      if (deeper.has(child) || yields.of(child).placed === 0) continue;
      for (const { placement, name } of occurrences)
        visit({ version: child, parent: node, name, at: multiply(at, placement) }, deeper);
    }
    if (!yields.of(version).placesItself) return;
    const file = files.get(version) ?? { at: [], nodes: [] };
    files.set(version, file);
    file.at.push(at);
    file.nodes.push(node);
  };
  if (total > 0) visit({ version: root, parent: -1, name: '', at: IDENTITY_PLACEMENT }, new Set());
  return { files: [...files].map(([file, places]) => ({ file, ...places })), nodes };
}

interface Yield {
  /** Files that are placed below, itself included. */
  readonly placed: number;
  readonly placesItself: boolean;
  /** Whether its file's root draws it: it lives in another's file, and it or what it carries is a part. */
  readonly isDrawnByCarrier: boolean;
}

const NOTHING: Yield = { placed: 0, placesItself: false, isDrawnByCarrier: false };

interface Child {
  readonly child: string;
  readonly carried: boolean;
  readonly occurrences: LinkEdge['occurrences'];
}

/** What each version comes to, worked out once. */
class Yields {
  private readonly known = new Map<string, Yield>();
  private readonly children = new Map<string, readonly Child[]>();

  constructor(
    private readonly graph: StructureGraph,
    private readonly options: SceneOptions,
  ) {}

  of(version: string): Yield {
    return this.known.get(version) ?? this.workOut(version);
  }

  childrenOf(version: string): readonly Child[] {
    const known = this.children.get(version);
    if (known) return known;
    const { lens } = this.options;
    const found = linksUnder(this.graph, version, lens).flatMap((link): Child[] => {
      const child = follow(this.graph, link, lens)?.id;
      return child === undefined ? [] : [{ child, carried: link.carried, occurrences: link.occurrences }];
    });
    this.children.set(version, found);
    return found;
  }

  /** Those below first. What would contain itself yields nothing there. */
  private workOut(root: string): Yield {
    const onPath = new Set<string>([root]);
    const stack = [{ version: root, next: 0 }];
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const below = this.childrenOf(top.version)[top.next++]?.child;
      if (below === undefined) {
        this.known.set(top.version, this.sum(top.version));
        onPath.delete(top.version);
        stack.pop();
      } else if (!this.known.has(below) && !onPath.has(below)) {
        onPath.add(below);
        stack.push({ version: below, next: 0 });
      }
    }
    return this.known.get(root) ?? NOTHING;
  }

  private sum(version: string): Yield {
    const node = this.options.nodeOf(version);
    if (!node) return NOTHING;
    let placed = 0;
    let holdsPart = node.isPart;
    for (const { child, carried, occurrences } of this.childrenOf(version)) {
      const below = this.known.get(child) ?? NOTHING;
      placed += below.placed * occurrences.length;
      holdsPart ||= carried && occurrences.length > 0 && below.isDrawnByCarrier;
    }
    // Only the file's own root places it; what lives in it says upwards that there is geometry.
    const placesItself = node.file === version && holdsPart;
    return {
      placed: placed + (placesItself ? 1 : 0),
      placesItself,
      isDrawnByCarrier: node.file !== version && holdsPart,
    };
  }
}
