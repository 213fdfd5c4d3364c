/** Issued files, and the structures that releases froze. */
import { baselineLens, type BaselineRow, type IssuedFileRow } from '@stem-trace/contract';
import { queryOptions, useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import { addressOf, get, send } from './client.js';
import { hashAll } from './picked-working-copy.js';

/** @param item `NUMBER` for all that there is, or `NUMBER@B/3` */
export const issuedQuery = (item: string) =>
  queryOptions({
    queryKey: ['items', 'issued', item],
    queryFn: ({ signal }) => get('/api/issued', { item }, signal),
  });

export const issuedSettingQuery = queryOptions({
  queryKey: ['settings', 'issued'],
  queryFn: ({ signal }) => get('/api/settings/issued', {}, signal),
});

/** @param item empty for none */
export const baselinesQuery = (item: string) =>
  queryOptions({
    queryKey: ['structure', 'baselines', item],
    queryFn: ({ signal }) => get('/api/baselines', { item }, signal),
    enabled: item !== '',
  });

/** `FM-2300 B/2, 2026-03-31` */
export function sayBaseline({ number, version, at }: BaselineRow): string {
  return `${number} ${version}, ${at.slice(0, 10)}`;
}

export function issuedAddress(item: string, { id }: Pick<IssuedFileRow, 'id'>): string {
  return addressOf('/api/issued/file', { item, file: id });
}

/** Tries once more to make one. */
export function useIssueAgain(item: string): UseMutationResult<unknown, Error, string> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (file: string) => send('POST', '/api/issued/again', { item, file }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['items', 'issued'] }),
  });
}

/** What a file was issued of, as far as one may see it; files that are too large to be read whole are not asked about. */
export const issuedFromQuery = (file: File) =>
  queryOptions({
    queryKey: ['items', 'issued from', file.name, file.size, file.lastModified],
    queryFn: async ({ signal }) => {
      const [sha256 = ''] = await hashAll([file]);
      return get('/api/issued/from', { sha256 }, signal);
    },
    enabled: file.size <= MOST_HASHED_BYTES,
  });

const MOST_HASHED_BYTES = 300_000_000;

/** What choices of a lens offer of baselines, the newest first. */
export function baselineChoices(
  rows: readonly BaselineRow[],
): readonly { readonly key: string; readonly text: string }[] {
  return rows.map((each) => ({ key: baselineLens(each.id), text: `Baseline of ${sayBaseline(each)}` }));
}
