import type { Decision, PlanLine, PlanRow } from '@stem-trace/core';
import { Ellipsis } from 'lucide-react';
import styled from 'styled-components';
import { Mono, QuietButton, Soft } from '../../ui/controls.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';
import type { GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { RowChoice } from '../../ui/row-choice.js';
import { colour } from '../../ui/theme.js';
import type { NamedField } from './use-naming.js';

/** A spot of the tree, and the line of what stands there. */
export interface TreeLine {
  readonly row: PlanRow;
  readonly line: PlanLine | undefined;
}

type Decide = (numbers: ReadonlySet<string>, decision: Decision) => void;
type Name = (key: string, field: NamedField, text: string) => void;

/** What the field of a line's new number is called. */
export function newNumberOf(number: string): string {
  return `New number for ${number}`;
}

/** Columns of the plan's tree. */
export function planColumns(
  onDecide: Decide,
  onMore: (line: TreeLine) => void,
  onName: Name,
): readonly GridColumn<TreeLine>[] {
  return [...ORIGIN, decisionColumn(onDecide, onMore), ...nameColumns(onName), REASON];
}

/** What the origin is. */
const ORIGIN: readonly GridColumn<TreeLine>[] = [
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(150px, 1fr)',
    cell: ({ row }) => (
      <span style={{ paddingLeft: row.level * 14, minWidth: 0 }}>
        <Mono>
          <MiddleCut text={row.key ?? row.number} />
        </Mono>
      </span>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(110px, 1fr)',
    cell: ({ line, row }) =>
      line ? <MiddleCut text={line.name} /> : row.gap ? <AttentionMark>gap</AttentionMark> : null,
  },
  {
    key: 'quantity',
    isMinor: true,
    title: '×',
    width: '40px',
    align: 'right',
    cell: ({ row }) => <Mono>{row.quantity}</Mono>,
  },
];

function decisionColumn(onDecide: Decide, onMore: (line: TreeLine) => void): GridColumn<TreeLine> {
  return {
    key: 'decision',
    title: 'Decision',
    width: '166px',
    cell: (target) => {
      const { row, line } = target;
      if (!line && row.decision !== 'add') return null;
      const isPlain = line !== undefined && (row.decision === 'share' || row.decision === 'copy');
      return (
        <Decided>
          {isPlain ? (
            <RowChoice
              label={`Decision for ${row.number}`}
              value={row.decision === 'share' ? 'share' : 'copy'}
              options={DECISIONS}
              isDisabled={line.forced}
              onChange={(decision) => onDecide(new Set([row.number]), decision)}
            />
          ) : (
            <Told $is={row.decision}>{TOLD[row.decision]}</Told>
          )}
          {row.decision === 'add' ? null : (
            <QuietButton aria-label={`More decisions for ${row.number}`} onPress={() => onMore(target)}>
              <Ellipsis size={14} aria-hidden />
            </QuietButton>
          )}
        </Decided>
      );
    },
  };
}

const DECISIONS = [
  { key: 'share', text: 'Share' },
  { key: 'copy', text: 'Copy' },
] as const;

const TOLD: Readonly<Record<string, string>> = { omit: 'Left out', swap: 'Swapped', add: 'Added' };

const Decided = styled.span`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 2px;
  button {
    padding: 2px 4px;
  }
`;
const Told = styled.span<{ readonly $is: string }>`
  font-weight: 600;
  padding-left: 6px;
  color: ${({ $is }) => ($is === 'omit' ? colour.inkSoft : colour.ink)};
  text-decoration: ${({ $is }) => ($is === 'omit' ? 'line-through' : 'none')};
`;

function nameColumns(onName: Name): readonly GridColumn<TreeLine>[] {
  return [
    {
      key: 'newNumber',
      title: 'New number',
      width: 'minmax(130px, 0.9fr)',
      cell: ({ line, row }) =>
        row.to !== null ? (
          <Mono>
            <MiddleCut text={`→ ${row.to}`} />
          </Mono>
        ) : line && row.decision === 'copy' && line.newNumber !== null ? (
          <EditCell
            mono
            label={newNumberOf(line.key)}
            value={line.newNumber}
            onCommit={(text) => onName(line.key, 'number', text)}
          />
        ) : null,
    },
    {
      key: 'newName',
      isMinor: true,
      title: 'New name',
      width: 'minmax(130px, 1fr)',
      cell: ({ line, row }) =>
        line && row.decision === 'copy' && line.newName !== null ? (
          <EditCell
            label={`New name for ${line.key}`}
            value={line.newName}
            onCommit={(text) => onName(line.key, 'name', text)}
          />
        ) : line?.to && row.decision === 'swap' && !row.own ? (
          <MiddleCut text={line.to.name} />
        ) : null,
    },
  ];
}

const REASON: GridColumn<TreeLine> = {
  key: 'reason',
  title: 'Because',
  width: 'minmax(120px, 1.1fr)',
  cell: ({ line, row }) => {
    if (line?.clash) return <AttentionMark title={line.clash.says}>{line.clash.says}</AttentionMark>;
    const says = row.gap ? 'stays a gap' : row.own ? sayOwn(row) : (line?.reason ?? '');
    return <Soft title={says}>{says}</Soft>;
  },
};

function sayOwn({ occurrences }: PlanRow): string {
  if (!occurrences) return 'decided for this spot';
  return `decided for ${occurrences.length === 1 ? 'place' : 'places'} ${occurrences.join(', ')} of this spot`;
}
