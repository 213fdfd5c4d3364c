import type { FindLens, CountRow, FindCounts } from '@stem-trace/contract';
import { quoted, type PropertyDefinition } from '@stem-trace/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Button } from 'react-aria-components';
import styled from 'styled-components';
import { findCountsQuery, findRangesQuery, findWordsQuery } from '../../api/find.js';
import { Pick, Soft } from '../../ui/controls.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { clause, hasClause, toggledClause } from './query-text.js';

export interface CountsPanelProps {
  readonly words: string;
  readonly place: string | undefined;
  readonly lens: FindLens | undefined;
  readonly onWords: (words: string) => void;
}

const LISTS = [
  { key: 'kind', title: 'Kind' },
  { key: 'state', title: 'State' },
  { key: 'class', title: 'Class' },
  { key: 'place', title: 'Place' },
  { key: 'changedBy', title: 'By' },
] as const;
const FEW = 6;

/** What the items found are, counted; each count writes its filter into the search, or takes it out. */
export function CountsPanel({ words, place, lens, onWords }: CountsPanelProps): React.JSX.Element {
  const counts = useQuery({ ...findCountsQuery(words, place, lens), placeholderData: keepPreviousData });
  const known = useQuery(findWordsQuery).data;
  const clauseFor = (key: keyof FindCounts, value: string): string => {
    if (key === 'place') return `in ${/\s/.test(value) ? `"${value}"` : value}`;
    if (key === 'changedBy')
      return clause('by', known?.people.find(({ name }) => name === value)?.login ?? value);
    return value === '' ? `without ${key}` : clause(key, value);
  };
  return (
    <Panel aria-label="Counts">
      {LISTS.map(({ key, title }) => (
        <Counts
          key={key}
          title={title}
          rows={counts.data?.[key] ?? []}
          lineOf={({ value }) => ({
            text: value === '' ? `without ${key}` : value,
            filter: clauseFor(key, value),
          })}
          {...{ words, onWords }}
        />
      ))}
      <Ranges properties={known?.properties ?? []} {...{ words, place, lens, onWords }} />
    </Panel>
  );
}

interface CountsProps {
  readonly title: string;
  readonly rows: readonly CountRow[];
  readonly lineOf: (row: CountRow) => { readonly text: string; readonly filter: string };
  readonly words: string;
  readonly onWords: (words: string) => void;
}

function Counts({ title, rows, lineOf, words, onWords }: CountsProps): React.JSX.Element | null {
  const [isOpen, setOpen] = useState(false);
  // One value that everything has tells nothing, unless it is what was filtered by.
  const isDull =
    rows.length === 0 || (rows.length === 1 && rows.every((row) => !hasClause(words, lineOf(row).filter)));
  if (isDull) return null;
  const shown = isOpen ? rows : rows.slice(0, FEW);
  return (
    <section>
      <h2>{title}</h2>
      <ul>
        {shown.map((row) => {
          const { text, filter } = lineOf(row);
          const isOn = hasClause(words, filter);
          return (
            <li key={text}>
              <Count
                data-on={isOn || undefined}
                aria-label={`${isOn ? 'Remove the filter' : 'Only'} ${text}, ${row.count}`}
                onPress={() => onWords(toggledClause(words, filter))}
              >
                <MiddleCut text={text} />
                <Soft>{row.count.toLocaleString('en-GB')}</Soft>
              </Count>
            </li>
          );
        })}
      </ul>
      {rows.length > FEW ? (
        <Count onPress={() => setOpen(!isOpen)}>
          <Soft>{isOpen ? 'fewer' : `${rows.length - FEW} more`}</Soft>
        </Count>
      ) : null}
    </section>
  );
}

/** Ranges of one property that is chosen. */
function Ranges({
  properties,
  words,
  place,
  lens,
  onWords,
}: CountsPanelProps & { readonly properties: readonly PropertyDefinition[] }): React.JSX.Element | null {
  const [property, setProperty] = useState('');
  const answer = useQuery({
    ...findRangesQuery(words, place, property, lens),
    placeholderData: keepPreviousData,
  });
  if (properties.length === 0) return null;
  const ranges = answer.data?.ranges ?? [];
  const unit = answer.data?.unit ?? '';
  const rows = ranges.map(({ from, to, count }) => ({ value: `${say(from)}..${say(to)}`, count }));
  return (
    <section>
      <Pick
        label="Property"
        value={property}
        onChange={setProperty}
        options={[
          { key: '', text: 'choose one' },
          ...properties.map(({ name }) => ({ key: name, text: name })),
        ]}
      />
      {property === '' ? null : (
        <>
          <Counts
            title={unit === '' ? property : `${property}, ${unit}`}
            rows={rows}
            lineOf={({ value }) => {
              const [from = '', to = ''] = value.split('..');
              return {
                text: value,
                filter: `${quoted(property)} = ${from}..${to}${unit === '' ? '' : ` ${unit}`}`,
              };
            }}
            {...{ words, onWords }}
          />
          <Counts
            title={property}
            rows={answer.data?.values ?? []}
            lineOf={({ value }) => ({ text: value, filter: clause(property, value) })}
            {...{ words, onWords }}
          />
        </>
      )}
    </section>
  );
}

/** Bounds as they can be typed: enough digits to tell neighbours apart. */
function say(value: number): string {
  return String(Number(value.toPrecision(4)));
}

const Panel = styled.section`
  flex: 0 0 190px;
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 10px;
  background: ${colour.surface};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  h2 {
    margin: 0 0 4px;
    font-size: 12px;
    font-weight: 500;
    color: ${colour.inkSoft};
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
`;
const Count = styled(Button)`
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  min-height: 24px;
  align-items: center;
  padding: 1px 6px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: ${colour.ink};
  font: inherit;
  text-align: left;
  cursor: default;
  > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  &[data-hovered] {
    background: ${colour.petrolSoft};
  }
  &[data-on] {
    background: ${colour.petrolSoft};
    box-shadow: inset 3px 0 0 ${colour.petrol};
    font-weight: 500;
  }
`;
