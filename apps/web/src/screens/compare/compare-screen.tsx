import { useQuery } from '@tanstack/react-query';
import type { CompareAnswer, CompareRow } from '@stem-trace/contract';
import type { DifferenceSign } from '@stem-trace/core';
import { ArrowLeftRight } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { ToggleButton } from 'react-aria-components';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { compareQuery } from '../../api/queries.js';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { BeginWith } from '../../frame/begin-with.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { SIGN } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';
import { EffectChart } from './effect-chart.js';
import { SidePicker } from './side-picker.js';

const SIGNS: readonly DifferenceSign[] = ['added', 'removed', 'changed', 'replaced', 'moved', 'same'];

const COLUMNS: readonly GridColumn<CompareRow>[] = [
  {
    key: 'sign',
    title: '±',
    width: '40px',
    align: 'center',
    sortBy: ({ sign }) => sign,
    cell: ({ sign }) => <Sign sign={sign} />,
  },
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(150px, 1fr)',
    sortBy: ({ number }) => number,
    cell: (row) => (
      <span style={{ paddingLeft: (row.chain.length - 1) * 16, minWidth: 0 }}>
        <Mono>
          <MiddleCut text={row.number} />
        </Mono>
      </span>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(130px, 1.2fr)',
    sortBy: (row) => (row.after ?? row.before)?.name ?? null,
    cell: (row) => <MiddleCut text={(row.after ?? row.before)?.name ?? ''} />,
  },
  { key: 'before', title: 'From', width: '104px', cell: (row) => <SideCell row={row} side="before" /> },
  { key: 'after', title: 'To', width: '104px', cell: (row) => <SideCell row={row} side="after" /> },
  { key: 'what', title: 'What', width: 'minmax(120px, 0.9fr)', cell: (row) => <Soft>{sayWhat(row)}</Soft> },
];

/** Two versions side by side, with the direction said in words. */
export function CompareScreen(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const from = search.get('from') ?? '';
  const to = search.get('to') ?? '';
  const net = search.get('by') === 'totals';
  const [lens] = useLens();
  const answer = useQuery(compareQuery(from, to, net, lens));
  const change = (changes: Readonly<Record<string, string>>): void => {
    const next = new URLSearchParams(search);
    for (const [name, value] of Object.entries(changes)) next.set(name, value);
    setSearch(next, { replace: true });
  };
  return (
    <>
      <Sides>
        <SidePicker label="From" value={from} onChange={(value) => change({ from: value })} />
        <Button onPress={() => change({ from: to, to: from })}>
          <ArrowLeftRight size={15} aria-hidden /> Swap sides
        </Button>
        <SidePicker label="To" value={to} onChange={(value) => change({ to: value })} />
      </Sides>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {from === '' || to === '' ? (
        <>
          <Hint>
            Choose two versions: of one item, or of two. Or put two items into the tray (Space) and compare
            them from there.
          </Hint>
          <BeginWith onChoose={(item) => change(from === '' ? { from: item } : { to: item })} />
        </>
      ) : null}
      {answer.data ? (
        <Differences answer={answer.data} by={net ? 'totals' : 'levels'} onBy={(by) => change({ by })} />
      ) : null}
    </>
  );
}

interface DifferencesProps {
  readonly answer: CompareAnswer;
  readonly by: 'levels' | 'totals';
  readonly onBy: (by: 'levels' | 'totals') => void;
}

/** What differs, of the kinds that are wanted. */
function Differences({ answer, by, onBy }: DifferencesProps): React.JSX.Element {
  const [lens] = useLens();
  const [hidden, setHidden] = useState<ReadonlySet<DifferenceSign>>(new Set(['same']));
  const { pointAt } = useDesk();
  const navigate = useNavigate();
  const rows = useMemo(() => answer.rows.filter((row) => !hidden.has(row.sign)), [answer, hidden]);
  const table = useTable('compare', rows, COLUMNS);
  const cursor = useGridCursor(table.rows, keyOfRow, { within: [by, ...hidden].join(' ') });
  const under = cursor.row ? referenceOfSide(cursor.row) : '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Sentence aria-live="polite">{answer.sentence}</Sentence>
      <Line>
        {SIGNS.map((sign) => (
          <Switch key={sign} isSelected={!hidden.has(sign)} onChange={() => setHidden(toggled(hidden, sign))}>
            <Sign sign={sign} /> {answer.counts[sign]} {SIGN[sign].word}
          </Switch>
        ))}
        <Gap />
        <Choice<'levels' | 'totals'>
          label="How to compare"
          options={[
            { key: 'levels', text: 'Level by level' },
            { key: 'totals', text: 'Net totals' },
          ]}
          value={by}
          onChange={onBy}
        />
      </Line>
      <Body>
        <Grid
          label="Differences"
          {...table.grid}
          cursor={cursor}
          onOpen={(opened) => void navigate(traceAddress(referenceOfSide(opened), lens))}
          ground={(shown) => (shown.sign === 'same' ? undefined : SIGN[shown.sign].ground)}
          levelOf={(shown) => shown.chain.length}
          takesFocus
        />
        <EffectChart rows={answer.rows} />
      </Body>
    </>
  );
}

/** A line is told apart by the way to it and by what stood there before. */
function keyOfRow({ chain, before }: CompareRow): string {
  return [...chain, before?.number ?? ''].join(' › ');
}

function referenceOfSide(row: CompareRow): string {
  const side = row.after ?? row.before;
  return side && side.version !== '' ? `${side.number}@${side.version}` : '';
}

function toggled<T>(set: ReadonlySet<T>, value: T): ReadonlySet<T> {
  const next = new Set(set);
  if (!next.delete(value)) next.add(value);
  return next;
}

function sayWhat({ sign, differs, before, after }: CompareRow): string {
  if (sign === 'added' || sign === 'removed') return sign;
  const said = [
    before && after && before.number !== after.number ? `was ${before.number}` : '',
    differs.version && before?.number === after?.number ? 'version' : '',
    differs.quantity ? 'quantity' : '',
    differs.placement ? 'placement' : '',
  ].filter(Boolean);
  return said.join(', ');
}

function Sign({ sign }: { readonly sign: DifferenceSign }): React.JSX.Element {
  const { mark, word, ink } = SIGN[sign];
  return (
    <Mark style={{ color: ink }} role="img" aria-label={word}>
      {mark}
    </Mark>
  );
}

/** Version and quantity of one side; what differs stands out. */
function SideCell({
  row,
  side,
}: {
  readonly row: CompareRow;
  readonly side: 'before' | 'after';
}): React.JSX.Element {
  const shown = row[side];
  if (!shown) return <Soft>–</Soft>;
  return (
    <>
      <Mono style={row.differs.version ? DIFFERS : undefined}>{shown.version || 'gap'}</Mono>
      <Mono style={row.differs.quantity ? DIFFERS : undefined}>×{shown.quantity}</Mono>
    </>
  );
}

const DIFFERS = { color: colour.changed, fontWeight: 500 } as const;

const Sides = styled.div`
  display: flex;
  align-items: end;
  gap: 12px;
  flex-wrap: wrap;
`;
const Sentence = styled.h1`
  font-size: 15px;
`;
const Line = styled.div`
  display: flex;
  gap: 6px;
  align-items: center;
  flex-wrap: wrap;
`;
const Gap = styled.span`
  flex: 1;
`;
const Body = styled.div`
  flex: 1;
  min-height: 240px;
  display: flex;
  gap: 12px;
`;
const Mark = styled.span`
  font-weight: 600;
  font-size: 15px;
  width: 14px;
  text-align: center;
`;
const Switch = styled(ToggleButton)`
  display: inline-flex;
  gap: 5px;
  align-items: center;
  border: 1px solid ${colour.line};
  background: transparent;
  color: ${colour.inkSoft};
  border-radius: 4px;
  padding: 3px 9px;
  font: inherit;
  cursor: default;
  &[data-selected] {
    background: ${colour.raised};
    color: ${colour.ink};
    border-color: ${colour.lineStrong};
  }
`;
