import type { LensText } from '@stem-trace/contract';
import { queryOptions } from '@tanstack/react-query';
import { get } from '../../api/client.js';

/** Where everything below an item stands. */
export const sceneQuery = (item: string, lens: LensText) =>
  queryOptions({
    queryKey: ['scene', item, lens],
    queryFn: ({ signal }) => get('/api/scene', { item, lens }, signal),
  });

/** What colours can tell of it. */
export const traitsQuery = (item: string, lens: LensText) =>
  queryOptions({
    queryKey: ['items', 'traits', item, lens],
    queryFn: ({ signal }) => get('/api/scene/traits', { item, lens }, signal),
  });
