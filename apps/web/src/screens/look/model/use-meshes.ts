import type { SceneAnswer, SceneMesh } from '@stem-trace/contract';
import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import pLimit from 'p-limit';
import { useEffect, useMemo, useState } from 'react';
import { meshAddress } from '../../../pictures/mesh-address.js';
import { loadLookMesh, type LookMesh } from './look-mesh.js';

const takeTurn = pLimit(4);
/** What comes within so long is put into the picture together. */
const TOGETHER_MS = 300;
const KEPT_MS = 60_000;

/** By the item; null where there is no geometry. */
type Known = ReadonlyMap<string, LookMesh | null>;

/** The meshes of all files, those first that fill most of the picture; each is there as soon as it was fetched. */
export function useMeshes(placed: SceneAnswer['meshes']): {
  readonly loaded: readonly (LookMesh | undefined)[];
  readonly done: number;
} {
  const queries = useQueryClient();
  const [known, setKnown] = useState<Known>(new Map());
  useEffect(() => {
    const arrivals = new Arrivals((come) => setKnown((before) => new Map([...before, ...come])));
    let isOver = false;
    for (const { item } of largestFirst(placed))
      void takeTurn(() =>
        isOver ? undefined : fetched(queries, item).then((mesh) => arrivals.put(item, mesh)),
      );
    return () => {
      isOver = true;
      arrivals.end();
    };
  }, [queries, placed]);
  return useMemo(
    () => ({
      loaded: placed.map(({ item }) => known.get(item) ?? undefined),
      done: placed.filter(({ item }) => known.has(item)).length,
    }),
    [placed, known],
  );
}

function fetched(queries: QueryClient, item: string): Promise<LookMesh | null> {
  return queries
    .fetchQuery({
      queryKey: ['look mesh', item],
      queryFn: ({ signal }) => loadLookMesh(meshAddress(item), signal),
      staleTime: Infinity,
      gcTime: KEPT_MS,
    })
    .catch(() => null);
}

/** By how much of the picture is theirs; those of which nobody knows it come last, as they stand. */
export function largestFirst(placed: readonly SceneMesh[]): readonly SceneMesh[] {
  const size = ({ box, at }: SceneMesh): number => {
    if (!box) return -1;
    const [low, high] = box;
    const [x, y, z] = [0, 1, 2].map((axis) => (high[axis] ?? 0) - (low[axis] ?? 0)) as [
      number,
      number,
      number,
    ];
    return (x * x + y * y + z * z) * at.length;
  };
  return placed
    .map((mesh) => ({ mesh, size: size(mesh) }))
    .sort((a, b) => b.size - a.size)
    .map(({ mesh }) => mesh);
}

/** Collects what comes in quick succession. */
class Arrivals {
  private come = new Map<string, LookMesh | null>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly tell: (come: Known) => void) {}

  put(item: string, mesh: LookMesh | null): void {
    this.come.set(item, mesh);
    this.timer ??= setTimeout(() => {
      const { come } = this;
      this.come = new Map();
      this.timer = undefined;
      this.tell(come);
    }, TOGETHER_MS);
  }

  end(): void {
    clearTimeout(this.timer);
  }
}
