/** Find numbers, designators and quantities that were changed in a BOM and are not saved yet. */
import type { BillRow, BillRowEdit } from '@stem-trace/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { get, send } from '../../../api/client.js';

export interface BillEdit {
  readonly isOpen: boolean;
  /** Rows that say something else than what is saved. */
  readonly count: number;
  readonly trouble: string;
  open(): void;
  /** Forgets what was changed. */
  close(): void;
  valueOf(row: BillRow, field: EditedField): string;
  set(row: BillRow, field: EditedField, value: string): void;
  /** Gives find numbers to the rows that have none. */
  propose(): Promise<void>;
  save(): Promise<void>;
}

export type EditedField = 'find' | 'designators' | 'amount';

export function useBillEdit(item: string): BillEdit {
  const queries = useQueryClient();
  const [isOpen, setOpen] = useState(false);
  const [edits, setEdits] = useState<ReadonlyMap<number, Omit<BillRowEdit, 'position'>>>(new Map());
  const [trouble, setTrouble] = useState('');
  const put = (position: number, change: Omit<BillRowEdit, 'position'>): void =>
    setEdits((before) => new Map(before).set(position, { ...before.get(position), ...change }));
  const attempt = async (act: () => Promise<void>): Promise<void> => {
    try {
      setTrouble('');
      await act();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const close = (): void => {
    setOpen(false);
    setEdits(new Map());
    setTrouble('');
  };
  return {
    isOpen,
    count: edits.size,
    trouble,
    open: () => setOpen(true),
    close,
    valueOf: (row, field) => edits.get(row.position ?? -1)?.[field] ?? savedOf(row, field),
    set: (row, field, value) => {
      if (row.position !== null && value !== savedOf(row, field)) put(row.position, { [field]: value });
    },
    propose: () =>
      attempt(async () => {
        for (const { position, find = '' } of await get('/api/bill/finds', { item })) put(position, { find });
      }),
    save: () =>
      attempt(async () => {
        const rows = [...edits].map(([position, edit]) => ({ position, ...edit }));
        await send('POST', '/api/bill/rows', { item, rows, comment: '', checkOut: true });
        close();
        await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      }),
  };
}

function savedOf(row: BillRow, field: EditedField): string {
  return field === 'amount' ? row.amount.said : row[field];
}
