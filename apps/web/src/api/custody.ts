/** What can be done to items, as mutations that say what was refused. */
import { useMutation, useQueryClient, type QueryClient, type UseMutationResult } from '@tanstack/react-query';
import type { CustodyAnswer, ItemView, StepAnswer, StepRequest } from '@stem-trace/contract';
import { queryOptions } from '@tanstack/react-query';
import { get, send } from './client.js';

export const holdsQuery = queryOptions({
  queryKey: ['holds'],
  queryFn: ({ signal }) => get('/api/holds', {}, signal),
});

export const checksQuery = queryOptions({
  queryKey: ['items', 'checks'],
  queryFn: ({ signal }) => get('/api/checks', {}, signal),
});

export const noticesQuery = queryOptions({
  queryKey: ['notices'],
  queryFn: ({ signal }) => get('/api/notices', {}, signal),
});

export type Deed =
  | {
      readonly kind: 'check out' | 'revise';
      readonly items: readonly string[];
      readonly reason: string;
      /** Number of the change order that it is for; empty for none. */
      readonly change: string;
    }
  | { readonly kind: 'let go' | 'catch up'; readonly items: readonly string[] }
  | { readonly kind: 'say why'; readonly items: readonly string[]; readonly reason: string }
  | { readonly kind: 'ask holder'; readonly item: string; readonly reason: string }
  | { readonly kind: 'answer'; readonly id: string; readonly letGo: boolean; readonly says: string }
  | { readonly kind: 'bring back'; readonly item: string; readonly comment: string }
  | { readonly kind: 'break hold'; readonly item: string; readonly reason: string }
  | { readonly kind: 'watch'; readonly item: string; readonly watch: boolean };

async function carryOut(deed: Deed): Promise<CustodyAnswer | undefined> {
  switch (deed.kind) {
    case 'check out':
      return send('POST', '/api/holds', { items: deed.items, reason: deed.reason, change: deed.change });
    case 'let go':
      return send('POST', '/api/holds/let-go', { items: deed.items });
    case 'revise':
      return send('POST', '/api/revise', { items: deed.items, reason: deed.reason, change: deed.change });
    case 'say why':
      return send('POST', '/api/holds/reason', { items: deed.items, reason: deed.reason });
    case 'ask holder':
      await send('POST', '/api/holds/ask', { item: deed.item, reason: deed.reason });
      return undefined;
    case 'answer':
      await send('POST', '/api/holds/answer', { id: deed.id, letGo: deed.letGo, says: deed.says });
      return undefined;
    case 'catch up':
      return send('POST', '/api/catch-up', { items: deed.items });
    case 'bring back':
      await send('POST', '/api/bring-back', { item: deed.item, comment: deed.comment });
      return undefined;
    case 'break hold':
      await send('POST', '/api/holds/break', { item: deed.item, reason: deed.reason });
      return undefined;
    case 'watch':
      await send('POST', '/api/watch', { item: deed.item, watch: deed.watch });
      return undefined;
  }
}

/** Takes a step; what is shown is asked for anew. */
export function useStep(): UseMutationResult<StepAnswer, Error, StepRequest> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (request: StepRequest) => send('POST', '/api/steps', request),
    onSettled: () => askAnew(queries),
  });
}

function askAnew(queries: QueryClient): Promise<void> {
  return queries.invalidateQueries({
    predicate: ({ queryKey }) => queryKey[0] !== 'session' && queryKey[0] !== 'intake',
  });
}

export interface Deeds {
  carryOut(deed: Deed): void;
  readonly isBusy: boolean;
  /** What went wrong or was refused, in sentences; empty where all was done. */
  readonly refusals: readonly string[];
}

/** Carries out deeds one at a time and asks anew for what they touch. */
export function useDeeds(): Deeds {
  const queries = useQueryClient();
  const mutation = useMutation({
    mutationFn: carryOut,
    // Whether one watches is shown at once, wherever it is shown.
    onMutate: (deed) => {
      if (deed.kind !== 'watch') return;
      queries.setQueriesData<ItemView>({ queryKey: ['item'] }, (view) =>
        view?.number === deed.item ? { ...view, watched: deed.watch } : view,
      );
    },
    onSettled: () => askAnew(queries),
  });
  const refused = mutation.data?.refused.map(({ number, reason }) => `${number}: ${reason}`) ?? [];
  return {
    carryOut: (deed) => mutation.mutate(deed),
    isBusy: mutation.isPending,
    refusals: mutation.error ? [mutation.error.message] : refused,
  };
}
