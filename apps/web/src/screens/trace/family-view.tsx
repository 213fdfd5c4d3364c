import type { FamilyAnswer, FamilyCellView, FamilyMember, FamilyRowView } from '@stem-trace/contract';
import type { Commonness, FamilyVerdict } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { familyQuery } from '../../api/net.js';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Choice, Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { downloadCsv } from '../../ui/download.js';
import { AttentionMark, SIGN } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { useTable } from '../../ui/use-table.js';

const MARKS: Readonly<Record<FamilyVerdict, { readonly sign: keyof typeof SIGN; readonly word: string }>> = {
  same: { sign: 'same', word: 'the same' },
  own: { sign: 'changed', word: 'another version' },
  other: { sign: 'replaced', word: 'another item' },
  omitted: { sign: 'removed', word: 'omitted' },
  added: { sign: 'added', word: 'added' },
  absent: { sign: 'same', word: 'not there' },
  hidden: { sign: 'same', word: 'not visible to you' },
};

/** All variants of a stem beside what they come from, position by position. */
export function FamilyView({ focus }: { readonly focus: string }): React.JSX.Element {
  const [lens] = useLens();
  const { data, error } = useQuery(familyQuery(focus, lens));
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!data) return <Hint role="status">Laying the variants beside each other …</Hint>;
  if (data.variants.length === 0)
    return (
      <Hint>
        {data.origin.number} has no variants that you can see, so that there is nothing to lay beside it.
      </Hint>
    );
  return <Family answer={data} />;
}

type Shown = 'all' | 'differing' | 'kinds';

function Family({ answer }: { readonly answer: FamilyAnswer }): React.JSX.Element {
  const { origin, variants, rows, shares, hidden, cut } = answer;
  const [shown, show] = useState<Shown>('all');
  const [lens] = useLens();
  const navigate = useNavigate();
  const { pointAt } = useDesk();
  const columns = useMemo(() => columnsOf(variants), [variants]);
  const keyed = useMemo(
    () => rows.map((row, at) => ({ ...row, at })).filter((row) => isShown(row, shown)),
    [rows, shown],
  );
  const table = useTable('family', keyed, columns);
  const cursor = useGridCursor(table.rows, ({ at }) => String(at), { about: origin.number });
  const under = cursor.row?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Line>
        <Choice<Shown>
          label="Positions shown"
          options={[
            { key: 'all', text: 'All positions' },
            { key: 'differing', text: 'Where they differ' },
            { key: 'kinds', text: 'Could be one part' },
          ]}
          value={shown}
          onChange={show}
        />
        <Legend rows={rows} />
        <Gap />
        <Button onPress={() => downloadCsv(`family of ${origin.number}`, tableOf(answer))}>
          <Download size={15} aria-hidden /> CSV
        </Button>
      </Line>
      <Soft role="status">
        {variants.length} {variants.length === 1 ? 'variant' : 'variants'} of {origin.number}. In common:{' '}
        {shares.positions.common} of {shares.positions.all} parts{sayShare(shares.massKg, 'the mass')}
        {sayShare(shares.cost, 'the cost')}.{hidden > 0 ? ` ${hidden} not visible to you.` : ''}
        {cut > 0 ? ` ${cut} further variants are left out.` : ''}
      </Soft>
      <Grid
        label="Family"
        {...table.grid}
        cursor={cursor}
        levelOf={({ level }) => level}
        onOpen={({ number }) => void navigate(traceAddress(number, lens))}
        takesFocus
      />
    </>
  );
}

function isShown({ cells, kinds, isOfOrigin }: FamilyRowView, shown: Shown): boolean {
  if (shown === 'all') return true;
  // What is not there, or is there in one content alone, cannot be made one.
  if (shown === 'kinds') return kinds > 1;
  return !isOfOrigin || cells.some(({ verdict, amount }) => verdict !== 'same' || amount !== '');
}

function sayShare({ common, all }: Commonness, of: string): string {
  return all > 0 ? `, ${Math.round((100 * common) / all)} % of ${of}` : '';
}

function Legend({ rows }: { readonly rows: readonly FamilyRowView[] }): React.JSX.Element {
  const met = new Set(rows.flatMap(({ cells }) => cells.map(({ verdict }) => verdict)));
  return (
    <Signs aria-label="Legend">
      {(['same', 'own', 'other', 'omitted', 'added'] as const)
        .filter((verdict) => met.has(verdict))
        .map((verdict) => (
          <span key={verdict}>
            <b style={{ color: SIGN[MARKS[verdict].sign].ink }}>{SIGN[MARKS[verdict].sign].mark}</b>{' '}
            {MARKS[verdict].word}
          </span>
        ))}
    </Signs>
  );
}

type Row = FamilyRowView & { readonly at: number };

function columnsOf(variants: readonly FamilyMember[]): readonly GridColumn<Row>[] {
  return [
    ...FIXED,
    ...variants.map((variant, at): GridColumn<Row> => ({
      key: variant.number,
      title: variant.number,
      width: '124px',
      sortBy: ({ cells }) => MARKS[cells[at]?.verdict ?? 'absent'].word,
      cell: ({ cells, number }) => <Cell cell={cells[at]} number={number} />,
    })),
  ];
}

function Cell({
  cell,
  number,
}: {
  readonly cell: FamilyCellView | undefined;
  readonly number: string;
}): React.JSX.Element | null {
  if (!cell || cell.verdict === 'absent') return null;
  if (cell.verdict === 'hidden') return <Soft>not visible to you</Soft>;
  const { sign, word } = MARKS[cell.verdict];
  const { mark, ink } = SIGN[sign];
  const said = [word, cell.number, cell.version, cell.amount === '' ? '' : `quantity ${cell.amount}`];
  return (
    <span title={said.filter(Boolean).join(', ')}>
      <b style={{ color: ink }} role="img" aria-label={word}>
        {mark}
      </b>{' '}
      {cell.number !== '' && cell.number !== number ? <Mono>{cell.number}</Mono> : null}{' '}
      {cell.verdict === 'own' || cell.verdict === 'added' ? <Mono>{cell.version}</Mono> : null}
      {cell.amount === '' ? null : <AttentionMark>×{cell.amount}</AttentionMark>}
    </span>
  );
}

const FIXED: readonly GridColumn<Row>[] = [
  {
    key: 'number',
    isFixed: true,
    title: 'Position',
    width: 'minmax(150px, 0.9fr)',
    sortBy: ({ number }) => number,
    cell: ({ number, level, isOfOrigin }) => (
      <span style={{ paddingLeft: (level - 1) * 14 }} title={isOfOrigin ? undefined : 'not in the origin'}>
        <Mono>{number}</Mono>
      </span>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(120px, 1fr)',
    sortBy: ({ name }) => name,
    cell: ({ name }) => <MiddleCut text={name} />,
  },
  {
    key: 'amount',
    title: 'Total',
    width: '66px',
    align: 'right',
    sortBy: ({ amount }) => Number.parseFloat(amount),
    cell: ({ amount }) => <Mono>{amount}</Mono>,
  },
  {
    key: 'kinds',
    title: 'Different',
    width: '78px',
    align: 'right',
    sortBy: ({ kinds }) => kinds,
    cell: ({ kinds }) => <Mono>{kinds}</Mono>,
  },
];

/** As it stands, every cell in words. */
function tableOf({ variants, rows }: FamilyAnswer): (string | number)[][] {
  return [
    ['Level', 'Position', 'Name', 'Version', 'Total', 'Different', ...variants.map(({ number }) => number)],
    ...rows.map(({ level, number, name, version, amount, kinds, cells }) => [
      ...[level, number, name, version, amount, kinds],
      ...cells.map((cell) =>
        cell.verdict === 'absent'
          ? ''
          : [MARKS[cell.verdict].word, cell.number, cell.version, cell.amount].filter(Boolean).join(' '),
      ),
    ]),
  ];
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
`;
const Signs = styled.span`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 12px;
`;
const Gap = styled.span`
  flex: 1;
`;
