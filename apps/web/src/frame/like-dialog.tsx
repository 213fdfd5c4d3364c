import type { LikeAnswer, LikeRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import styled from 'styled-components';
import { get, uploadArchive } from '../api/client.js';
import { Mono, Soft } from '../ui/controls.js';
import type { GridColumn } from '../ui/grid.js';
import { nameColumn, numberColumn } from '../ui/item-columns.js';
import { colour } from '../ui/theme.js';
import { findAddress } from './addresses.js';
import { ItemsDialog } from './items-dialog.js';

export interface LikeDialogProps {
  /** An item of the store, or a STEP file that is only looked at. */
  readonly of: string | File;
  readonly onClose: () => void;
}

/** Designs of a similar shape, with what makes them alike. */
export function LikeDialog({ of, onClose }: LikeDialogProps): React.JSX.Element {
  const name = typeof of === 'string' ? of : of.name;
  const answer = useQuery({
    queryKey: ['items', 'like', name, typeof of === 'string' ? '' : `${of.size} ${of.lastModified}`],
    queryFn: ({ signal }) =>
      typeof of === 'string'
        ? get<LikeAnswer>('/api/like', { item: of }, signal)
        : uploadArchive<LikeAnswer>('/api/like', {}, of),
    retry: false,
  });
  const title = `Designs like ${name}`;
  return (
    <ItemsDialog
      widthPx={720}
      label={title}
      waiting="Working out its shape …"
      nothing="Nothing in the store is shaped like it."
      columns={COLUMNS}
      {...{ title, answer, onClose }}
    >
      {typeof of === 'string' ? (
        <Link to={findAddress(`like ${of}`)} onClick={onClose}>
          Show them in Find
        </Link>
      ) : (
        <Soft>The file is not kept.</Soft>
      )}
    </ItemsDialog>
  );
}

const percent = (value: number): string => `${Math.round(value * 100)}`;

const COLUMNS: readonly GridColumn<LikeRow>[] = [
  numberColumn('minmax(130px, 0.8fr)', ({ state }) => state),
  nameColumn('minmax(130px, 1fr)', (row) => row.name),
  {
    key: 'score',
    title: 'Alike, %',
    width: '110px',
    cell: ({ likeness }) => (
      <>
        <Bar aria-hidden style={{ width: `${likeness.score * 50}px` }} />
        <Mono>{percent(likeness.score)}</Mono>
      </>
    ),
  },
  ...(['size', 'proportions', 'surface', 'distances'] as const).map((part): GridColumn<LikeRow> => ({
    key: part,
    title: { size: 'Size', proportions: 'Box', surface: 'Surface', distances: 'Form' }[part],
    width: '66px',
    align: 'right',
    cell: ({ likeness }) => <Mono>{percent(likeness[part])}</Mono>,
  })),
];

const Bar = styled.i`
  height: 8px;
  border-radius: 2px;
  background: ${colour.petrol};
`;
