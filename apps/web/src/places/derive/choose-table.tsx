import type { DeriveLine, DerivePreview, DeriveTreeRow } from '@stem-trace/contract';
import { useEffect, useMemo } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../frame/desk.js';
import { Button, Choice, Mono, Soft } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import type { DeriveDraft } from './draft.js';

interface TreeLine {
  readonly row: DeriveTreeRow;
  readonly line: DeriveLine | undefined;
}

export interface ChooseTableProps {
  readonly preview: DerivePreview;
  readonly draft: DeriveDraft;
  readonly onChange: (changes: Partial<DeriveDraft>) => void;
}

/** The origin's tree with a decision per line; an item has the same decision in each of its places. */
export function ChooseTable({ preview, draft, onChange }: ChooseTableProps): React.JSX.Element {
  const { pointAt } = useDesk();
  const tree = useMemo(() => treeLines(preview), [preview]);
  const cursor = useGridCursor(tree, keyOfLine);
  const under = cursor.row?.line;
  const reference = under ? `${under.number}@${under.version}` : '';
  useEffect(() => pointAt(reference), [pointAt, reference]);
  const decide: Decide = (number, decision) =>
    onChange({ decisions: { ...draft.decisions, [number]: decision } });
  const columns = chooseColumns(decide);
  return (
    <>
      <Bar>
        <Button onPress={() => onChange({ copyAll: false, decisions: {} })}>Back to the proposal</Button>
        <Button onPress={() => onChange({ copyAll: true, decisions: {} })}>Copy all</Button>
        <Soft>Keys: c copies, s shares the line under the cursor.</Soft>
      </Bar>
      <Grid
        label="What the variant shares and copies"
        columns={columns}
        cursor={cursor}
        levelOf={({ row }) => row.level + 1}
        onKey={(event, target) => {
          const decision = event.key === 'c' ? 'copy' : event.key === 's' ? 'share' : undefined;
          if (decision === undefined || !target?.line || target.line.forced) return false;
          decide(target.line.number, decision);
          return true;
        }}
        takesFocus
      />
    </>
  );
}

/** The same item in several places has the same decision, so that any of them will do. */
function keyOfLine({ row }: TreeLine): string {
  return `${row.level} ${row.number}`;
}

function treeLines({ lines, tree }: DerivePreview): TreeLine[] {
  const byNumber = new Map(lines.map((line) => [line.number, line]));
  return tree.map((row) => ({ row, line: row.gap ? undefined : byNumber.get(row.number) }));
}

type Decide = (number: string, decision: 'share' | 'copy') => void;

function chooseColumns(decide: Decide): readonly GridColumn<TreeLine>[] {
  return [
    {
      key: 'number',
      title: 'Number',
      width: 'minmax(180px, 1fr)',
      cell: ({ row }) => (
        <span style={{ paddingLeft: row.level * 16, minWidth: 0 }}>
          <Mono>
            <MiddleCut text={row.number} />
          </Mono>
        </span>
      ),
    },
    {
      key: 'name',
      title: 'Name',
      width: 'minmax(140px, 1fr)',
      cell: ({ line }) => (line ? <MiddleCut text={line.name} /> : <AttentionMark>gap</AttentionMark>),
    },
    {
      key: 'quantity',
      title: '×',
      width: '44px',
      align: 'right',
      cell: ({ row }) => <Mono>{row.quantity}</Mono>,
    },
    {
      key: 'decision',
      title: 'Decision',
      width: '140px',
      cell: ({ line }) =>
        line ? (
          <Choice
            label={`Decision for ${line.number}`}
            value={line.decision}
            options={[
              { key: 'share', text: 'Share', disabled: line.forced },
              { key: 'copy', text: 'Copy', disabled: line.forced },
            ]}
            onChange={(decision) => decide(line.number, decision)}
          />
        ) : null,
    },
    {
      key: 'reason',
      title: 'Because',
      width: 'minmax(180px, 1.2fr)',
      cell: ({ line }) =>
        line?.clash?.of === 'decision' ? (
          <AttentionMark title={line.clash.says}>{line.clash.says}</AttentionMark>
        ) : (
          <Soft title={line?.reason}>{line?.reason ?? 'stays a gap'}</Soft>
        ),
    },
  ];
}

const Bar = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
`;
