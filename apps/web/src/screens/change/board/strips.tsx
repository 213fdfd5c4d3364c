/** A strip for each state: what stands in it lies along the strip by how long it has, what is late in copper. */
import type { ChangeRow } from '@stem-trace/contract';
import { ageDays, lateDays } from '@stem-trace/core';
import { useMemo } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { changeAddress, useChangeSearch } from '../../../frame/addresses.js';
import { Soft } from '../../../ui/controls.js';
import { StateGlyph } from '../../../ui/glyphs.js';
import { useStates } from '../../../ui/states.js';
import { colour, font } from '../../../ui/theme.js';
import { forFigures, sinceOf } from './board-filter.js';

export interface StripsProps {
  readonly rows: readonly ChangeRow[];
  readonly now: number;
}

interface Mark {
  readonly row: ChangeRow;
  readonly days: number;
  readonly late: number;
  /** From 0 to 1 along the strip. */
  readonly at: number;
  /** Which of several that lie over each other. */
  readonly level: number;
}

interface Strip {
  readonly state: string;
  readonly marks: readonly Mark[];
  readonly count: number;
}

/** Beyond, marks of a strip lie over each other. */
const MOST_LEVELS = 4;
const MARK_SHARE = 0.15;
/** Of one state; what is late and what has been there longest goes before the others, which the table has. */
const MOST_MARKS = 40;

export function Strips({ rows, now }: StripsProps): React.JSX.Element {
  const book = useStates();
  const change = useChangeSearch();
  const strips = useMemo(() => stripsOf(rows, [...book.keys()], now), [rows, book, now]);
  const longest = Math.max(7, ...strips.flatMap(({ marks }) => marks.map(({ days }) => days)));
  return (
    <Frame aria-label="Where they stand">
      {strips.map(({ state, marks, count }) => (
        <Row key={state}>
          <StateButton
            type="button"
            onClick={() => change({ state, of: '' })}
            title={`Show those that are ${state}`}
          >
            <StateGlyph state={state} /> {state} <b>{count}</b>
          </StateButton>
          <Track style={{ height: 5 + 24 * (1 + Math.max(0, ...marks.map(({ level }) => level))) }}>
            {marks.map(({ row, days, late, at, level }) => (
              <MarkLink
                key={row.number}
                to={changeAddress(row.number)}
                data-late={late > 0 || undefined}
                style={{ left: `calc(${at} * (100% - 50px))`, top: 3 + level * 24 }}
                title={`${row.number} ${row.name}: ${sayDays(days)} ${state}${late > 0 ? `, ${sayDays(late)} late` : ''}`}
              >
                {row.number.replace(/^(.*?)0*(\d+)$/, '$1$2')}
              </MarkLink>
            ))}
          </Track>
        </Row>
      ))}
      <Axis>
        <Soft>came today</Soft>
        <Soft>{sayDays(longest)} in the same state</Soft>
      </Axis>
    </Frame>
  );
}

function sayDays(days: number): string {
  return `${days} ${days === 1 ? 'day' : 'days'}`;
}

/** In the order in which states are known; along a strip by the root of the days, so that the young ones do not lie over each other. */
export function stripsOf(
  rows: readonly ChangeRow[],
  states: readonly string[],
  now: number,
): readonly Strip[] {
  const aged = rows.map((row) => ({
    row,
    days: ageDays(sinceOf(row), now),
    late: lateDays(forFigures(row), now),
  }));
  const longest = Math.max(7, ...aged.map(({ days }) => days));
  return states.flatMap((state) => {
    const all = aged.filter(({ row }) => row.state === state);
    if (all.length === 0) return [];
    const here = all
      .toSorted((a, b) => b.late - a.late || b.days - a.days)
      .slice(0, MOST_MARKS)
      .sort((a, b) => a.days - b.days);
    const ends: number[] = [];
    const marks = here.map((each): Mark => {
      const at = Math.sqrt(each.days / longest);
      const free = ends.findIndex((end) => end + MARK_SHARE < at);
      const level = free >= 0 ? free : Math.min(ends.length, MOST_LEVELS - 1);
      ends[level] = at;
      return { ...each, at, level };
    });
    return [{ state, marks, count: all.length }];
  });
}

const Frame = styled.section`
  display: grid;
  gap: 4px;
  align-content: start;
  padding: 10px 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
`;
const Row = styled.div`
  display: grid;
  grid-template-columns: 136px minmax(0, 1fr);
  align-items: start;
  gap: 8px;
`;
const StateButton = styled.button`
  border: 0;
  background: none;
  color: ${colour.ink};
  font: inherit;
  text-align: left;
  padding: 2px 0;
  min-height: 28px;
  cursor: default;
  display: flex;
  gap: 6px;
  align-items: center;
  b {
    margin-left: auto;
    font-family: ${font.mono};
    font-weight: 500;
  }
  &:hover {
    text-decoration: underline;
  }
`;
const Track = styled.div`
  position: relative;
  background: ${colour.surface};
  border-left: 2px solid ${colour.lineStrong};
  border-radius: 2px;
  min-height: 29px;
`;
const MarkLink = styled(Link)`
  position: absolute;
  white-space: nowrap;
  font: 11px/23px ${font.mono};
  padding: 0 4px;
  border-radius: 2px;
  border-left: 3px solid ${colour.petrol};
  background: ${colour.petrolSoft};
  color: ${colour.ink};
  text-decoration: none;
  &[data-late] {
    border-left-color: ${colour.copper};
    background: ${colour.copperSoft};
    font-weight: 600;
  }
  &:hover,
  &:focus-visible {
    z-index: 1;
    text-decoration: underline;
  }
`;
const Axis = styled.div`
  display: flex;
  justify-content: space-between;
  padding-left: 146px;
  font-size: 11px;
`;
