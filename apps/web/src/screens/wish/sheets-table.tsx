import type { WishSheetRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { sheetsQuery } from '../../api/wish.js';
import { traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Bar } from '../../ui/progress-bar.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';

/** Asked for again so often while sheets wait and the feed says nothing. */
const LOOK_MS = 2000;

const STATES = { waiting: 'waiting', made: 'made', known: 'was there', failed: 'failed' } as const;

const COLUMNS: readonly GridColumn<WishSheetRow>[] = [
  {
    key: 'for',
    title: 'For',
    width: 'minmax(110px, 0.9fr)',
    sortBy: ({ for: of }) => of,
    cell: ({ for: of }) => <MiddleCut text={of} />,
  },
  {
    key: 'state',
    title: 'State',
    width: '86px',
    sortBy: ({ state }) => state,
    cell: ({ state }) => (state === 'failed' ? <AttentionMark>failed</AttentionMark> : STATES[state]),
  },
  {
    key: 'variant',
    title: 'Variant',
    width: 'minmax(130px, 1fr)',
    sortBy: ({ variant }) => variant,
    cell: ({ variant }) => (
      <Mono>
        <MiddleCut text={variant ?? ''} />
      </Mono>
    ),
  },
  {
    key: 'proof',
    title: 'Proof',
    width: 'minmax(120px, 0.8fr)',
    cell: ({ state, references, dangling, leaking }) =>
      dangling === null || leaking === null ? (
        <Soft>{state === 'made' ? 'under way' : ''}</Soft>
      ) : dangling + leaking > 0 ? (
        <AttentionMark>
          {dangling} dangling, {leaking} leaking
        </AttentionMark>
      ) : (
        <Soft>{references} references hold</Soft>
      ),
  },
  {
    key: 'says',
    title: 'Because',
    width: 'minmax(180px, 2fr)',
    cell: ({ says, wishes }) => {
      const text =
        says === ''
          ? Object.entries(wishes)
              .map(([name, value]) => `${name} ${value}`)
              .join(', ')
          : says;
      return <Soft title={text}>{text}</Soft>;
    },
  },
  {
    key: 'at',
    title: 'Asked',
    width: '96px',
    sortBy: ({ at }) => at,
    cell: ({ at, by }) => (
      <Soft title={by}>
        <When at={at} />
      </Soft>
    ),
  },
];

/** Wish sheets of a recipe and what came of each. */
export function SheetsTable({ recipe }: { readonly recipe: string }): React.JSX.Element {
  const sheets = useQuery({
    ...sheetsQuery(recipe),
    refetchInterval: ({ state }) => ((state.data ?? []).some(isUnderWay) ? LOOK_MS : false),
  });
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const rows = sheets.data ?? [];
  const table = useTable('wish sheets', rows, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ id }) => id);
  const under = cursor.row?.variant ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  const open = rows.filter(isUnderWay);
  const batch = rows.filter((row) => row.batch === rows[0]?.batch);
  return (
    <>
      {sheets.error ? <Trouble>{sheets.error.message}</Trouble> : null}
      {open.length > 0 ? (
        <Bar
          label="Sheets fulfilled"
          done={batch.filter((row) => !isUnderWay(row)).length}
          total={batch.length}
        />
      ) : null}
      {sheets.data?.length === 0 ? (
        <Hint>Nobody has asked for a variant yet. Fill in the wishes.</Hint>
      ) : null}
      <Grid
        label="Wish sheets"
        {...table.grid}
        cursor={cursor}
        onOpen={({ variant }) => (variant === null ? undefined : void navigate(traceAddress(variant)))}
        takesFocus
      />
    </>
  );
}

function isUnderWay({ state, dangling }: WishSheetRow): boolean {
  return state === 'waiting' || (state === 'made' && dangling === null);
}
