/** What the table of Find can show, and what each person has chosen of it. */
import type { FoundIn, FoundRow } from '@stem-trace/contract';
import { useCallback, useState } from 'react';
import styled from 'styled-components';
import { Mono, Soft } from '../../ui/controls.js';
import { StateGlyph } from '../../ui/glyphs.js';
import type { GridColumn } from '../../ui/grid.js';
import { nameColumn, numberColumn } from '../../frame/item-columns.js';
import { HolderTag } from '../../ui/holder-tag.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { colour } from '../../ui/theme.js';
import { When } from '../../ui/when.js';

export const PROPERTY = 'property:';

/** A column that was chosen; the width is the person's own where there is one. */
export interface ChosenColumn {
  readonly key: string;
  readonly widthPx?: number;
}

/** Said beside the name where the words stand neither there nor in the number. */
const WHERE: Readonly<Partial<Record<FoundIn, string>>> = {
  property: 'in a property',
  'file name': 'in the file’s name',
  'former name': 'in a former name',
  comment: 'in a comment',
  place: 'in the place',
  text: 'in the text',
};

const BUILT_IN: readonly GridColumn<FoundRow>[] = [
  // The state has a column of its own before it.
  { ...numberColumn<FoundRow>('minmax(150px, 0.8fr)'), sortable: true },
  {
    ...nameColumn<FoundRow>('minmax(150px, 1.4fr)', ({ name }) => name),
    sortable: true,
    cell: ({ name, foundIn }) => (
      <>
        <MiddleCut text={name} />
        {foundIn !== null && WHERE[foundIn] !== undefined ? <Where>· {WHERE[foundIn]}</Where> : null}
      </>
    ),
  },
  { key: 'kind', title: 'Kind', width: '88px', sortable: true, cell: (row) => row.kind },
  {
    key: 'version',
    title: 'Version',
    width: '86px',
    cell: ({ version, released }) =>
      released === null ? (
        <Mono>{version}</Mono>
      ) : (
        <span title={`${released} is released; the newest is ${version}`}>
          <Mono>{version}</Mono> <Soft>{released}</Soft> <Mark aria-hidden>■</Mark>
        </span>
      ),
  },
  { key: 'heldBy', title: 'Held', width: '56px', cell: (row) => <HolderTag holder={row.heldBy} /> },
  {
    key: 'changed',
    title: 'Changed',
    width: '104px',
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
    width: 'minmax(100px, 0.6fr)',
    sortable: true,
    cell: (row) => <Soft>{row.changedBy}</Soft>,
  },
  {
    key: 'class',
    title: 'Class',
    width: 'minmax(90px, 0.5fr)',
    sortable: true,
    cell: (row) => row.class ?? '',
  },
  {
    key: 'place',
    title: 'Place',
    width: 'minmax(120px, 0.8fr)',
    sortable: true,
    cell: (row) => (
      <Soft>
        <MiddleCut text={row.place} />
      </Soft>
    ),
  },
];

const STATE: GridColumn<FoundRow> = {
  key: 'state',
  title: '',
  width: '34px',
  align: 'center',
  cell: (row) => <StateGlyph state={row.state} />,
};

export const DEFAULT_COLUMNS: readonly ChosenColumn[] = [
  'number',
  'name',
  'version',
  'heldBy',
  'changed',
].map((key) => ({ key }));

/** The grid's columns for those chosen; the state leads. Columns that are no more are passed over. */
export function gridColumns(chosen: readonly ChosenColumn[]): readonly GridColumn<FoundRow>[] {
  const columns = chosen.flatMap(({ key, widthPx }): GridColumn<FoundRow>[] => {
    const column = columnOf(key);
    if (!column) return [];
    return [widthPx === undefined ? column : { ...column, width: `${widthPx}px` }];
  });
  return [STATE, ...columns];
}

function columnOf(key: string): GridColumn<FoundRow> | undefined {
  if (!key.startsWith(PROPERTY)) return BUILT_IN.find((column) => column.key === key);
  const name = key.slice(PROPERTY.length);
  return {
    key,
    title: name,
    width: 'minmax(90px, 0.5fr)',
    sortable: true,
    cell: (row) => {
      const shown = row.properties[name.toLowerCase()] ?? '';
      // A value begins with what counts.
      return <span title={shown}>{shown}</span>;
    },
  };
}

/** All that can be chosen, by key. */
export function choosable(
  properties: readonly string[],
): readonly { readonly key: string; readonly title: string }[] {
  return [
    ...BUILT_IN.map(({ key, title }) => ({ key, title })),
    ...properties.map((name) => ({ key: PROPERTY + name, title: name })),
  ];
}

const KEPT = 'stem-trace.find.columns';

/** Kept in this browser. */
export function useChosenColumns(): [readonly ChosenColumn[], (columns: readonly ChosenColumn[]) => void] {
  const [chosen, setChosen] = useState(readKept);
  const choose = useCallback((columns: readonly ChosenColumn[]) => {
    setChosen(columns);
    localStorage.setItem(KEPT, JSON.stringify(columns));
  }, []);
  return [chosen, choose];
}

function readKept(): readonly ChosenColumn[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? 'null');
    if (!Array.isArray(kept)) return DEFAULT_COLUMNS;
    const columns = (kept as ChosenColumn[]).filter(({ key }) => typeof key === 'string');
    return columns.length > 0 ? columns : DEFAULT_COLUMNS;
  } catch {
    return DEFAULT_COLUMNS;
  }
}

const Mark = styled.i`
  font-style: normal;
  font-size: 8px;
  color: ${colour.petrol};
`;
const Where = styled(Soft)`
  flex: none;
  font-size: 12px;
`;
