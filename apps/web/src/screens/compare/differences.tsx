import type { CompareAnswer, CompareRow } from '@stem-trace/contract';
import type { DifferenceSign } from '@stem-trace/core';
import { Link2, Link2Off, Undo2 } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { ToggleButton } from 'react-aria-components';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { SideBySide } from '../../frame/side-by-side.js';
import { Button, Choice, Soft } from '../../ui/controls.js';
import { SIGN } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridCursor } from '../../ui/grid.js';
import { colour } from '../../ui/theme.js';
import { useTable } from '../../ui/use-table.js';
import { differenceColumns, Sign } from './difference-columns.js';
import { EffectChart } from './effect-chart.js';
import type { Comparison } from './use-comparison.js';
import { WholePanel } from './whole-panel.js';

const SIGNS: readonly DifferenceSign[] = ['added', 'removed', 'changed', 'replaced', 'moved', 'same'];

const KEYS: readonly KeyHint[] = [
  { key: 'n', says: 'Next difference' },
  { key: 'p', says: 'Previous difference' },
  { key: 'b', says: 'Pair two rows by hand: press it on each' },
];

export interface DifferencesProps {
  readonly answer: CompareAnswer;
  readonly comparison: Comparison;
}

/** What differs, of the kinds that are wanted. */
export function Differences({ answer, comparison }: DifferencesProps): React.JSX.Element {
  const by = comparison.query.net ? 'totals' : 'levels';
  const [hidden, setHidden] = useState<ReadonlySet<DifferenceSign>>(new Set(['same']));
  const [showsPictures, showPictures] = useState(false);
  const rows = useMemo(() => answer.rows.filter((row) => !hidden.has(row.sign)), [answer, hidden]);
  const { columns } = comparison;
  const table = useTable(
    'compare',
    rows,
    useMemo(() => differenceColumns(columns, answer.rows.some(hasFind)), [columns, answer]),
  );
  const cursor = useGridCursor(table.rows, keyOfRow, { within: [by, ...hidden].join(' ') });
  useKeyHints(KEYS);
  return (
    <>
      <Sentence aria-live="polite">{answer.sentence}</Sentence>
      <WholePanel differences={answer.whole} />
      <Line>
        {SIGNS.map((sign) => (
          <Switch key={sign} isSelected={!hidden.has(sign)} onChange={() => setHidden(toggled(hidden, sign))}>
            <Sign sign={sign} /> {answer.counts[sign]} {SIGN[sign].word}
          </Switch>
        ))}
        <Gap />
        <Switch isSelected={showsPictures} onChange={showPictures}>
          Pictures
        </Switch>
        <Choice<'levels' | 'totals'>
          label="How to compare"
          options={[
            { key: 'levels', text: 'Level by level' },
            { key: 'totals', text: 'Net totals' },
          ]}
          value={by}
          onChange={(next) => comparison.change({ by: next === 'totals' ? next : '' })}
        />
        <ByHand row={cursor.row} comparison={comparison} />
      </Line>
      <Body>
        <Main>
          <Table table={table} cursor={cursor} comparison={comparison} />
          {showsPictures && cursor.row ? <Pictures row={cursor.row} /> : null}
        </Main>
        <EffectChart effect={answer.effect} />
      </Body>
    </>
  );
}

interface TableProps {
  readonly table: ReturnType<typeof useTable<CompareRow>>;
  readonly cursor: GridCursor<CompareRow>;
  readonly comparison: Comparison;
}

function Table({ table, cursor, comparison }: TableProps): React.JSX.Element {
  const [lens] = useLens();
  const { pointAt } = useDesk();
  const navigate = useNavigate();
  const pairing = usePairing(comparison);
  const under = cursor.row ? referenceOfSide(cursor.row) : '';
  useEffect(() => pointAt(under), [pointAt, under]);
  const go = (step: 1 | -1): void => {
    const { rows } = table;
    for (let at = cursor.from + step; at >= 0 && at < rows.length; at += step)
      if (rows[at]?.sign !== 'same') return cursor.moveTo(at);
  };
  return (
    <>
      {pairing.says === '' ? null : <Soft role="status">{pairing.says}</Soft>}
      <Grid
        label="Differences"
        {...table.grid}
        cursor={cursor}
        onOpen={(opened) => void navigate(traceAddress(referenceOfSide(opened), lens))}
        onKey={(event, row) => {
          if (event.ctrlKey || event.metaKey || event.altKey) return false;
          if (event.key === 'n' || event.key === 'p') go(event.key === 'n' ? 1 : -1);
          else if (event.key === 'b' && row) pairing.take(row);
          else return false;
          return true;
        }}
        ground={(shown) => (shown.sign === 'same' ? undefined : SIGN[shown.sign].ground)}
        levelOf={(shown) => shown.level}
        takesFocus
      />
    </>
  );
}

/** Two rows, one after the other, that somebody says are a pair. */
function usePairing(comparison: Comparison): { says: string; take: (row: CompareRow) => void } {
  const [first, setFirst] = useState<CompareRow>();
  const take = (row: CompareRow): void => {
    const from = row.before?.way ?? '';
    const to = row.after?.way ?? '';
    if (row.before && row.after) return;
    if (!first || (first.before && row.before) || (first.after && row.after)) return setFirst(row);
    comparison.pair({ from: first.before?.way ?? from, to: first.after?.way ?? to });
    setFirst(undefined);
  };
  const other = first?.before ? 'added' : 'removed';
  return {
    says: first
      ? `${first.number} is to be paired: press b on an ${other} row, or on another one to begin anew.`
      : '',
    take,
  };
}

/** What can be said of the row under the cursor: that it is no pair, or no more what was said of it. */
function ByHand({
  row,
  comparison,
}: {
  readonly row: CompareRow | undefined;
  readonly comparison: Comparison;
}): React.JSX.Element | null {
  if (!row || comparison.query.net) return null;
  const pair = { from: row.before?.way ?? '', to: row.after?.way ?? '' };
  const isSaid = comparison.hand.some(
    ({ from, to }) => (from !== '' && from === pair.from) || (to !== '' && to === pair.to),
  );
  return (
    <>
      {isSaid ? (
        <Button onPress={() => comparison.forget(pair)}>
          <Undo2 size={14} aria-hidden /> Pair {row.number} automatically
        </Button>
      ) : row.before && row.after ? (
        <Button
          onPress={() => {
            comparison.pair({ from: pair.from, to: '' });
          }}
        >
          <Link2Off size={14} aria-hidden /> Unpair {row.before.number} and {row.after.number}
        </Button>
      ) : (
        <Soft>
          <Link2 size={13} aria-hidden /> Press b on two rows to pair them by hand.
        </Soft>
      )}
    </>
  );
}

function Pictures({ row: { before, after } }: { readonly row: CompareRow }): React.JSX.Element {
  return <SideBySide left={before?.number ?? ''} right={after?.number ?? ''} />;
}

function hasFind({ before, after }: CompareRow): boolean {
  return (before?.find ?? '') !== '' || (after?.find ?? '') !== '';
}

/** A line is told apart by the ways to it. */
function keyOfRow({ before, after }: CompareRow): string {
  return `${before?.way ?? ''} | ${after?.way ?? ''}`;
}

/** The item that a row is about, in the version that the row has; a list from outside may name none. */
function referenceOfSide({ before, after }: CompareRow): string {
  const side = [after, before].find((each) => each && each.version !== '' && !each.version.includes(','));
  if (side) return `${side.number}@${side.version}`;
  const known = [after, before].find((each) => each && each.state !== null);
  return known?.number ?? '';
}

function toggled<T>(set: ReadonlySet<T>, value: T): ReadonlySet<T> {
  const next = new Set(set);
  if (!next.delete(value)) next.add(value);
  return next;
}

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
const Main = styled.div`
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
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
