/** What lies near, at once; what touches and overlaps, as a job that can be left and stopped. */
import type { JobView, LensText, NearRow } from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { get, send } from '../../../api/client.js';

/** Asked for again so often while the feed says nothing. */
const LOOK_MS = 2000;

/** `near` the selected uses, or all pairs that touch or overlap. */
export type Asked =
  | { readonly what: 'near'; readonly of: string; readonly within: number }
  | { readonly what: 'overlaps'; readonly of?: string; readonly to?: string; readonly without: string };

export interface Found {
  readonly what: Asked['what'];
  readonly rows: readonly NearRow[];
  readonly more: number;
  /** Numbers of items whose geometry is not there yet. */
  readonly unknown: readonly string[];
}

export interface NearAsked {
  readonly ask: (asked: Asked) => void;
  readonly found: Found | undefined;
  readonly error: Error | null;
  readonly isMeasuring: boolean;
  /** What goes on at the server while all pairs are gone through. */
  readonly job: JobView | undefined;
  /** Stops it. */
  readonly end: () => void;
}

interface Looked {
  readonly found?: Found;
  readonly job?: JobView;
}

/** @param scene what is looked at, and how many uses it had when some were selected */
export function useNear(scene: {
  readonly item: string;
  readonly lens: LensText;
  readonly nodes: number;
}): NearAsked {
  const queries = useQueryClient();
  // Meshes may have come in since: what is asked once more is worked out once more.
  const [{ asked, turn }, setAsked] = useState<{ asked: Asked | null; turn: number }>({
    ...{ asked: null, turn: 0 },
  });
  const queryKey = [asked?.what ?? 'near', scene, asked, turn];
  const query = useQuery<Looked>({
    queryKey,
    enabled: asked !== null,
    staleTime: Infinity,
    refetchInterval: ({ state }) => (state.data?.job && !state.data.found && !state.error ? LOOK_MS : false),
    queryFn: async ({ signal }): Promise<Looked> => {
      if (!asked) throw new Error('nothing was asked');
      const { what, ...rest } = asked;
      if (what === 'near')
        return { found: { what, more: 0, ...(await get('/api/near', { ...scene, ...rest }, signal)) } };
      const again = queries.getQueryData(queryKey) === undefined;
      const { job, found } = await send('POST', '/api/overlaps', { ...scene, ...rest, again });
      return { job, ...(found ? { found: { what, ...found } } : {}) };
    },
  });
  const { data, error } = query;
  const job = error || data?.found ? undefined : data?.job;
  return {
    ask: (next) => setAsked((known) => ({ asked: next, turn: known.turn + 1 })),
    found: error ? undefined : data?.found,
    error,
    isMeasuring: asked !== null && !error && !data?.found && !job,
    job,
    end: () => {
      if (job)
        void send('POST', '/api/jobs/cancel', { kind: job.kind, id: job.id }).then(() => query.refetch());
    },
  };
}
