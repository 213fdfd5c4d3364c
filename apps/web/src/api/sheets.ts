/** Check sheets. */
import { queryOptions, useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import { get, send } from './client.js';

export const sheetsQuery = queryOptions({
  queryKey: ['sheets'],
  queryFn: ({ signal }) => get('/api/sheets', {}, signal),
});

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ['sheets', id],
    queryFn: ({ signal }) => get(`/api/sheets/${id}`, {}, signal),
  });

export type SheetDeed =
  | { readonly kind: 'seen'; readonly sheet: string; readonly item: string; readonly shown: string }
  | { readonly kind: 'raise'; readonly sheet: string; readonly item: string; readonly words: string }
  | { readonly kind: 'answer'; readonly point: string; readonly words: string }
  | { readonly kind: 'close'; readonly point: string };

/** What is done on a sheet; it is asked for anew afterwards. */
export function useSheetDeed(): UseMutationResult<undefined, Error, SheetDeed> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: carryOut,
    onSettled: () => queries.invalidateQueries({ queryKey: ['sheets'] }),
  });
}

function carryOut(deed: SheetDeed): Promise<undefined> {
  switch (deed.kind) {
    case 'seen':
      return send('POST', '/api/sheets/seen', {
        ...{ sheet: deed.sheet, item: deed.item, shown: deed.shown },
      });
    case 'raise':
      return send('POST', '/api/sheets/points', { sheet: deed.sheet, item: deed.item, words: deed.words });
    case 'answer':
      return send('POST', '/api/sheets/points/answer', { point: deed.point, words: deed.words });
    case 'close':
      return send('POST', '/api/sheets/points/close', { point: deed.point });
  }
}
