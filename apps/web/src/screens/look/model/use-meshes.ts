import type { SceneAnswer, SceneMesh } from '@stem-trace/contract';
import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import pLimit from 'p-limit';
import { useEffect, useMemo, useState } from 'react';
import { sendForBytes } from '../../../api/client.js';
import { meshAddress } from '../../../pictures/mesh-address.js';
import { loadLookMesh, readLookMesh, type LookMesh } from './look-mesh.js';

const takeTurn = pLimit(2);
const makeOne = pLimit(4);
/** Those that fill most of the picture come in a small lot, so that something is soon there. */
const FIRST_LOT = 10;
const LOT = 40;
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
    // Those that came in a lot are given back as soon as those that were asked for alone.
    queries.setQueryDefaults(['look mesh'], { gcTime: KEPT_MS, staleTime: Infinity });
    const makes = (item: string): Promise<void> =>
      makeOne(async () => {
        if (!isOver) arrivals.put(item, await fetched(queries, item));
      });
    for (const lot of lotsOf(largestFirst(placed).map(({ item }) => item)))
      void takeTurn(() =>
        isOver ? undefined : fetchLot(queries, lot, { put: (item, mesh) => arrivals.put(item, mesh), makes }),
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

export function lotsOf(items: readonly string[]): readonly (readonly string[])[] {
  const [first, rest] = [items.slice(0, FIRST_LOT), items.slice(FIRST_LOT)];
  const lots = Array.from({ length: Math.ceil(rest.length / LOT) }, (_, at) =>
    rest.slice(at * LOT, (at + 1) * LOT),
  );
  return [first, ...lots].filter((lot) => lot.length > 0);
}

interface LotDeeds {
  readonly put: (item: string, mesh: LookMesh | null) => void;
  /** Asks for one that has to be made. */
  readonly makes: (item: string) => Promise<void>;
}

/** Meshes that are kept come together; each that has to be made is asked for by itself, and no other lot waits for that. */
async function fetchLot(
  queries: QueryClient,
  lot: readonly string[],
  { put, makes }: LotDeeds,
): Promise<void> {
  const unknown = lot.filter((item) => {
    const known = queries.getQueryData<LookMesh | null>(keyOf(item));
    if (known !== undefined) put(item, known);
    return known === undefined;
  });
  if (unknown.length === 0) return;
  const kept = await keptMeshes(unknown).catch(() => []);
  for (const [at, item] of unknown.entries()) {
    const glb = kept[at];
    const mesh = glb && (await readLookMesh(glb).catch(() => null));
    if (mesh === undefined) void makes(item);
    else {
      queries.setQueryData(keyOf(item), mesh);
      put(item, mesh);
    }
  }
}

function keyOf(item: string): readonly string[] {
  return ['look mesh', item];
}

/** Undefined for each that is not kept. */
async function keptMeshes(items: readonly string[]): Promise<(ArrayBuffer | undefined)[]> {
  const bytes = await sendForBytes('/api/meshes', { items });
  const lengths = new DataView(bytes);
  let from = 4 * items.length;
  return items.map((_, at) => {
    const length = lengths.getUint32(4 * at, true);
    from += length;
    return length === 0 ? undefined : bytes.slice(from - length, from);
  });
}

function fetched(queries: QueryClient, item: string): Promise<LookMesh | null> {
  return queries
    .fetchQuery({
      queryKey: keyOf(item),
      queryFn: ({ signal }) => loadLookMesh(meshAddress(item), signal),
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
