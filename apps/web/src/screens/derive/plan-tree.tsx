import type { DeriveLine, DerivePreview, DeriveTreeRow } from '@stem-trace/contract';
import type { Decision } from '@stem-trace/core';
import { useEffect, useMemo, type KeyboardEvent } from 'react';
import { useDesk } from '../../frame/desk.js';
import { Choice, Mono, Soft } from '../../ui/controls.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import type { NamedField } from './use-naming.js';

interface TreeLine {
  readonly row: DeriveTreeRow;
  readonly line: DeriveLine | undefined;
}

export interface PlanTreeProps {
  readonly preview: DerivePreview;
  readonly onDecide: (numbers: ReadonlySet<string>, decision: Decision) => void;
  /** Numbers of the lines that are selected. */
  readonly picked: ReadonlySet<string>;
  readonly onPick: (numbers: ReadonlySet<string>) => void;
  readonly onUndo: () => void;
  readonly onRedo: () => void;
  readonly onName: (number: string, field: NamedField, text: string) => void;
  /** Becomes another text when the focus shall come back here. */
  readonly takesFocus: string;
}

/** The origin's tree: a decision per line, and the copy's names beside; an item has the same in each of its spots. */
export function PlanTree({
  preview,
  onDecide,
  picked,
  onPick,
  onUndo,
  onRedo,
  onName,
  takesFocus,
}: PlanTreeProps): React.JSX.Element {
  const { pointAt } = useDesk();
  const tree = useMemo(() => treeLines(preview), [preview]);
  const cursor = useGridCursor(tree, keyOfLine);
  const under = cursor.row?.line;
  const reference = under ? `${under.number}@${under.version}` : '';
  useEffect(() => pointAt(reference), [pointAt, reference]);
  return (
    <Grid
      label="What the variant shares and copies, and what the copies are called"
      columns={treeColumns(onDecide, onName)}
      cursor={cursor}
      levelOf={({ row }) => row.level + 1}
      onKey={(event, target) => {
        if (event.ctrlKey || event.metaKey) return stepped(event, onUndo, onRedo);
        if (!target?.line) return false;
        const decision = event.key === 'c' ? 'copy' : event.key === 's' ? 'share' : undefined;
        if (decision !== undefined && (picked.size > 0 || !target.line.forced)) {
          onDecide(picked.size > 0 ? picked : new Set([target.line.number]), decision);
          return true;
        }
        return event.key === 'e' && editLine(target.line.number);
      }}
      onPick={({ line }) => {
        if (!line || line.forced) return;
        const next = new Set(picked);
        if (!next.delete(line.number)) next.add(line.number);
        onPick(next);
      }}
      isPicked={({ line }) => line !== undefined && picked.has(line.number)}
      takesFocus={takesFocus}
    />
  );
}

/** As everywhere: Ctrl+Z, and Ctrl+Y or Ctrl+Shift+Z. */
function stepped({ key, shiftKey }: KeyboardEvent, undo: () => void, redo: () => void): boolean {
  const pressed = key.toLowerCase();
  if (pressed === 'z' && !shiftKey) undo();
  else if (pressed === 'y' || pressed === 'z') redo();
  else return false;
  return true;
}

/** Puts the focus on the new number of a line that is in sight. */
function editLine(number: string): boolean {
  const input = document.querySelector<HTMLInputElement>(
    `input[aria-label=${JSON.stringify(newNumberOf(number))}]`,
  );
  input?.focus();
  input?.select();
  return input !== null;
}

function newNumberOf(number: string): string {
  return `New number for ${number}`;
}

/** The same item in several spots has the same decision, so that any of them will do. */
function keyOfLine({ row }: TreeLine): string {
  return `${row.level} ${row.number}`;
}

function treeLines({ lines, tree }: DerivePreview): TreeLine[] {
  const byNumber = new Map(lines.map((line) => [line.number, line]));
  const inTree = new Set(tree.map(({ number }) => number));
  // Drawings and documents stand nowhere in the tree; they follow it.
  const beside = lines.filter(({ number }) => !inTree.has(number));
  return [
    ...tree.map((row) => ({ row, line: row.gap ? undefined : byNumber.get(row.number) })),
    ...beside.map((line) => ({ row: { level: 1, number: line.number, quantity: 1, gap: false }, line })),
  ];
}

function treeColumns(
  onDecide: PlanTreeProps['onDecide'],
  onName: PlanTreeProps['onName'],
): readonly GridColumn<TreeLine>[] {
  return [...ORIGIN, decisionColumn(onDecide), ...nameColumns(onName), REASON];
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
          <MiddleCut text={row.number} />
        </Mono>
      </span>
    ),
  },
  {
    key: 'name',
    title: 'Name',
    width: 'minmax(110px, 1fr)',
    cell: ({ line }) => (line ? <MiddleCut text={line.name} /> : <AttentionMark>gap</AttentionMark>),
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

function decisionColumn(onDecide: PlanTreeProps['onDecide']): GridColumn<TreeLine> {
  return {
    key: 'decision',
    title: 'Decision',
    width: '128px',
    cell: ({ line }) =>
      line ? (
        <Choice
          label={`Decision for ${line.number}`}
          value={line.decision}
          options={[
            { key: 'share', text: 'Share', disabled: line.forced },
            { key: 'copy', text: 'Copy', disabled: line.forced },
          ]}
          onChange={(decision) => onDecide(new Set([line.number]), decision)}
        />
      ) : null,
  };
}

function nameColumns(onName: PlanTreeProps['onName']): readonly GridColumn<TreeLine>[] {
  return [
    {
      key: 'newNumber',
      title: 'New number',
      width: 'minmax(130px, 0.9fr)',
      cell: ({ line }) =>
        line && line.newNumber !== null ? (
          <EditCell
            mono
            label={newNumberOf(line.number)}
            value={line.newNumber}
            onCommit={(text) => onName(line.number, 'number', text)}
          />
        ) : null,
    },
    {
      key: 'newName',
      isMinor: true,
      title: 'New name',
      width: 'minmax(130px, 1fr)',
      cell: ({ line }) =>
        line && line.newName !== null ? (
          <EditCell
            label={`New name for ${line.number}`}
            value={line.newName}
            onCommit={(text) => onName(line.number, 'name', text)}
          />
        ) : null,
    },
  ];
}

const REASON: GridColumn<TreeLine> = {
  key: 'reason',
  title: 'Because',
  width: 'minmax(130px, 1.1fr)',
  cell: ({ line }) =>
    line?.clash ? (
      <AttentionMark title={line.clash.says}>{line.clash.says}</AttentionMark>
    ) : (
      <Soft title={line?.reason}>{line?.reason ?? 'stays a gap'}</Soft>
    ),
};
