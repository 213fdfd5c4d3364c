import type { LensText, NearRow } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../../frame/desk.js';
import { Box, Button, Mono, Pick, Soft, Trouble } from '../../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../../ui/grid.js';
import { Bar } from '../../../ui/progress-bar.js';
import { useNear, type Found } from './use-near.js';
import { ToolLine } from './bar-line.js';

export interface LookNearProps {
  readonly item: string;
  readonly lens: LensText;
  /** How many uses there are. */
  readonly uses: number;
  readonly selected: ReadonlySet<number>;
  /** Names of the classes that occur. */
  readonly classes: readonly string[];
  readonly onShow: (row: NearRow) => void;
}

/** What lies within a distance of what is selected, or what touches and overlaps, as the server works it out. */
export function LookNear({ item, lens, uses, selected, classes, onShow }: LookNearProps): React.JSX.Element {
  const [within, type] = useState('5');
  const [without, leaveOut] = useState('');
  const { ask, found, error, job, end, isMeasuring } = useNear({ item, lens, nodes: uses });
  const wanted = Number(within.replace(',', '.'));
  const own = [...selected].filter((node) => node < uses);
  return (
    <Parts>
      <ToolLine>
        <Button
          isDisabled={own.length === 0 || !(wanted >= 0)}
          onPress={() => ask({ what: 'near', of: own.join(','), within: wanted })}
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
        <Button onPress={() => ask({ what: 'overlaps', ...between(own), without })}>
          {sayOverlaps(own)}
        </Button>
        {classes.length > 0 ? (
          <Pick
            label="without"
            options={[{ key: '', text: 'nothing left out' }, ...classes.map((key) => ({ key, text: key }))]}
            value={without}
            onChange={leaveOut}
          />
        ) : null}
        {isMeasuring ? <Soft role="status">Measuring …</Soft> : null}
        {found ? <Soft role="status">{sayFound(found)}</Soft> : null}
        {found && found.rows.length > 0 ? <IntoTray rows={found.rows} /> : null}
      </ToolLine>
      {job ? (
        <ToolLine>
          <Bar label="Pairs measured" {...job.progress} />
          <Button onPress={end}>Stop</Button>
        </ToolLine>
      ) : null}
      {error ? <Trouble>{error.message}</Trouble> : null}
      {found && found.rows.length > 0 ? <Rows rows={found.rows} onShow={onShow} /> : null}
    </Parts>
  );
}

/** One is compared with all others, two with each other, none with all. */
function between([of, to, ...more]: readonly number[]): { readonly of?: string; readonly to?: string } {
  if (of === undefined) return {};
  if (to === undefined) return { of: String(of) };
  return more.length === 0 ? { of: String(of), to: String(to) } : { of: [of, to, ...more].join(',') };
}

function sayOverlaps(own: readonly number[]): string {
  if (own.length === 2) return 'Where both touch or overlap';
  return own.length === 0 ? 'All that touches or overlaps' : 'What it touches or overlaps';
}

function sayFound({ what, rows, more, unknown }: Found): string {
  const nothing = what === 'near' ? 'nothing is as near as that' : 'nothing touches or overlaps';
  const count =
    more > 0 ? `${rows.length + more} found, the deepest ${rows.length} told` : `${rows.length} found`;
  const found = rows.length === 0 ? nothing : count;
  return unknown.length === 0 ? found : `${found}; ${unknown.length} have no geometry yet`;
}

function IntoTray({ rows }: { readonly rows: readonly NearRow[] }): React.JSX.Element {
  const { isInTray, toggleInTray } = useDesk();
  const items = [...new Map(rows.map(({ number, name }) => [number, { number, name }])).values()];
  const missing = items.filter(({ number }) => number !== '' && !isInTray(number));
  return (
    <Button isDisabled={missing.length === 0} onPress={() => missing.forEach((item) => toggleInTray(item))}>
      Into the tray
    </Button>
  );
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
const Sized = styled.div`
  height: 160px;
  display: flex;
  flex-direction: column;
`;
