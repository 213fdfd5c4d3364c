import type { LikeAnswer, LikeRow } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { get, uploadArchive } from '../api/client.js';
import { Button, Hint, Mono, Soft, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { StateGlyph } from '../ui/glyphs.js';
import { Grid, type GridColumn } from '../ui/grid.js';
import { MiddleCut } from '../ui/middle-cut.js';
import { colour } from '../ui/theme.js';
import { findAddress, traceAddress } from './addresses.js';

export interface LikeDialogProps {
  /** An item of the store, or a STEP file that is only looked at. */
  readonly of: string | File;
  readonly onClose: () => void;
}

/** Designs of a similar shape, with what makes them alike. */
export function LikeDialog({ of, onClose }: LikeDialogProps): React.JSX.Element {
  const navigate = useNavigate();
  const [cursor, setCursor] = useState(0);
  const name = typeof of === 'string' ? of : of.name;
  const answer = useQuery({
    queryKey: ['items', 'like', name, typeof of === 'string' ? '' : `${of.size} ${of.lastModified}`],
    queryFn: ({ signal }) =>
      typeof of === 'string'
        ? get<LikeAnswer>('/api/like', { item: of }, signal)
        : uploadArchive<LikeAnswer>('/api/like', {}, of),
    retry: false,
  });
  const rows = answer.data?.rows ?? [];
  return (
    <DialogFrame title={`Designs like ${name}`} widthPx={720} onClose={onClose}>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.isPending ? <Hint role="status">Working out its shape …</Hint> : null}
      {answer.data && rows.length === 0 ? <Hint>Nothing in the store is shaped like it.</Hint> : null}
      {rows.length > 0 ? (
        <Body>
          <Grid
            label={`Designs like ${name}`}
            columns={COLUMNS}
            rowCount={rows.length}
            row={(index) => rows[index]}
            cursor={cursor}
            onCursor={setCursor}
            onOpen={({ number }) => {
              onClose();
              void navigate(traceAddress(number));
            }}
            takesFocus
          />
        </Body>
      ) : null}
      <Line>
        {typeof of === 'string' ? (
          <Link to={findAddress(`like ${of}`)} onClick={onClose}>
            Show them in Find
          </Link>
        ) : (
          <Soft>The file is not kept.</Soft>
        )}
        <Button slot="close">Close</Button>
      </Line>
    </DialogFrame>
  );
}

const percent = (value: number): string => `${Math.round(value * 100)}`;

const COLUMNS: readonly GridColumn<LikeRow>[] = [
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(130px, 0.8fr)',
    cell: ({ number, state }) => (
      <>
        <StateGlyph state={state} />
        <Mono>{number}</Mono>
      </>
    ),
  },
  { key: 'name', title: 'Name', width: 'minmax(130px, 1fr)', cell: ({ name }) => <MiddleCut text={name} /> },
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

const Body = styled.div`
  display: flex;
  height: 380px;
`;
const Bar = styled.i`
  height: 8px;
  border-radius: 2px;
  background: ${colour.petrol};
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
`;
