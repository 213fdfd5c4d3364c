import type { SceneAnswer, SceneNodeView } from '@stem-trace/contract';
import { spreadOf, type Point } from '@stem-trace/core/look';
import { Box3, Vector3 } from 'three';
import { placeMatrix } from '../../../pictures/place-matrix.js';
import { toDesign } from './frames.js';
import type { LookMesh } from './look-mesh.js';

/** Uses with all that lies in them; a use comes after what it lies in. `O(nodes)` */
export function withInside(
  nodes: readonly SceneNodeView[],
  chosen: ReadonlySet<number>,
): ReadonlySet<number> {
  if (chosen.size === 0) return chosen;
  const inside = new Set(chosen);
  nodes.forEach(({ parent }, at) => (inside.has(parent) ? inside.add(at) : undefined));
  return inside;
}

/** Depth of each use, the item itself being 1. */
export function levelsOf(nodes: readonly SceneNodeView[]): number[] {
  const levels: number[] = [];
  for (const { parent } of nodes) levels.push((levels[parent] ?? 0) + 1);
  return levels;
}

/** All that a use lies in, the nearest first. */
export function waysUp(nodes: readonly SceneNodeView[], use: number): number[] {
  const up: number[] = [];
  for (let at = nodes[use]?.parent ?? -1; at >= 0; at = nodes[at]?.parent ?? -1) up.push(at);
  return up;
}

/** Those of which nothing that they lie in is closed. */
export function inSight(nodes: readonly SceneNodeView[], closed: ReadonlySet<number>): number[] {
  const shut = new Set<number>();
  return nodes.flatMap(({ parent }, at) => {
    if (shut.has(parent) || closed.has(parent)) {
      shut.add(at);
      return [];
    }
    return at;
  });
}

/**
 * A name for each use that stays while the tree around it changes: the numbers on the way to it with what they are called
 * there, and which of several it is where they have no name.
 */
export function waysOf(nodes: readonly SceneNodeView[]): string[] {
  const ways: string[] = [];
  const counted = new Map<string, number>();
  for (const { parent, number, use } of nodes) {
    const step = `${ways[parent] ?? ''}/${number}${use === '' ? '' : `:${use}`}`;
    const count = (counted.get(step) ?? 0) + 1;
    counted.set(step, count);
    ways.push(count === 1 ? step : `${step}#${count}`);
  }
  return ways;
}

/** Uses by their names; what there is no more is left out. */
export function usesAt(nodes: readonly SceneNodeView[], ways: readonly string[]): number[] {
  const places = new Map(waysOf(nodes).map((way, at) => [way, at]));
  return ways.flatMap((way) => places.get(way) ?? []);
}

/** Names of uses, the highest only: what lies in one that is named goes with it. */
export function namesOf(nodes: readonly SceneNodeView[], chosen: ReadonlySet<number>): string[] {
  const ways = waysOf(nodes);
  return [...chosen].flatMap((node) => (chosen.has(nodes[node]?.parent ?? -1) ? [] : (ways[node] ?? [])));
}

/** How far each use is moved where all is taken apart. */
export function apart(
  scene: SceneAnswer,
  loaded: readonly (LookMesh | undefined)[],
  { amount, levels }: { readonly amount: number; readonly levels: number },
): readonly Point[] | undefined {
  if (amount === 0) return undefined;
  const boxes = scene.nodes.map(() => new Box3());
  scene.meshes.forEach(({ at, nodes }, mesh) => {
    const bounds = loaded[mesh]?.bounds;
    at.forEach((placement, place) => {
      if (bounds) boxes[nodes[place] ?? -1]?.union(bounds.clone().applyMatrix4(placeMatrix(placement)));
    });
  });
  for (let node = scene.nodes.length - 1; node > 0; node--) {
    const box = boxes[node];
    if (box && !box.isEmpty()) boxes[scene.nodes[node]?.parent ?? -1]?.union(box);
  }
  const uses = scene.nodes.map(({ parent }, node) => {
    const box = boxes[node];
    return box && !box.isEmpty() ? { parent, middle: toDesign(box.getCenter(new Vector3())) } : { parent };
  });
  return spreadOf(uses, { amount, levels });
}
