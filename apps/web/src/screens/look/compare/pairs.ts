/** Two models put together for one picture: which of their uses are the same, and what became of the others. */
import type { SceneAnswer, TraitsAnswer } from '@stem-trace/contract';
import type { Placement } from '@stem-trace/core';
import { pairUses, type Body, type DrawnUse, type UsePair } from '@stem-trace/core/look';
import type { LookMesh } from '../model/look-mesh.js';

export interface DrawnUses {
  readonly uses: readonly DrawnUse[];
  /** Of each, the mesh and the place in its list. */
  readonly places: readonly { readonly mesh: number; readonly place: number; readonly node: number }[];
}

/**
 * All that is drawn of a scene, by the way to it.
 *
 * `nameOf` is what an item is called for comparing: a copy goes by the number of what it was copied from. `shapeOf` is the same for
 * files that have the same shape: a copy says its own name in a file of its own.
 */
function drawnUses(
  { nodes, meshes }: SceneAnswer,
  {
    nameOf,
    shapeOf,
  }: { readonly nameOf: (node: number) => string; readonly shapeOf: (file: string) => string },
): DrawnUses {
  const ways: (readonly string[])[] = [];
  nodes.forEach(({ parent }, node) => ways.push(parent < 0 ? [] : [...(ways[parent] ?? []), nameOf(node)]));
  const places = meshes.flatMap(({ nodes: uses }, mesh) =>
    uses.map((node, place) => ({ mesh, place, node })),
  );
  const uses = places.map(({ mesh, place, node }): DrawnUse => {
    const at: Placement = meshes[mesh]?.at[place] ?? [];
    return {
      way: ways[node] ?? [],
      use: nodes[node]?.use ?? '',
      file: shapeOf(meshes[mesh]?.item ?? ''),
      at,
    };
  });
  return { uses, places };
}

/** Numbers, but for copies of what stands in the other scene: they go by its number. */
function namesIn(
  { nodes }: SceneAnswer,
  traits: TraitsAnswer | undefined,
  others: ReadonlySet<string>,
): (node: number) => string {
  return (node) => {
    const own = nodes[node]?.number ?? '';
    const from = traits?.rows[traits.of[node] ?? -1]?.copiedFrom ?? '';
    return !others.has(own) && others.has(from) ? from : own;
  };
}

export interface Compared {
  readonly pairs: readonly UsePair[];
  readonly first: DrawnUses;
  readonly second: DrawnUses;
}

export interface ComparedModel {
  readonly scene: SceneAnswer;
  readonly traits: TraitsAnswer | undefined;
  /** Of each of the scene's meshes. */
  readonly loaded: readonly (LookMesh | undefined)[];
}

export function compared(first: ComparedModel, second: ComparedModel): Compared {
  const numbers = ({ scene }: ComparedModel): ReadonlySet<string> =>
    new Set(scene.nodes.map(({ number }) => number));
  const shapeOf = sameShapes([first, second]);
  const one = drawnUses(first.scene, {
    nameOf: namesIn(first.scene, first.traits, numbers(second)),
    shapeOf,
  });
  const other = drawnUses(second.scene, {
    nameOf: namesIn(second.scene, second.traits, numbers(first)),
    shapeOf,
  });
  return { pairs: pairUses(one.uses, other.uses), first: one, second: other };
}

/** Names files by their shape: the first of those that have the same triangles. `O(triangles)` for files as large as each other */
function sameShapes(models: readonly ComparedModel[]): (file: string) => string {
  const known = new Map<string, { readonly file: string; readonly shape: Body }[]>();
  const names = new Map<string, string>();
  for (const { scene, loaded } of models)
    scene.meshes.forEach(({ item: file }, at) => {
      const shape = loaded[at]?.shape;
      if (!shape || names.has(file)) return;
      const size = `${shape.positions.length} ${shape.indices.length}`;
      const alike = known.get(size) ?? [];
      known.set(size, alike);
      const same = alike.find((other) => areSame(shape, other.shape));
      names.set(file, same?.file ?? file);
      if (!same) alike.push({ file, shape });
    });
  return (file) => names.get(file) ?? file;
}

function areSame(one: Body, other: Body): boolean {
  return (
    one.indices.every((index, at) => index === other.indices[at]) &&
    one.positions.every((value, at) => value === other.positions[at])
  );
}

/** Both scenes as one; uses of the second come after those of the first. */
export function together(first: SceneAnswer, second: SceneAnswer): SceneAnswer {
  const shift = first.nodes.length;
  return {
    nodes: [
      ...first.nodes,
      ...second.nodes.map((node) => ({ ...node, parent: node.parent < 0 ? -1 : node.parent + shift })),
    ],
    meshes: [
      ...first.meshes,
      ...second.meshes.map((mesh) => ({ ...mesh, nodes: mesh.nodes.map((node) => node + shift) })),
    ],
  };
}
