/** The items of a check sheet: where each stands, what changed, who has seen it, and what is open. */
import type { SheetItem } from '@stem-trace/contract';
import styled from 'styled-components';
import { Mono, Soft } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';

export interface CheckListProps {
  readonly rows: readonly SheetItem[];
  /** Number of what is open; empty for nothing. */
  readonly open: string;
  readonly onOpen: (number: string) => void;
}

function columnsOf(onOpen: CheckListProps['onOpen']): readonly GridColumn<SheetItem>[] {
  return [
    {
      key: 'item',
      title: 'Item',
      width: 'minmax(130px, 1fr)',
      cell: ({ number, name, state }) => (
        // For the mouse; Enter does the same from the row.
        <Opener type="button" tabIndex={-1} title={name} onClick={() => onOpen(number)}>
          <StateGlyph state={state} /> <Mono>{number}</Mono> <Soft>{name}</Soft>
        </Opener>
      ),
    },
    { key: 'version', title: 'Version', width: '56px', cell: ({ version }) => <Mono>{version}</Mono> },
    { key: 'seen', title: 'Seen', width: '96px', cell: (row) => <Standing row={row} /> },
  ];
}

/** What a row says of itself in one word: what wants attention first. */
function Standing({ row }: { readonly row: SheetItem }): React.JSX.Element {
  const open = row.points.filter(({ closed }) => closed === null).length;
  if (!row.isUndecided) {
    const { wanted, made, leftOut, problem } = row.issued;
    if (made + leftOut === wanted) return <Soft>{row.state}</Soft>;
    const files = `${made} of ${wanted} files`;
    return problem === null ? <Soft>{files}</Soft> : <AttentionMark title={problem}>{files}</AttentionMark>;
  }
  if (!row.isSeen) return <AttentionMark>not opened</AttentionMark>;
  if (open > 0)
    return (
      <AttentionMark>
        {open} {open === 1 ? 'point' : 'points'}
      </AttentionMark>
    );
  return <Soft>seen</Soft>;
}

export function CheckList({ rows, open, onOpen }: CheckListProps): React.JSX.Element {
  const beginsAt = Math.max(
    0,
    rows.findIndex(({ number }) => number === open),
  );
  const cursor = useGridCursor(rows, ({ number }) => number, { beginsAt });
  return (
    <Fill style={{ height: Math.min(300, 46 + rows.length * 33) }}>
      <Grid
        label="Items of the check sheet"
        columns={columnsOf(onOpen)}
        cursor={cursor}
        onOpen={({ number }) => onOpen(number)}
        takesFocus
      />
    </Fill>
  );
}

const Opener = styled.button`
  border: 0;
  padding: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 100%;
`;
const Fill = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 96px;
`;
