import type { SceneAnswer } from '@stem-trace/contract';
import { useQueries } from '@tanstack/react-query';
import pLimit from 'p-limit';
import { addressOf } from '../../../api/client.js';
import { combineLoaded } from '../../../pictures/combine-loaded.js';
import { loadLookMesh, type LookMesh } from './look-mesh.js';

const takeTurn = pLimit(4);

/** The meshes of all files, nearest to the root first. */
export function useMeshes(placed: SceneAnswer['meshes']): {
  readonly loaded: readonly (LookMesh | undefined)[];
  readonly done: number;
} {
  return useQueries({
    queries: placed.map((mesh) => ({
      queryKey: ['look mesh', mesh.item],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        takeTurn(() => loadLookMesh(addressOf('/api/mesh', { item: mesh.item }), signal)),
      staleTime: Infinity,
      gcTime: 60_000,
    })),
    combine: combineLoaded,
  });
}
