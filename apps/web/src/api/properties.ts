import type { NumberSchemeRow, PropertiesAnswer } from '@stem-trace/contract';
import type { RevisionScheme, TitleBlockRule } from '@stem-trace/core';
import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

export const propertiesQuery = queryOptions({
  queryKey: ['properties'],
  queryFn: ({ signal }) => get<PropertiesAnswer>('/api/properties', {}, signal),
});

export const schemesQuery = queryOptions({
  queryKey: ['numbers'],
  queryFn: ({ signal }) => get<NumberSchemeRow[]>('/api/numbers', {}, signal),
});

export const titleBlockQuery = queryOptions({
  queryKey: ['title block'],
  queryFn: ({ signal }) => get<{ rules: TitleBlockRule[] }>('/api/settings/title-block', {}, signal),
});

export const revisionsQuery = queryOptions({
  queryKey: ['revisions'],
  queryFn: ({ signal }) => get<{ scheme: RevisionScheme }>('/api/settings/revisions', {}, signal),
});
