/** Parts that are tried where others stand: looked at and measured, and written nowhere. */
import type { AddChoice, LensText, SceneAnswer } from '@stem-trace/contract';
import { invertRigid, multiply, standingOn, type Placement } from '@stem-trace/core';
import type { Point } from '@stem-trace/core/look';
import { useQueries } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { get } from '../../../api/client.js';
import { waysUp, withInside } from './uses.js';

export interface TriedPart {
  readonly item: string;
  /** The use in whose place it is; the assembly that it is put into where it is one more. */
  readonly node: number;
  /** Where it is put as one more. */
  readonly stands?: Standing;
}

/** Millimetres, in the frame of what is looked at. */
export interface Standing {
  readonly point: Point;
  /** What its z goes along; turned as the assembly is where absent. */
  readonly along?: Point;
}

export interface TriedParts {
  readonly parts: readonly TriedPart[];
  /** Those whose place in the picture is not known yet, in words. */
  readonly says: string;
  readonly put: (part: TriedPart) => void;
  readonly drop: (part: TriedPart) => void;
  /** The scene with them in it. */
  readonly scene: SceneAnswer;
  /** Uses of the item itself; those of what is tried come after them. */
  readonly uses: number;
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
    () =>
      withInside(
        scene.nodes,
        new Set(parts.flatMap(({ node, stands }, at) => (scenes[at] && !stands ? node : []))),
      ),
    [scene, parts, scenes],
  );
  return {
    ...{ parts, says, scene: together, replaced, uses: scene.nodes.length },
    put: (part) =>
      setParts((known) => [
        ...known.filter(({ node, stands }) => part.stands || stands || node !== part.node),
        part,
      ]),
    drop: (part) => setParts((known) => known.filter((each) => each !== part)),
  };
}

/** A scene in which another stands where a use stands; its uses come at the end, so that the others stay what they are. */
export function withTried(scene: SceneAnswer, part: TriedPart, other: SceneAnswer): SceneAnswer {
  const at = standsAt(scene, part);
  if (!at) return scene;
  const within = part.stands ? part.node : (scene.nodes[part.node]?.parent ?? -1);
  const first = scene.nodes.length;
  return {
    nodes: [
      ...scene.nodes,
      ...other.nodes.map(({ parent, at: own, ...rest }) => ({
        ...rest,
        parent: parent < 0 ? within : parent + first,
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

/** Where what is tried stands in what is looked at; undefined where nobody knows. */
function standsAt(scene: SceneAnswer, part: TriedPart): Placement | undefined {
  const place = placeOf(scene, part.node);
  if (!part.stands || !place) return place;
  const { at, along } = inFrame(place, part.stands);
  const own = along ? standingOn(at, along) : [1, 0, 0, at[0], 0, 1, 0, at[1], 0, 0, 1, at[2]];
  return multiply(place, own);
}

/** A standing in the frame of an assembly. */
function inFrame(
  place: Placement,
  { point, along }: Standing,
): { readonly at: Point; readonly along?: Point } {
  const back = invertRigid(place);
  const of = ([x, y, z]: Point, isPlace: boolean): Point => {
    const row = (first: number): number =>
      [x, y, z, isPlace ? 1 : 0].reduce((sum, value, at) => sum + value * (back[first + at] ?? 0), 0);
    return [row(0), row(4), row(8)];
  };
  return { at: of(point, true), ...(along ? { along: of(along, false) } : {}) };
}

/** One more use as a plan to derive names it, in the frame of its assembly; undefined where that has no name or place. */
export function additionOf(scene: SceneAnswer, { node, item, stands }: TriedPart): AddChoice | undefined {
  const { nodes } = scene;
  const within = placeOf(scene, node);
  const chain = [...waysUp(nodes, node).reverse(), node].map((each) => nodes[each]?.number ?? '');
  if (!stands || !within || chain.includes('')) return undefined;
  return { in: chain, item, name: '', like: '', ...inFrame(within, stands) };
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
