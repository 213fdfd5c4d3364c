import type { FindGroup, FindLens, SavedRow, SaveRequest } from '@stem-trace/contract';
import { queryOptions, useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import { addressOf, get, send } from './client.js';

export const PAGE = 100;

export interface FindQuery {
  readonly words: string;
  readonly sort: string;
  readonly order: 'up' | 'down';
  readonly place?: string | undefined;
  readonly group?: FindGroup | undefined;
  readonly lens?: FindLens | undefined;
  /** Names of properties, separated by semicolons. */
  readonly columns?: string | undefined;
}

export const findPageQuery = (query: FindQuery, page: number, limit = PAGE) =>
  queryOptions({
    queryKey: ['items', query, page, limit],
    queryFn: ({ signal }) => get('/api/items', { ...query, limit, offset: page * limit }, signal),
  });

export const findWordsQuery = queryOptions({
  queryKey: ['items', 'find words'],
  queryFn: ({ signal }) => get('/api/find/words', {}, signal),
  staleTime: 30_000,
});

export const findCountsQuery = (words: string, place: string | undefined, lens?: FindLens) =>
  queryOptions({
    queryKey: ['items', 'counts', words, place, lens],
    queryFn: ({ signal }) => get('/api/find/counts', { words, place, lens }, signal),
  });

export const findRangesQuery = (
  words: string,
  place: string | undefined,
  property: string,
  lens?: FindLens,
) =>
  queryOptions({
    queryKey: ['items', 'ranges', words, place, property, lens],
    queryFn: ({ signal }) => get('/api/find/ranges', { words, place, property, lens }, signal),
    enabled: property !== '',
  });

/** @param columns their keys, in the order in which they are shown */
export function tableAddress(query: FindQuery, columns: readonly string[], format: 'csv' | 'xlsx'): string {
  const { words, sort, order, place, group, lens } = query;
  return addressOf('/api/find/table', {
    ...{ words, sort, order, place, group, lens, format },
    columns: ['state', ...columns].join(';'),
  });
}

export const savedQuery = queryOptions({
  queryKey: ['items', 'saved'],
  queryFn: ({ signal }) => get('/api/saved', {}, signal),
});

/** Keeps a search or a view; one's own of the same name is replaced. */
export function useSave(): UseMutationResult<SavedRow[], Error, SaveRequest> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (request: SaveRequest) => send('POST', '/api/saved', request),
    onSuccess: (rows) => queries.setQueryData(savedQuery.queryKey, rows),
  });
}

export function useForget(): UseMutationResult<SavedRow[], Error, string> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => send('DELETE', `/api/saved/${id}`),
    onSuccess: (rows) => queries.setQueryData(savedQuery.queryKey, rows),
  });
}
