import type { Drift, StemRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { ArrowLeftRight, GitMerge, Grid3x3 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { stemQuery } from '../../api/net.js';
import { driftAddress, traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';
import { CarryOverDialog } from './carry-over-dialog.js';

/** What was derived from what, and how far each variant and its origin have gone their own ways since. */
export function StemView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [lens] = useLens();
  const { data, error } = useQuery(stemQuery(focus, lens));
  const desk = useDesk();
  const navigate = useNavigate();
  const table = useTable('stem', data?.rows ?? [], COLUMNS);
  const cursor = useGridCursor(table.rows, ({ number }) => number, { about: focus });
  const under = cursor.row;
  const [carried, carry] = useState<string>();
  const { pointAt } = desk;
  useEffect(() => pointAt(under?.number ?? ''), [pointAt, under?.number]);
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!data) return <Hint role="status">Looking along the stem …</Hint>;
  if (data.rows.length === 1)
    return (
      <Hint>
        Nothing was derived from {data.item.number}. Derive a variant, and it stands here beside it.
      </Hint>
    );
  return (
    <>
      <Line>
        <Soft>{sayStem(data.rows)}</Soft>
        {data.hidden > 0 ? <Soft>{data.hidden} not visible to you</Soft> : null}
        {data.cut > 0 ? <AttentionMark>drift of {data.cut} more is not worked out</AttentionMark> : null}
        <Gap />
        <Button
          isDisabled={!under?.from || !under.drift}
          onPress={() => {
            if (under?.from) void navigate(driftAddress(under.from, under.number, lens));
          }}
        >
          <ArrowLeftRight size={15} aria-hidden /> What both changed
        </Button>
        <Button isDisabled={!under?.from} onPress={() => carry(under?.number)}>
          <GitMerge size={15} aria-hidden /> Carry over …
        </Button>
        <Button onPress={() => void navigate(traceAddress(focus, lens, 'family'))}>
          <Grid3x3 size={15} aria-hidden /> Family
        </Button>
      </Line>
      <Grid
        label="Stem"
        {...table.grid}
        cursor={cursor}
        levelOf={({ level }) => level}
        onOpen={({ number }) => void navigate(traceAddress(number, lens, 'stem'))}
        onPick={(row) => desk.toggleInTray(row)}
        isPicked={({ number }) => desk.isInTray(number)}
        takesFocus
      />
      {carried === undefined ? null : <CarryOverDialog variant={carried} onClose={() => carry(undefined)} />}
    </>
  );
}

function sayStem(rows: readonly StemRow[]): string {
  const variants = rows.filter(({ from }) => from !== null).length;
  const drifted = rows.filter(({ drift }) => drift !== null && sumOf(drift) > 0).length;
  const own = `${variants} ${variants === 1 ? 'variant' : 'variants'}`;
  return drifted === 0 ? own : `${own}, ${drifted} with drift`;
}

function sumOf({ origin, variant, apart, contradict }: Drift): number {
  return origin + variant + apart + contradict;
}

/** Nothing is said in so many words, so that nobody takes an empty cell for it. */
function counted(count: number | undefined): React.JSX.Element {
  if (count === undefined) return <Soft>–</Soft>;
  return count === 0 ? <Soft>nothing</Soft> : <Mono>{count}</Mono>;
}

const COLUMNS: readonly GridColumn<StemRow>[] = [
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(130px, 1fr)',
    sortBy: ({ number }) => number,
    cell: ({ number, state, level }) => (
      <Indented style={{ paddingLeft: (level - 1) * 18 }}>
        <StateGlyph state={state} />
        <Mono>
          <MiddleCut text={number} />
        </Mono>
      </Indented>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(104px, 1fr)',
    sortBy: ({ name }) => name,
    cell: ({ name }) => <MiddleCut text={name} />,
  },
  {
    key: 'version',
    title: 'Version',
    width: '68px',
    sortBy: ({ version }) => version,
    cell: ({ version }) => <Mono>{version}</Mono>,
  },
  {
    key: 'from',
    title: 'Derived from',
    width: '108px',
    sortBy: ({ from }) => from?.number ?? null,
    cell: ({ from }) =>
      from ? (
        <span title={`${from.number} ${from.version}`}>
          <Mono>{from.number}</Mono> <Mono>{from.version}</Mono>
        </span>
      ) : null,
  },
  {
    key: 'at',
    title: 'When, who',
    width: 'minmax(110px, 0.9fr)',
    sortBy: ({ at }) => at,
    cell: ({ at, by }) => (
      <span title={by}>
        <When at={at} /> <Soft>{by}</Soft>
      </span>
    ),
  },
  {
    key: 'origin',
    title: 'Origin changed',
    width: '104px',
    align: 'right',
    sortBy: ({ drift }) => drift?.origin ?? null,
    cell: ({ drift }) => counted(drift?.origin),
  },
  {
    key: 'variant',
    title: 'It changed',
    width: '82px',
    align: 'right',
    sortBy: ({ drift }) => drift?.variant ?? null,
    cell: ({ drift }) => counted(drift?.variant),
  },
  {
    key: 'both',
    title: 'Both',
    width: '76px',
    align: 'right',
    sortBy: ({ drift }) => (drift ? drift.apart + drift.contradict : null),
    cell: ({ drift }) => (
      <span
        title={
          drift
            ? `${drift.contradict} against each other, ${drift.apart} compatible, ${drift.alike} alike`
            : ''
        }
      >
        {counted(drift ? drift.apart + drift.contradict : undefined)}
      </span>
    ),
  },
  {
    key: 'held',
    title: 'Held',
    width: '46px',
    align: 'center',
    isMinor: true,
    sortBy: ({ heldBy }) => heldBy?.name ?? null,
    cell: ({ heldBy }) => <HolderTag holder={heldBy} />,
  },
];

const Indented = styled.span`
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
`;
const Gap = styled.span`
  flex: 1;
`;
