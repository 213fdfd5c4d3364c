/** The mark-up of a version, and what is done to it. */
import type {
  ChangeMarkRequest,
  MarkKind,
  MarkUpAnswer,
  MarkUpRow,
  NewMarkRequest,
  SettleMarkRequest,
} from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { get, send } from '../../../api/client.js';
import { useUndo } from '../../../frame/undo.js';
import { KINDS } from './tones.js';

const sayKind = (kind: MarkKind): string => KINDS[kind].says.toLowerCase();

export interface Marks {
  readonly answer: MarkUpAnswer | undefined;
  readonly trouble: string;
  readonly add: (mark: Omit<NewMarkRequest, 'item'>) => Promise<string | undefined>;
  readonly change: (row: MarkUpRow, to: Omit<ChangeMarkRequest, 'id'>) => Promise<void>;
  readonly settle: (row: MarkUpRow, isSettled: boolean) => Promise<void>;
  readonly remark: (row: MarkUpRow, words: string) => Promise<boolean>;
  readonly remove: (row: MarkUpRow) => Promise<void>;
}

/** Does something to mark-up and asks anew for what is there; says what went wrong. */
function useDeeds() {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState('');
  const done = async <T>(deed: () => Promise<T>): Promise<T | undefined> => {
    setTrouble('');
    try {
      const result = await deed();
      await queries.invalidateQueries({ queryKey: ['mark-up'] });
      return result;
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
      return undefined;
    }
  };
  return { done, trouble };
}

/** @param item `NUMBER@B/3` */
export function useMarks(item: string): Marks {
  const { done, trouble } = useDeeds();
  const offer = useUndo();
  const query = useQuery({
    queryKey: ['mark-up', item],
    queryFn: ({ signal }) => get('/api/mark-up', { item }, signal),
    staleTime: 30_000,
  });
  const remove = (id: string): Promise<unknown> => send('POST', '/api/mark-up/remove', { id });
  const settleNow = (request: SettleMarkRequest): Promise<unknown> =>
    send('POST', '/api/mark-up/settle', request);
  const put = ({ kind, tone, sheet, spots, words }: MarkUpRow | Omit<NewMarkRequest, 'item'>) =>
    send('POST', '/api/mark-up', { item, kind, tone, sheet, spots, words } satisfies NewMarkRequest);
  return {
    answer: query.data,
    trouble: trouble || (query.error?.message ?? ''),
    add: async (mark) => {
      const made = await done(() => put(mark));
      if (made) offer({ says: `Drawn: ${sayKind(mark.kind)}.`, undo: () => remove(made.id) });
      return made?.id;
    },
    change: async (row, to) => {
      const { id, tone, spots, words } = row;
      const before = { id, tone, spots, words };
      await done(async () => {
        await send('POST', '/api/mark-up/change', { id, ...to });
        offer({
          says: `Changed: ${sayKind(row.kind)}.`,
          undo: () => send('POST', '/api/mark-up/change', before),
        });
      });
    },
    settle: async ({ id }, isSettled) => {
      await done(async () => {
        await settleNow({ id, isSettled });
        offer({
          says: isSettled ? 'Settled.' : 'Opened again.',
          undo: () => settleNow({ id, isSettled: !isSettled }),
        });
      });
    },
    remark: async ({ id }, words) =>
      (await done(() => send('POST', '/api/mark-up/remark', { id, words }).then(() => true))) === true,
    remove: async (row) => {
      await done(async () => {
        await remove(row.id);
        offer({ says: `Taken away: ${sayKind(row.kind)}.`, undo: () => put(row) });
      });
    },
  };
}
