import type { EffectAnswer, EffectRow } from '@stem-trace/contract';
import { quoted } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { Button, Hint, Mono, Soft, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { StateGlyph } from '../ui/glyphs.js';
import { Grid, type GridColumn } from '../ui/grid.js';
import { MiddleCut } from '../ui/middle-cut.js';
import { findAddress, traceAddress, useLens } from './addresses.js';

export interface CommonDialogProps {
  readonly items: readonly string[];
  readonly onClose: () => void;
}

/** The nearest assemblies that hold all of some items. */
export function CommonDialog({ items, onClose }: CommonDialogProps): React.JSX.Element {
  const navigate = useNavigate();
  const [lens] = useLens();
  const [cursor, setCursor] = useState(0);
  const answer = useQuery({
    queryKey: ['structure', 'common', items, lens],
    queryFn: () => send<EffectAnswer>('POST', '/api/common', { items, lens }),
  });
  const rows = answer.data?.rows ?? [];
  return (
    <DialogFrame title={`Nearest assemblies with all ${items.length}`} widthPx={560} onClose={onClose}>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.isPending ? <Hint role="status">Looking upwards …</Hint> : null}
      {answer.data && rows.length === 0 ? <Hint>Nothing holds all of them.</Hint> : null}
      {rows.length > 0 ? (
        <Body>
          <Grid
            label="Nearest assemblies"
            columns={COLUMNS}
            rowCount={rows.length}
            row={(index) => rows[index]}
            cursor={cursor}
            onCursor={setCursor}
            onOpen={({ number }) => {
              onClose();
              void navigate(traceAddress(number, lens));
            }}
            takesFocus
          />
        </Body>
      ) : null}
      <Line>
        <Link
          to={findAddress(items.map((number) => `made of ${quoted(number)}`).join(' '))}
          onClick={onClose}
        >
          All that hold them, in Find
        </Link>
        {answer.data && answer.data.hidden > 0 ? <Soft>{answer.data.hidden} not visible to you</Soft> : null}
        <Button slot="close">Close</Button>
      </Line>
    </DialogFrame>
  );
}

const COLUMNS: readonly GridColumn<EffectRow>[] = [
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(150px, 0.8fr)',
    cell: ({ number, state }) => (
      <>
        <StateGlyph state={state} />
        <Mono>{number}</Mono>
      </>
    ),
  },
  { key: 'name', title: 'Name', width: 'minmax(150px, 1fr)', cell: ({ name }) => <MiddleCut text={name} /> },
  { key: 'version', title: 'Version', width: '70px', cell: ({ version }) => <Mono>{version}</Mono> },
];

const Body = styled.div`
  display: flex;
  height: 260px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
`;
