import type { LensText, NearRow, SceneNodeView } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { get } from '../../api/client.js';
import { Box, Button, Mono, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';

export interface LookNearProps {
  readonly item: string;
  readonly lens: LensText;
  readonly nodes: readonly SceneNodeView[];
  readonly selected: ReadonlySet<number>;
  readonly onShow: (row: NearRow) => void;
}

/** What lies within a distance of what is selected, as the server works it out. */
export function LookNear({ item, lens, nodes, selected, onShow }: LookNearProps): React.JSX.Element {
  const [within, type] = useState('5');
  const [asked, ask] = useState<{ readonly of: string; readonly within: number } | null>(null);
  const answer = useQuery({
    queryKey: ['near', item, lens, asked],
    queryFn: ({ signal }) => get('/api/near', { item, lens, nodes: nodes.length, ...asked }, signal),
    enabled: asked !== null,
  });
  const wanted = Number(within.replace(',', '.'));
  return (
    <Parts>
      <Line>
        <Button
          isDisabled={selected.size === 0 || !(wanted >= 0)}
          onPress={() => ask({ of: [...selected].join(','), within: wanted })}
        >
          What is near it
        </Button>
        <span>within</span>
        <Box
          aria-label="Distance in mm"
          value={within}
          onChange={({ target }) => type(target.value)}
          style={{ width: 64 }}
        />
        <span>mm</span>
        {asked && answer.isPending ? <Soft role="status">Measuring …</Soft> : null}
        {answer.data ? <Soft role="status">{sayFound(answer.data.rows, answer.data.unknown)}</Soft> : null}
      </Line>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      {answer.data && answer.data.rows.length > 0 ? <Rows rows={answer.data.rows} onShow={onShow} /> : null}
    </Parts>
  );
}

function sayFound(rows: readonly NearRow[], unknown: readonly string[]): string {
  const found = rows.length === 0 ? 'nothing is as near as that' : `${rows.length} found`;
  return unknown.length === 0 ? found : `${found}; ${unknown.length} have no geometry yet`;
}

function Rows({
  rows,
  onShow,
}: {
  readonly rows: readonly NearRow[];
  readonly onShow: LookNearProps['onShow'];
}) {
  const cursor = useGridCursor(rows, ({ node, of }) => `${of} ${node}`);
  return (
    <Sized>
      <Grid label="What is near" columns={COLUMNS} cursor={cursor} onOpen={onShow} reuses />
    </Sized>
  );
}

const COLUMNS: readonly GridColumn<NearRow>[] = [
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(110px, 1fr)',
    cell: ({ number }) => <Mono>{number || 'hidden from you'}</Mono>,
  },
  { key: 'name', title: 'Name', width: 'minmax(110px, 1.4fr)', isMinor: true, cell: ({ name }) => name },
  { key: 'kind', title: 'It', width: '90px', cell: ({ kind }) => kind },
  {
    key: 'distance',
    title: 'Distance or depth',
    width: '170px',
    align: 'right',
    cell: ({ kind, distanceMm, depthMm, toleranceMm }) =>
      kind === 'touches'
        ? `within ${sayMm(toleranceMm)}`
        : `${kind === 'overlaps' ? `≥ ${sayMm(depthMm)}` : sayMm(distanceMm)} (± ${sayMm(toleranceMm)})`,
  },
];

function sayMm(mm: number): string {
  return `${Number(mm.toPrecision(3))} mm`;
}

const Parts = styled.div`
  display: grid;
  gap: 6px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
`;
const Sized = styled.div`
  height: 160px;
  display: flex;
  flex-direction: column;
`;
