/** Parts that are tried where others stand: looked at and measured, and written nowhere. */
import type { LensText, SceneAnswer } from '@stem-trace/contract';
import { multiply, type Placement } from '@stem-trace/core';
import { useQueries } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { get } from '../../../api/client.js';
import { withInside } from './uses.js';

export interface TriedPart {
  /** The use in whose place it is. */
  readonly node: number;
  readonly item: string;
}

export interface TriedParts {
  readonly parts: readonly TriedPart[];
  /** Those whose place in the picture is not known yet, in words. */
  readonly says: string;
  readonly put: (part: TriedPart) => void;
  readonly drop: (node: number) => void;
  /** The scene with them in it. */
  readonly scene: SceneAnswer;
  /** What they stand for, which is not shown meanwhile. */
  readonly replaced: ReadonlySet<number>;
}

export function useTried(scene: SceneAnswer, lens: LensText): TriedParts {
  const [parts, setParts] = useState<readonly TriedPart[]>([]);
  const { scenes, says } = useQueries({
    queries: parts.map(({ item }) => ({
      queryKey: ['scene', item, lens],
      queryFn: ({ signal }: { signal: AbortSignal }) => get('/api/scene', { item, lens }, signal),
    })),
    combine: (answers) => ({
      scenes: answers.map(({ data }) => data),
      says:
        answers.flatMap(
          ({ error, isPending }) => error?.message ?? (isPending ? 'Fetching its picture …' : []),
        )[0] ?? '',
    }),
  });
  const together = useMemo(
    () =>
      parts.reduce<SceneAnswer>((whole, part, at) => {
        const own = scenes[at];
        return own ? withTried(whole, part, own) : whole;
      }, scene),
    [scene, parts, scenes],
  );
  const replaced = useMemo(
    () => withInside(scene.nodes, new Set(parts.flatMap(({ node }, at) => (scenes[at] ? node : [])))),
    [scene, parts, scenes],
  );
  return {
    ...{ parts, says, scene: together, replaced },
    put: (part) => setParts((known) => [...known.filter(({ node }) => node !== part.node), part]),
    drop: (node) => setParts((known) => known.filter((part) => part.node !== node)),
  };
}

/** A scene in which another stands where a use stands; its uses come at the end, so that the others stay what they are. */
export function withTried(scene: SceneAnswer, { node }: TriedPart, other: SceneAnswer): SceneAnswer {
  const at = placeOf(scene, node);
  if (!at) return scene;
  const first = scene.nodes.length;
  return {
    nodes: [
      ...scene.nodes,
      ...other.nodes.map(({ parent, at: own, ...rest }) => ({
        ...rest,
        parent: parent < 0 ? (scene.nodes[node]?.parent ?? -1) : parent + first,
        ...(own ? { at: multiply(at, own) } : {}),
      })),
    ],
    meshes: [
      ...scene.meshes,
      ...other.meshes.map((mesh) => ({
        ...mesh,
        at: mesh.at.map((own) => multiply(at, own)),
        nodes: mesh.nodes.map((use) => use + first),
      })),
    ],
  };
}

/** Where a use stands, as a mesh of it or it itself says; undefined where neither does. */
function placeOf({ nodes, meshes }: SceneAnswer, node: number): Placement | undefined {
  const own = nodes[node]?.at;
  if (own) return own;
  for (const { at, nodes: uses } of meshes) {
    const place = uses.indexOf(node);
    if (place >= 0) return at[place];
  }
  return undefined;
}
