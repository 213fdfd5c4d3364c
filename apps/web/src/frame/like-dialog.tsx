import type { LikePropertiesAnswer, LikePropertiesRow, LikeRow } from '@stem-trace/contract';
import { quoted } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { get, uploadArchive } from '../api/client.js';
import { Choice, Mono, Soft } from '../ui/controls.js';
import type { GridColumn } from '../ui/grid.js';
import { nameColumn, numberColumn } from './item-columns.js';
import { MiddleCut } from '../ui/middle-cut.js';
import { colour } from '../ui/theme.js';
import { findAddress } from './addresses.js';
import { ItemsDialog } from './items-dialog.js';

export interface LikeDialogProps {
  /** An item of the store, or a STEP file that is only looked at. */
  readonly of: string | File;
  /** Whether there is a shape to go by. */
  readonly hasShape?: boolean;
  readonly onClose: () => void;
}

type By = 'shape' | 'properties';
const WAYS = [
  { key: 'shape', text: 'by shape' },
  { key: 'properties', text: 'by properties' },
] as const;

/** Designs that are alike, with what makes them so. */
export function LikeDialog({ of, hasShape = true, onClose }: LikeDialogProps): React.JSX.Element {
  const [by, choose] = useState<By>(hasShape ? 'shape' : 'properties');
  const head =
    typeof of === 'string' && hasShape ? (
      <Choice<By> label="Alike" options={WAYS} value={by} onChange={choose} />
    ) : null;
  return typeof of === 'string' && by === 'properties' ? (
    <LikeByProperties {...{ of, head, onClose }} />
  ) : (
    <LikeByShape {...{ of, head, onClose }} />
  );
}

interface WayProps<Of> {
  readonly of: Of;
  readonly head: React.ReactNode;
  readonly onClose: () => void;
}

function LikeByShape({ of, head, onClose }: WayProps<string | File>): React.JSX.Element {
  const name = typeof of === 'string' ? of : of.name;
  const answer = useQuery({
    queryKey: ['items', 'like', name, typeof of === 'string' ? '' : `${of.size} ${of.lastModified}`],
    queryFn: ({ signal }) =>
      typeof of === 'string' ? get('/api/like', { item: of }, signal) : uploadArchive('/api/like', {}, of),
    retry: false,
  });
  const title = `Designs like ${name}`;
  return (
    <ItemsDialog
      widthPx={720}
      label={title}
      kind="like by shape"
      {...(typeof of === 'string' ? { compared: of } : {})}
      waiting="Working out its shape …"
      nothing="Nothing in the store is shaped like it."
      columns={SHAPE_COLUMNS}
      {...{ title, answer, head, onClose }}
    >
      {typeof of === 'string' ? (
        <Link to={findAddress(`like ${quoted(of)} or number = ${quoted(of)}`)} onClick={onClose}>
          Show them in Find
        </Link>
      ) : (
        <Soft>The file is not kept.</Soft>
      )}
    </ItemsDialog>
  );
}

function LikeByProperties({ of, head, onClose }: WayProps<string>): React.JSX.Element {
  const answer = useQuery({
    queryKey: ['items', 'like by properties', of],
    queryFn: ({ signal }) => get('/api/like/properties', { item: of }, signal),
    retry: false,
  });
  const title = `Designs like ${of}`;
  const held = answer.data?.of ?? [];
  return (
    <ItemsDialog
      widthPx={Math.min(1100, 520 + 120 * held.length)}
      label={title}
      kind="like by properties"
      compared={of}
      waiting="Looking for the same properties …"
      nothing="Nothing in the store has about the same properties."
      columns={propertyColumns(held)}
      {...{ title, answer, head, onClose }}
    >
      <Link to={findAddress(`like ${quoted(of)} or number = ${quoted(of)}`)} onClick={onClose}>
        Show those of its shape in Find
      </Link>
      <Soft>{held.map(({ name, shown }) => `${name} ${shown}`).join(', ')}</Soft>
    </ItemsDialog>
  );
}

const percent = (value: number): string => `${Math.round(value * 100)}`;

function itemColumns<Row extends Pick<LikeRow, 'number' | 'name' | 'state'>>(
  scoreOf: (row: Row) => number,
): readonly GridColumn<Row>[] {
  return [
    numberColumn('minmax(130px, 0.8fr)', ({ state }) => state),
    nameColumn('minmax(130px, 1fr)', ({ name }) => name),
    {
      key: 'score',
      title: 'Alike, %',
      width: '110px',
      sortBy: scoreOf,
      cell: (row) => (
        <>
          <Bar aria-hidden style={{ width: `${scoreOf(row) * 50}px` }} />
          <Mono>{percent(scoreOf(row))}</Mono>
        </>
      ),
    },
  ];
}

const SHAPE_COLUMNS: readonly GridColumn<LikeRow>[] = [
  ...itemColumns<LikeRow>(({ likeness }) => likeness.score),
  ...(['size', 'proportions', 'surface', 'distances'] as const).map((part): GridColumn<LikeRow> => ({
    key: part,
    title: { size: 'Size', proportions: 'Box', surface: 'Surface', distances: 'Form' }[part],
    width: '66px',
    align: 'right',
    cell: ({ likeness }) => <Mono>{percent(likeness[part])}</Mono>,
  })),
];

/** What each says, soft where it is the same: what differs is what one wants to see. */
function propertyColumns(held: LikePropertiesAnswer['of']): readonly GridColumn<LikePropertiesRow>[] {
  return [
    ...itemColumns<LikePropertiesRow>(({ score }) => score),
    ...held.map(({ name }, at): GridColumn<LikePropertiesRow> => ({
      key: `property ${at}`,
      title: name,
      width: 'minmax(90px, 0.5fr)',
      cell: ({ properties }) => {
        const { closeness = 0, shown = '' } = properties[at] ?? {};
        const text = <MiddleCut text={shown || '–'} />;
        return closeness === 1 ? <Soft>{text}</Soft> : text;
      },
    })),
  ];
}

const Bar = styled.i`
  height: 8px;
  border-radius: 2px;
  background: ${colour.petrol};
`;
