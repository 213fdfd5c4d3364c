/** Find numbers, designators and quantities that were changed in a BOM and are not saved yet. */
import { useStates } from '../../../ui/states.js';
import type { BillAnswer, BillRow, BillRowEdit, FindProposal } from '@stem-trace/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { get, send } from '../../../api/client.js';
import { isTexts, useDraft } from '../../../ui/draft.js';

export interface BillEdit {
  readonly isOpen: boolean;
  /** Whether its rows can be changed at all: those of a draft, level by level. */
  readonly mayOpen: boolean;
  /** Rows that say something else than what is saved. */
  readonly count: number;
  /** Numbers of rows that were changed here and are in the BOM no more. */
  readonly gone: readonly string[];
  readonly trouble: string;
  /** Where proposed find numbers are from. */
  readonly said: string;
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

type RowEdit = Readonly<Partial<Record<EditedField, string>>>;
/** By the way to the row, which stays what it is when somebody else saves another version meanwhile; nothing while nobody edits. */
type Edits = Readonly<Record<string, RowEdit>>;

export function useBillEdit({ item, rows, isFlat }: BillAnswer): BillEdit {
  const queries = useQueryClient();
  const {
    value: edits,
    set: setEdits,
    forget,
  } = useDraft<Edits | null>(`bill ${item.number}`, isEdits, null);
  const { trouble, setTrouble, attempt } = useAttempt();
  const [said, say] = useState('');
  const lane = useStates().get(item.state)?.lane;
  const mayOpen = !isFlat && item.kind === 'assembly' && lane === 'open';
  const own = new Map(rows.flatMap((row) => (isEditable(row) ? [[row.way, row]] : [])));
  const changed = changesOf(edits ?? {}, own);
  const put = (added: Edits): void => {
    const next: Record<string, RowEdit> = { ...edits };
    for (const [way, edit] of Object.entries(added)) next[way] = { ...next[way], ...edit };
    setEdits(next);
  };
  return {
    isOpen: edits !== null && mayOpen,
    mayOpen,
    count: changed.length,
    gone: Object.keys(edits ?? {}).filter((way) => !own.has(way)),
    trouble,
    said,
    open: () => {
      setEdits({});
      say('');
    },
    close: () => {
      forget();
      setTrouble('');
    },
    valueOf: (row, field) => edits?.[row.way]?.[field] ?? savedOf(row, field),
    set: (row, field, value) => {
      if (value !== (edits?.[row.way]?.[field] ?? savedOf(row, field)))
        put({ [row.way]: { [field]: value } });
    },
    propose: () =>
      attempt(async () => {
        const proposal = await get('/api/bill/finds', { item: item.number });
        put(findsOf(proposal, own));
        say(sayProposal(proposal));
      }),
    save: () =>
      attempt(async () => {
        const { number, version } = item;
        await send('POST', '/api/bill/rows', {
          item: number,
          version,
          rows: changed,
          comment: '',
          checkOut: true,
        });
        forget();
        await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      }),
  };
}

function useAttempt(): {
  readonly trouble: string;
  setTrouble(trouble: string): void;
  attempt(act: () => Promise<void>): Promise<void>;
} {
  const [trouble, setTrouble] = useState('');
  const attempt = async (act: () => Promise<void>): Promise<void> => {
    try {
      setTrouble('');
      await act();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return { trouble, setTrouble, attempt };
}

/** What differs from what is saved, by the position of its link. */
function changesOf(edits: Edits, own: ReadonlyMap<string, BillRow>): BillRowEdit[] {
  return Object.entries(edits).flatMap(([way, edit]) => {
    const row = own.get(way);
    if (!row || row.position === null) return [];
    const different = FIELDS.filter(
      (field) => edit[field] !== undefined && edit[field] !== savedOf(row, field),
    );
    if (different.length === 0) return [];
    return [
      { position: row.position, ...Object.fromEntries(different.map((field) => [field, edit[field]])) },
    ];
  });
}

/** Where the numbers are from, and where the drawing says another one. */
function sayProposal({ rows, drawing, drawn, otherwise }: FindProposal): string {
  const counted = rows.length - drawn;
  if (drawing === null) return counted === 0 ? 'Every row has a find number.' : `${counted} counted on.`;
  const said = [`${drawn} from the list of ${drawing}`, ...(counted > 0 ? [`${counted} counted on`] : [])];
  const other = otherwise.length === 0 ? '' : ` It says another number for ${otherwise.join(', ')}.`;
  return `${said.join(', ')}.${other}`;
}

function findsOf({ rows: proposed }: FindProposal, own: ReadonlyMap<string, BillRow>): Edits {
  const byPosition = new Map([...own.values()].map((row) => [row.position, row.way]));
  return Object.fromEntries(
    proposed.flatMap(({ position, find = '' }) => {
      const way = byPosition.get(position);
      return way === undefined ? [] : [[way, { find }]];
    }),
  );
}

const FIELDS: readonly EditedField[] = ['find', 'designators', 'amount'];

/** Only the rows that the item itself has. */
export function isEditable(row: BillRow): boolean {
  return row.level === 1 && row.position !== null;
}

function savedOf(row: BillRow, field: EditedField): string {
  return field === 'amount' ? row.amount.said : row[field];
}

function isEdits(value: unknown): value is Edits {
  return typeof value === 'object' && value !== null && Object.values(value).every(isTexts);
}
