/** A bill while somebody edits it: what was changed and is not saved yet, with undo and redo. */
import type { BuildAnswer } from '@stem-trace/contract';
import type { BuildBill, BuildColumn, BuildRow, Edited, MeantDifference } from '@stem-trace/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../../api/client.js';
import { useDraft } from '../../ui/draft.js';
import { useSteps } from '../../ui/steps.js';

/** What of a bill is edited. */
export interface Content {
  readonly columns: readonly BuildColumn[];
  readonly rows: readonly BuildRow[];
  readonly reasons: Readonly<Record<string, MeantDifference>>;
  readonly outputs: readonly string[];
}

export interface BillDraft {
  readonly bill: BuildBill;
  readonly isChanged: boolean;
  /** Whether what is edited began at another version than the newest. */
  readonly isStale: boolean;
  readonly trouble: string;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  rows(next: readonly BuildRow[] | Edited): void;
  change(next: Partial<Content>): void;
  say(trouble: string): void;
  undo(): void;
  redo(): void;
  discard(): void;
  save(comment: string): Promise<void>;
}

interface Kept {
  /** Of the version that is edited. */
  readonly version: string;
  readonly content: Content;
}

export function useBillDraft({ item, bill }: BuildAnswer): BillDraft {
  const queries = useQueryClient();
  const first: Content = {
    columns: bill.columns,
    rows: bill.rows,
    reasons: bill.reasons,
    outputs: bill.outputs,
  };
  const own = useDraft<Kept | null>(`build ${item.number}`, isKept, null);
  const kept = own.value;
  const steps = useSteps<Kept | null>(kept, (step) => (step === null ? own.forget() : own.set(step)));
  const [trouble, say] = useState('');
  const content = kept?.content ?? first;
  const change = (next: Partial<Content>): void => {
    say('');
    steps.take({ version: kept?.version ?? item.version, content: { ...content, ...next } });
  };
  const forget = (): void => {
    own.forget();
    steps.clear();
    say('');
  };
  return {
    bill: { ...bill, ...content },
    isChanged: kept !== null,
    isStale: kept !== null && kept.version !== item.version,
    trouble,
    ...{ canUndo: steps.canUndo, canRedo: steps.canRedo, undo: steps.undo, redo: steps.redo },
    change,
    say,
    rows: (next) => {
      if (!('kind' in next)) change({ rows: next });
      else if (next.kind === 'rows') change({ rows: next.rows });
      else say(next.says);
    },
    discard: forget,
    save: async (comment) => {
      await send('PUT', '/api/build', {
        bill: item.number,
        version: kept?.version ?? item.version,
        ...content,
        rows: content.rows.map(({ itemId: _, ...row }) => row),
        comment,
      });
      forget();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
    },
  };
}

function isKept(value: unknown): value is Kept {
  return (
    typeof value === 'object' &&
    value !== null &&
    'version' in value &&
    typeof value.version === 'string' &&
    'content' in value &&
    typeof value.content === 'object' &&
    value.content !== null &&
    'rows' in value.content &&
    Array.isArray(value.content.rows)
  );
}
