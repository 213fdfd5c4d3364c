/** Change requests and change orders. */
import type { ChangeInput, ChangeLineInput, ChangeRow, ChangeView } from '@stem-trace/contract';
import { NO_CHANGE, type ChangeRelation, type Evidence } from '@stem-trace/core';
import { queryOptions, useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query';
import { get, send } from './client.js';

export const changesQuery = (item = '') =>
  queryOptions({
    queryKey: ['changes', 'list', item],
    queryFn: ({ signal }) => get('/api/changes', { item }, signal),
  });

/** @param change `NUMBER` or `NUMBER@A/3` */
export const changeQuery = (change: string) =>
  queryOptions({
    queryKey: ['changes', 'one', change],
    queryFn: ({ signal }) => get('/api/change', { change }, signal),
  });

export const redlineQuery = (change: string) =>
  queryOptions({
    queryKey: ['changes', 'redline', change],
    queryFn: ({ signal }) => get('/api/change/redline', { change }, signal),
  });

export const changeMapQuery = (change: string) =>
  queryOptions({
    queryKey: ['changes', 'map', change],
    queryFn: ({ signal }) => get('/api/change/map', { change }, signal),
  });

export const tasksQuery = queryOptions({
  queryKey: ['changes', 'tasks'],
  queryFn: ({ signal }) => get('/api/tasks', {}, signal),
});

/** Orders that something can be worked on under. */
export function openOrders(rows: readonly ChangeRow[]): readonly ChangeRow[] {
  return rows.filter(({ kind, lane }) => kind === 'order' && lane === 'open');
}

export function lineOf(relation: ChangeRelation, item: string): ChangeLineInput {
  return { relation, item, note: '', inStock: '', inWork: '' };
}

/** What a new change says to begin with. */
export function firstContents(
  why: string,
  lines: readonly ChangeLineInput[],
  evidence: readonly Evidence[] = [],
): ChangeInput {
  return { ...NO_CHANGE, why, evidence, lines };
}

/** What a change says, as it is sent back. */
export function contentsOf({ contents, lines, tasks }: ChangeView): ChangeInput {
  return {
    ...contents,
    lines: lines.map(({ relation, number, note, inStock, inWork }) => ({
      ...{ relation, item: number, note, inStock, inWork },
    })),
    tasks: tasks.map(({ key, what, who, until }) => ({ key, what, who, until })),
  };
}

export type ChangeDeed =
  | { readonly kind: 'tick'; readonly change: string; readonly task: string; readonly done: boolean }
  | { readonly kind: 'makes' | 'leaves'; readonly change: string; readonly items: readonly string[] };

/** What is done about a change beside what it says; refusals are thrown as one sentence. */
export function useChangeDeed(): UseMutationResult<void, Error, ChangeDeed> {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: carryOut,
    onSettled: () => queries.invalidateQueries({ queryKey: ['changes'] }),
  });
}

async function carryOut(deed: ChangeDeed): Promise<void> {
  if (deed.kind === 'tick') {
    await send('POST', '/api/change/tick', { change: deed.change, task: deed.task, done: deed.done });
    return;
  }
  const body = { change: deed.change, items: deed.items };
  const { refused } = await (deed.kind === 'makes'
    ? send('POST', '/api/change/makes', body)
    : send('POST', '/api/change/leaves', body));
  if (refused.length > 0)
    throw new Error(refused.map(({ number, reason }) => `${number}: ${reason}`).join('; '));
}
