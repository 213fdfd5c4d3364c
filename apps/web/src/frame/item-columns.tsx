/** The columns that tables of items begin with. */
import type { State } from '@stem-trace/contract';
import { Thumb } from '../pictures/thumb.js';
import { Mono } from '../ui/controls.js';
import { StateGlyph } from '../ui/glyphs.js';
import type { GridColumn } from '../ui/grid.js';
import { MiddleCut } from '../ui/middle-cut.js';

/** The number, after a small picture where somebody wants these, and the state where that is given. */
export function numberColumn<Row extends { readonly number: string }>(
  width: string,
  stateOf?: (row: Row) => State | null,
): GridColumn<Row> {
  return {
    key: 'number',
    title: 'Number',
    width,
    hasPicture: true,
    sortBy: ({ number }) => number,
    cell: (row) => (
      <>
        <Thumb item={row.number} />
        {stateOf ? <StateGlyph state={stateOf(row)} /> : null}
        <Mono>
          <MiddleCut text={row.number} />
        </Mono>
      </>
    ),
  };
}

export function nameColumn<Row>(width: string, nameOf: (row: Row) => string): GridColumn<Row> {
  return {
    key: 'name',
    title: 'Name',
    width,
    sortBy: nameOf,
    cell: (row) => <MiddleCut text={nameOf(row)} />,
  };
}

export function versionColumn<Row extends { readonly version: string | null }>(): GridColumn<Row> {
  return {
    key: 'version',
    title: 'Version',
    width: '72px',
    sortBy: ({ version }) => version,
    cell: ({ version }) => <Mono>{version}</Mono>,
  };
}
