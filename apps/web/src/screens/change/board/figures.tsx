/** Figures of changes, each of which opens the list that it counts. */
import type { ChangeRow } from '@stem-trace/contract';
import { countWeeks, isFinished, sharesBy, timePerState, type Share } from '@stem-trace/core';
import { useMemo } from 'react';
import { Bar, BarChart, Legend, XAxis, YAxis } from 'recharts';
import styled from 'styled-components';
import { useChangeSearch } from '../../../frame/addresses.js';
import { Mono, Soft } from '../../../ui/controls.js';
import { useStates } from '../../../ui/states.js';
import { colour } from '../../../ui/theme.js';
import { forFigures, NO_PRODUCT, NOBODY } from './board-filter.js';

export interface FiguresProps {
  readonly rows: readonly ChangeRow[];
  readonly now: number;
}

const WEEKS = 12;
const SHOWN = 3;
const DAYS = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 1 });

export function Figures({ rows, now }: FiguresProps): React.JSX.Element {
  const change = useChangeSearch();
  const { weeks, times, products, waits } = useMemo(() => {
    const all = rows.map(forFigures);
    const open = all.filter(({ lane }) => !isFinished(lane));
    return {
      weeks: countWeeks(all, now, WEEKS),
      times: timePerState(all, now),
      products: sharesBy(open, (each) => each.products, NO_PRODUCT),
      waits: sharesBy(open, (each) => each.waitsFor, NOBODY),
    };
  }, [rows, now]);
  const book = useStates();
  const order = [...book.keys()];
  const openList = (of: readonly string[]): void => change({ of: of.join(','), state: '', done: 'yes' });
  return (
    <Frame>
      <Weeks weeks={weeks} onOpen={openList} />
      <Shares
        title="Days in a state, half are shorter"
        most={5}
        rows={times
          .filter(({ state }) => !isFinished(book.get(state)?.lane ?? 'open'))
          .sort((one, other) => order.indexOf(one.state) - order.indexOf(other.state))
          .map(({ state, medianDays, longestDays, changes }) => ({
            ...{ name: state, size: medianDays, changes },
            says: `${DAYS.format(medianDays)} (up to ${DAYS.format(longestDays)})`,
          }))}
        onOpen={({ changes }) => openList(changes)}
      />
      <Shares
        title="Open, by product"
        rows={counted(products)}
        onOpen={({ name }) => change({ product: name, of: '' })}
      />
      <Shares
        title="Open, by who they wait for"
        rows={counted(waits)}
        onOpen={({ name }) => change({ waits: name, of: '' })}
      />
    </Frame>
  );
}

interface Figure extends Share {
  readonly size: number;
  readonly says: string;
}

function counted(shares: readonly Share[]): Figure[] {
  return shares.map((share) => ({
    ...share,
    size: share.changes.length,
    says: String(share.changes.length),
  }));
}

interface WeeksProps {
  readonly weeks: ReturnType<typeof countWeeks>;
  readonly onOpen: (of: readonly string[]) => void;
}

function Weeks({ weeks, onOpen }: WeeksProps): React.JSX.Element {
  const total = (of: 'opened' | 'closed'): string[] => weeks.flatMap((each) => each[of]);
  return (
    <Figured aria-label="Opened and closed per week">
      <figcaption>
        Last {WEEKS} weeks:{' '}
        {(['opened', 'closed'] as const).map((of, at) => (
          <span key={of}>
            {at > 0 ? ', ' : ''}
            <Opens type="button" onClick={() => onOpen(total(of))}>
              {total(of).length} {of}
            </Opens>
          </span>
        ))}
      </figcaption>
      <WeekBars weeks={weeks} onOpen={onOpen} />
      <Unseen aria-label="Per week">
        {weeks.flatMap(({ week, opened, closed }) =>
          opened.length + closed.length === 0 ? (
            []
          ) : (
            <li key={week}>{`${week}: ${opened.length} opened, ${closed.length} closed`}</li>
          ),
        )}
      </Unseen>
    </Figured>
  );
}

/** The same as the list beside it, for those who see it. */
function WeekBars({ weeks, onOpen }: WeeksProps): React.JSX.Element {
  const data = weeks.map(({ week, opened, closed }) => ({
    week: week.slice(5),
    opened: opened.length,
    closed: closed.length,
  }));
  return (
    <div aria-hidden>
      <BarChart
        width={196}
        height={86}
        data={data}
        accessibilityLayer={false}
        margin={{ left: -34, right: 4, top: 4, bottom: 0 }}
      >
        <XAxis dataKey="week" tick={{ fill: colour.inkSoft, fontSize: 10 }} tickLine={false} interval={3} />
        <YAxis
          allowDecimals={false}
          tick={{ fill: colour.inkSoft, fontSize: 10 }}
          tickLine={false}
          axisLine={false}
        />
        <Legend iconSize={8} wrapperStyle={{ fontSize: 11 }} />
        <Bar
          dataKey="opened"
          fill={colour.copper}
          isAnimationActive={false}
          onClick={(_, at) => onOpen(weeks[at]?.opened ?? [])}
        />
        <Bar
          dataKey="closed"
          fill={colour.petrol}
          isAnimationActive={false}
          onClick={(_, at) => onOpen(weeks[at]?.closed ?? [])}
        />
      </BarChart>
    </div>
  );
}

function Shares({
  title,
  rows,
  onOpen,
  most: shown = SHOWN,
}: {
  readonly title: string;
  readonly most?: number;
  readonly rows: readonly Figure[];
  readonly onOpen: (row: Figure) => void;
}): React.JSX.Element {
  const most = Math.max(1, ...rows.map(({ size }) => size));
  return (
    <Figured aria-label={title}>
      <figcaption>{title}</figcaption>
      <Bars>
        {rows.slice(0, shown).map((row) => (
          <li key={row.name}>
            <Opens type="button" onClick={() => onOpen(row)} title={`${row.name}: ${row.changes.join(', ')}`}>
              <i style={{ width: `${(row.size / most) * 100}%` }} />
              <span>{row.name}</span>
              <Mono>{row.says}</Mono>
            </Opens>
          </li>
        ))}
      </Bars>
      {rows.length > shown ? <Soft>and {rows.length - shown} more</Soft> : null}
      {rows.length === 0 ? <Soft>nothing is open</Soft> : null}
    </Figured>
  );
}

const Frame = styled.section`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 6px 16px;
  align-content: start;
  padding: 10px 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  font-size: 12px;
`;
const Figured = styled.figure`
  margin: 0;
  min-width: 0;
  figcaption {
    color: ${colour.inkSoft};
    margin-bottom: 3px;
  }
`;
const Opens = styled.button`
  border: 0;
  background: none;
  font: inherit;
  color: ${colour.petrol};
  padding: 0;
  cursor: default;
  &:hover {
    text-decoration: underline;
  }
`;
const Bars = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 1px;
  button {
    position: relative;
    display: flex;
    justify-content: space-between;
    gap: 8px;
    width: 100%;
    min-height: 24px;
    align-items: center;
    padding: 1px 4px;
    color: ${colour.ink};
    text-align: left;
  }
  i {
    position: absolute;
    inset: 0 auto 0 0;
    background: ${colour.petrolSoft};
    border-radius: 2px;
  }
  span {
    position: relative;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;
const Unseen = styled.ul`
  position: absolute;
  clip-path: inset(50%);
`;
