import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

export const propertiesQuery = queryOptions({
  queryKey: ['properties'],
  queryFn: ({ signal }) => get('/api/properties', {}, signal),
});

export const schemesQuery = queryOptions({
  queryKey: ['numbers'],
  queryFn: ({ signal }) => get('/api/numbers', {}, signal),
});

/** Those for items. */
export const itemSchemesQuery = queryOptions({
  ...schemesQuery,
  select: (rows) => rows.filter((row) => row.for === undefined),
});

export const titleBlockQuery = queryOptions({
  queryKey: ['title block'],
  queryFn: ({ signal }) => get('/api/settings/title-block', {}, signal),
});

export const revisionsQuery = queryOptions({
  queryKey: ['revisions'],
  queryFn: ({ signal }) => get('/api/settings/revisions', {}, signal),
});
