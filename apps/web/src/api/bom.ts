import type { LensText } from '@stem-trace/contract';
import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

export interface BillQuery {
  readonly item: string;
  readonly lens: LensText;
  readonly flat: boolean;
  /** Names of properties. */
  readonly columns: readonly string[];
}

export const billQuery = ({ columns, ...query }: BillQuery) =>
  queryOptions({
    queryKey: ['structure', 'bill', query, columns],
    queryFn: ({ signal }) => get('/api/bill', { ...query, columns: columns.join(';') }, signal),
    enabled: query.item !== '',
    placeholderData: (before) => before,
  });

export const columnSetsQuery = queryOptions({
  queryKey: ['column sets'],
  queryFn: ({ signal }) => get('/api/column-sets', {}, signal),
});

export const listQuery = (id: string) =>
  queryOptions({
    queryKey: ['list', id],
    queryFn: ({ signal }) => get(`/api/lists/${id}`, {}, signal),
    enabled: id !== '',
  });
