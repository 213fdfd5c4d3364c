import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { JobKind, JobState, JobView } from '@stem-trace/contract';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Button, Soft, Trouble } from '../../ui/controls.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { useTable } from '../../ui/use-table.js';
import { When } from '../../ui/when.js';

const WORK: Readonly<Record<JobKind, string>> = {
  intake: 'Bringing in',
  unpack: 'Unpacking',
  proof: 'Proof',
  overlaps: 'Overlaps',
  wish: 'Variants from wishes',
  mesh: 'Mesh',
  shape: 'Shape',
  likeness: 'Likeness',
  'roll-up': 'Sums',
  issue: 'Issued files',
  planning: 'Bills for planning',
  mail: 'Mail',
  webhook: 'Webhooks',
};

const COLUMNS: readonly GridColumn<JobView>[] = [
  {
    key: 'kind',
    title: 'Work',
    width: '110px',
    sortBy: ({ kind }) => WORK[kind],
    cell: ({ kind }) => WORK[kind],
  },
  {
    key: 'about',
    title: 'About',
    width: 'minmax(180px, 1fr)',
    sortBy: ({ about }) => about,
    cell: ({ about }) => about,
  },
  {
    key: 'by',
    title: 'Asked by',
    width: '130px',
    sortBy: ({ by }) => by,
    cell: ({ by }) => by ?? <Soft>the store itself</Soft>,
  },
  {
    key: 'askedAt',
    title: 'Asked',
    width: '120px',
    sortBy: ({ askedAt }) => askedAt,
    cell: ({ askedAt }) => <When at={askedAt} />,
  },
  { key: 'state', title: 'State', width: '90px', sortBy: ({ state }) => state, cell: ({ state }) => state },
  {
    key: 'progress',
    title: 'Done',
    width: '110px',
    cell: ({ progress: { done, total } }) => (total === 0 ? '' : `${done} of ${total}`),
  },
  {
    key: 'says',
    title: 'What happened',
    width: 'minmax(160px, 1fr)',
    cell: ({ failure, tries }) => failure ?? (tries > 1 ? `started ${tries} times` : ''),
  },
];

const NO_JOBS: readonly JobView[] = [];
const CAN_END: ReadonlySet<JobState> = new Set(['waiting', 'running']);
const CAN_BE_DONE_AGAIN: ReadonlySet<JobState> = new Set(['failed', 'cancelled']);

/** What the store does while nobody waits for it; each can be ended, and done once more. */
export function JobsSection(): React.JSX.Element {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState('');
  const jobs = useQuery({ queryKey: ['jobs'], queryFn: ({ signal }) => get('/api/jobs', {}, signal) });
  const table = useTable('jobs', jobs.data ?? NO_JOBS, COLUMNS);
  const cursor = useGridCursor(table.rows, ({ kind, id }) => `${kind} ${id}`);
  const under = cursor.row;
  const act = async (path: '/api/jobs/cancel' | '/api/jobs/retry', { kind, id }: JobView): Promise<void> => {
    try {
      setTrouble('');
      await send('POST', path, { kind, id });
      await queries.invalidateQueries({ queryKey: ['jobs'] });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <Line>
        <Button
          isDisabled={!under || !CAN_END.has(under.state)}
          onPress={() => under && void act('/api/jobs/cancel', under)}
        >
          End it
        </Button>
        <Button
          isDisabled={!under || !CAN_BE_DONE_AGAIN.has(under.state)}
          onPress={() => under && void act('/api/jobs/retry', under)}
        >
          Try again
        </Button>
        <Soft>Work in the background. An administrator sees everybody’s.</Soft>
      </Line>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      {jobs.isSuccess && table.rows.length === 0 ? (
        <Soft>Nothing is being done, and nothing was lately.</Soft>
      ) : (
        <Grid label="Background work" {...table.grid} cursor={cursor} />
      )}
    </>
  );
}

const Line = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
`;
