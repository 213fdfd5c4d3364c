import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

export const billsQuery = queryOptions({
  queryKey: ['structure', 'bills'],
  queryFn: ({ signal }) => get('/api/bills', {}, signal),
});

/** Bills that need an item, and what it may be used instead of. */
export const usedBesidesQuery = (item: string, lens: string) =>
  queryOptions({
    queryKey: ['structure', 'used besides', item, lens],
    queryFn: ({ signal }) => get('/api/used/besides', { item, lens }, signal),
  });

/** @param bill `NUMBER` or `NUMBER@A/3` */
export const buildQuery = (bill: string) =>
  queryOptions({
    queryKey: ['structure', 'build', bill],
    queryFn: ({ signal }) => get('/api/build', { bill }, signal),
    enabled: bill !== '',
  });

export const carryQuery = (bill: string) =>
  queryOptions({
    queryKey: ['structure', 'build carry', bill],
    queryFn: ({ signal }) => get('/api/build/carry', { bill }, signal),
  });

export const readinessQuery = (bill: string) =>
  queryOptions({
    queryKey: ['structure', 'build check', bill],
    queryFn: ({ signal }) => get('/api/build/check', { bill }, signal),
  });

export const releasesQuery = (bill: string) =>
  queryOptions({
    queryKey: ['structure', 'build releases', bill],
    queryFn: ({ signal }) => get('/api/build/releases', { bill }, signal),
  });

export const readinessRulesQuery = queryOptions({
  queryKey: ['readiness rules'],
  queryFn: ({ signal }) => get('/api/settings/readiness', {}, signal),
});
