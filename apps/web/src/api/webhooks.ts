import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

/** Programs that are told what happens; for administrators. */
export const webhooksQuery = queryOptions({
  queryKey: ['webhooks'],
  queryFn: ({ signal }) => get('/api/webhooks', {}, signal),
});
