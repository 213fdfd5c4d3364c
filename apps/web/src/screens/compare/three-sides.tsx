import type { CompareRowSide, ThreeAnswer, ThreeRow } from '@stem-trace/contract';
import type { Verdict } from '@stem-trace/core';
import { useEffect, useMemo, useState } from 'react';
import { ToggleButton } from 'react-aria-components';
import styled from 'styled-components';
import { useDesk } from '../../frame/desk.js';
import { Mono, Soft } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';

interface Told {
  readonly mark: string;
  readonly word: string;
  readonly ground?: string;
  readonly ink: string;
}

const VERDICTS: Readonly<Record<Verdict, Told>> = {
  one: { mark: '◧', word: 'only in the first', ground: colour.addedSoft, ink: colour.added },
  other: { mark: '◨', word: 'only in the second', ground: colour.addedSoft, ink: colour.added },
  alike: { mark: '◼', word: 'same in both', ground: colour.petrolSoft, ink: colour.petrol },
  apart: { mark: '◫', word: 'in both, compatible', ground: colour.changedSoft, ink: colour.changed },
  contradict: { mark: '≠', word: 'in conflict', ground: colour.copperSoft, ink: colour.copper },
  same: { mark: '=', word: 'the same', ink: colour.inkSoft },
};
const ORDER: readonly Verdict[] = ['contradict', 'apart', 'alike', 'one', 'other', 'same'];

/** What two BOMs changed of one that both come from. */
export function ThreeSides({ answer }: { readonly answer: ThreeAnswer }): React.JSX.Element {
  const [hidden, setHidden] = useState<ReadonlySet<Verdict>>(new Set<Verdict>(['same']));
  const rows = useMemo(() => answer.rows.filter(({ verdict }) => !hidden.has(verdict)), [answer, hidden]);
  const table = useTable(
    'three',
    rows,
    useMemo(() => threeColumns(answer), [answer]),
  );
  const cursor = useGridCursor(table.rows, keyOf, { within: [...hidden].join(' ') });
  const { pointAt } = useDesk();
  const side = cursor.row && (cursor.row.one ?? cursor.row.other ?? cursor.row.base);
  const under = side && side.version !== '' ? `${side.number}@${side.version}` : '';
  useEffect(() => pointAt(under), [pointAt, under]);
  return (
    <>
      <Sentence aria-live="polite">{answer.sentence}</Sentence>
      <Line>
        {ORDER.map((verdict) => (
          <Switch
            key={verdict}
            isSelected={!hidden.has(verdict)}
            onChange={() => {
              const next = new Set(hidden);
              if (!next.delete(verdict)) next.add(verdict);
              setHidden(next);
            }}
          >
            <Mark style={{ color: VERDICTS[verdict].ink }} aria-hidden>
              {VERDICTS[verdict].mark}
            </Mark>
            {answer.counts[verdict]} {VERDICTS[verdict].word}
          </Switch>
        ))}
      </Line>
      <Grid
        label="Three sides"
        {...table.grid}
        cursor={cursor}
        ground={({ verdict }) => VERDICTS[verdict].ground}
        levelOf={({ level }) => level}
        takesFocus
      />
    </>
  );
}

function threeColumns({ base, one, other }: ThreeAnswer): readonly GridColumn<ThreeRow>[] {
  const named = ({ number, version }: ThreeAnswer['base']): string => `${number} ${version}`.trim();
  return [
    {
      key: 'verdict',
      title: '±',
      width: '38px',
      align: 'center',
      sortBy: ({ verdict }) => ORDER.indexOf(verdict),
      cell: ({ verdict }) => (
        <Mark style={{ color: VERDICTS[verdict].ink }} role="img" aria-label={VERDICTS[verdict].word}>
          {VERDICTS[verdict].mark}
        </Mark>
      ),
    },
    {
      key: 'number',
      title: 'Number',
      width: 'minmax(130px, 0.9fr)',
      sortBy: ({ number }) => number,
      cell: ({ number, level }) => (
        <span style={{ paddingLeft: (level - 1) * 14, minWidth: 0 }}>
          <Mono>
            <MiddleCut text={number} />
          </Mono>
        </span>
      ),
    },
    { key: 'name', title: 'Name', width: 'minmax(110px, 0.8fr)', isMinor: true, sortBy: ({ name }) => name, cell: ({ name }) => <MiddleCut text={name} /> }, // prettier-ignore
    { key: 'base', title: named(base), width: '110px', cell: (row) => <Side side={row.base} /> },
    {
      key: 'one',
      title: named(one),
      width: 'minmax(150px, 1fr)',
      cell: (row) => <Side side={row.one} says={row.oneSays} />,
    },
    {
      key: 'other',
      title: named(other),
      width: 'minmax(150px, 1fr)',
      cell: (row) => <Side side={row.other} says={row.otherSays} />,
    },
  ];
}

function Side({
  side,
  says,
}: {
  readonly side: CompareRowSide | null;
  readonly says?: string;
}): React.JSX.Element {
  if (says !== undefined && says !== '') return <span title={says}>{says}</span>;
  if (!side) return <Soft>–</Soft>;
  return (
    <Soft>
      <Mono>
        {side.version} ×{side.amount}
      </Mono>
    </Soft>
  );
}

function keyOf({ base, one, other }: ThreeRow): string {
  return [base, one, other].map((side) => side?.way ?? '').join(' | ');
}

const Sentence = styled.h1`
  font-size: 15px;
`;
const Line = styled.div`
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
`;
const Mark = styled.span`
  font-weight: 600;
  font-size: 15px;
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
