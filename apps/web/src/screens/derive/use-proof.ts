import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { JobView } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { send } from '../../api/client.js';

/** Asked for again so often while the feed says nothing. */
const LOOK_MS = 2000;

export interface ProofUnderWay {
  readonly job: JobView | undefined;
  readonly proof: Proof | undefined;
  readonly error: Error | null;
  readonly isPending: boolean;
  readonly end: () => Promise<void>;
  readonly proveAgain: () => Promise<void>;
}

/** The proof of a variant, begun where there is none, and how far it is until then. */
export function useProof(variant: string): ProofUnderWay {
  const queries = useQueryClient();
  const queryKey = ['proof', variant];
  const { data, error } = useQuery({
    queryKey,
    queryFn: () => send('POST', '/api/derive/proof', { item: variant }),
    refetchInterval: ({ state }) => (state.error || state.data?.proof ? false : LOOK_MS),
    // It is about the variant as it was made; nothing that happens later changes that.
    staleTime: Infinity,
  });
  return {
    job: data?.job,
    proof: data?.proof ?? undefined,
    error,
    isPending: !error && !data?.proof,
    end: async () => {
      if (data) await send('POST', '/api/jobs/cancel', { kind: data.job.kind, id: data.job.id });
      await queries.invalidateQueries({ queryKey });
    },
    proveAgain: async () => {
      await queries.fetchQuery({
        queryKey,
        queryFn: () => send('POST', '/api/derive/proof', { item: variant, again: true }),
        staleTime: 0,
      });
    },
  };
}
