import { keepPreviousData, useQueries } from '@tanstack/react-query';
import type { ItemRow } from '@stem-trace/contract';
import { FolderTree } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { ToggleButton as AriaToggle } from 'react-aria-components';
import { Link, useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { findPageQuery, PAGE } from '../../api/queries.js';
import { traceAddress, useLens } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Hint, Mono, Soft, Trouble } from '../../ui/controls.js';
import { StateGlyph } from '../../ui/glyphs.js';
import { Grid, type GridColumn } from '../../ui/grid.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';
import { PlacesTree } from './places-tree.js';

const COLUMNS: readonly GridColumn<ItemRow>[] = [
  {
    key: 'state',
    title: '',
    width: '34px',
    align: 'center',
    cell: (row) => <StateGlyph state={row.state} />,
  },
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(150px, 0.8fr)',
    sortable: true,
    cell: (row) => (
      <Mono>
        <MiddleCut text={row.number} />
      </Mono>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(180px, 1.4fr)',
    sortable: true,
    cell: (row) => <MiddleCut text={row.name} />,
  },
  { key: 'kind', title: 'Kind', width: '88px', sortable: true, cell: (row) => row.kind },
  { key: 'version', title: 'Version', width: '70px', cell: (row) => <Mono>{row.version}</Mono> },
  { key: 'heldBy', title: 'Held', width: '56px', cell: (row) => <HolderTag holder={row.heldBy} /> },
  {
    key: 'changed',
    title: 'Changed',
    width: '110px',
    sortable: true,
    cell: (row) => (
      <Soft>
        <When at={row.changedAt} />
      </Soft>
    ),
  },
  {
    key: 'changedBy',
    title: 'By',
    width: 'minmax(110px, 0.6fr)',
    cell: (row) => <Soft>{row.changedBy}</Soft>,
  },
];

/** Beside the tree of places there is less room. */
const NARROW = COLUMNS.filter(({ key }) => key !== 'changedBy' && key !== 'kind');

/** Items by words: a table for any number of them. */
export function FindPlace(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const words = search.get('words') ?? '';
  const sort = search.get('sort') ?? 'number';
  const order = search.get('order') === 'down' ? 'down' : 'up';
  const place = search.get('place') ?? '/';
  const [placesShown, showPlaces] = useState(place !== '/');
  const [sight, setSight] = useState<readonly [number, number]>([0, 0]);
  const [cursor, setCursor] = useState(0);
  const desk = useDesk();
  const { pointAt } = desk;
  const [lens] = useLens();
  const navigate = useNavigate();

  const firstPage = Math.floor(sight[0] / PAGE);
  const pages = [0, ...range(Math.max(1, firstPage), Math.floor(sight[1] / PAGE))];
  const answers = useQueries({
    queries: pages.map((page) => ({
      ...findPageQuery({ words, sort, order, place: place === '/' ? undefined : place }, page),
      placeholderData: keepPreviousData,
    })),
  });
  const { total = 0, hidden = 0 } = answers[0]?.data ?? {};
  const rowAt = (index: number): ItemRow | undefined =>
    answers[pages.indexOf(Math.floor(index / PAGE))]?.data?.rows[index % PAGE];
  const under = rowAt(cursor)?.number ?? '';
  useEffect(() => pointAt(under), [pointAt, under]);
  useEffect(() => setCursor(0), [words, sort, order, place]);
  const look = useCallback((first: number, last: number) => setSight([first, last]), []);

  const change = (changes: Readonly<Record<string, string>>): void => {
    const next = new URLSearchParams(search);
    for (const [name, value] of Object.entries(changes)) {
      if (value === '') next.delete(name);
      else next.set(name, value);
    }
    setSearch(next, { replace: true });
  };
  const sortBy = (key: string): void =>
    change({ sort: key, order: sort === key && order === 'up' ? 'down' : '' });
  const error = answers.find((answer) => answer.error)?.error;

  return (
    <>
      <Line>
        <h1 aria-live="polite">{answers[0]?.data ? sayCount(total, words, place) : 'Finding …'}</h1>
        {hidden > 0 ? (
          <Soft>and {hidden.toLocaleString('en-GB')} not visible to you</Soft>
        ) : (
          <Soft>Enter opens an item in Trace, Space puts it into the tray.</Soft>
        )}
        <Spacer />
        <ToggleButton isSelected={placesShown} onChange={showPlaces}>
          <FolderTree size={15} aria-hidden /> Places
        </ToggleButton>
      </Line>
      {error ? <Trouble>{error.message}</Trouble> : null}
      {answers[0]?.data && total === 0 ? <Nothing words={words} /> : null}
      <Halves>
        {placesShown ? (
          <PlacesTree place={place} onPlace={(path) => change({ place: path === '/' ? '' : path })} />
        ) : null}
        <Grid
          label="Items found"
          columns={placesShown ? NARROW : COLUMNS}
          rowCount={total}
          row={rowAt}
          cursor={cursor}
          onCursor={setCursor}
          onOpen={(row) => void navigate(traceAddress(row.number, lens))}
          onPick={(row) => desk.toggleInTray({ number: row.number, name: row.name })}
          isPicked={(row) => desk.isInTray(row.number)}
          sort={{ key: sort, order }}
          onSort={sortBy}
          onSight={look}
          takesFocus
        />
      </Halves>
    </>
  );
}

function sayCount(total: number, words: string, place: string): string {
  const items = `${total.toLocaleString('en-GB')} ${total === 1 ? 'item' : 'items'}`;
  const where = place === '/' ? '' : ` in ${place}`;
  return words === '' ? `${items}${where}` : `${items} with “${words}”${where}`;
}

function Nothing({ words }: { readonly words: string }): React.JSX.Element {
  return words === '' ? (
    <Hint>
      The store is empty. Begin with <Link to="/intake">bringing in a folder of design files</Link>.
    </Hint>
  ) : (
    <Hint>
      Nothing has all of these words. Try fewer, or a part of one; <Link to="/find">show everything</Link>.
    </Hint>
  );
}

function range(from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, index) => from + index);
}

const Line = styled.div`
  display: flex;
  align-items: baseline;
  gap: 14px;
`;
const Spacer = styled.span`
  flex: 1;
`;
const Halves = styled.div`
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 12px;
`;
const ToggleButton = styled(AriaToggle)`
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 4px 10px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  color: ${colour.ink};
  font: inherit;
  font-weight: 500;
  cursor: default;
  &[data-selected] {
    background: ${colour.petrolSoft};
    border-color: ${colour.petrol};
  }
`;
