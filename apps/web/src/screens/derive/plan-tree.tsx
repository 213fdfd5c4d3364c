import type { DerivePreview } from '@stem-trace/contract';
import type { Decision, PlanLine, PlanRow } from '@stem-trace/core';
import { useEffect, useMemo, useRef, type KeyboardEvent } from 'react';
import { useDesk } from '../../frame/desk.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { chainTo } from './draft.js';
import { newNumberOf, planColumns, type TreeLine } from './plan-columns.js';
import type { SpotAsk } from './spot-dialog.js';
import type { NamedField } from './use-naming.js';

export interface PlanTreeProps {
  readonly preview: DerivePreview;
  readonly onDecide: (numbers: ReadonlySet<string>, decision: Decision) => void;
  /** Asks for more about a spot: a decision for it alone, another item in its place, something to be added. */
  readonly onAsk: (ask: SpotAsk) => void;
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
  onAsk,
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
  const columns = useColumns({ preview, onDecide, onAsk, onName });
  const reference = under ? `${under.number}@${under.version}` : '';
  useEffect(() => pointAt(reference), [pointAt, reference]);
  return (
    <Grid
      label="What the variant shares and copies, and what the copies are called"
      columns={columns}
      cursor={cursor}
      levelOf={({ row }) => row.level + 1}
      onKey={(event, target) => {
        if (event.ctrlKey || event.metaKey) return stepped(event, onUndo, onRedo);
        if (!target?.line) return false;
        const decision = DECISION_KEYS[event.key];
        if (decision !== undefined && (picked.size > 0 || target.line.reason !== TOP)) {
          onDecide(picked.size > 0 ? picked : new Set([target.line.number]), decision);
          return true;
        }
        const asked = ASKED_KEYS[event.key];
        if (asked) {
          onAsk({ ...askAbout(preview, target), ...asked });
          return true;
        }
        return event.key === 'e' && editLine(target.line.key);
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

/** The same at each time: rows are drawn anew where what they show has changed, not because somebody decided elsewhere. */
function useColumns(
  props: Pick<PlanTreeProps, 'preview' | 'onDecide' | 'onAsk' | 'onName'>,
): readonly GridColumn<TreeLine>[] {
  const latest = useRef(props);
  latest.current = props;
  return useMemo(
    () =>
      planColumns(
        (numbers, decision) => latest.current.onDecide(numbers, decision),
        (line) => latest.current.onAsk(askAbout(latest.current.preview, line)),
        (number, field, text) => latest.current.onName(number, field, text),
      ),
    [],
  );
}

const DECISION_KEYS: Readonly<Record<string, Decision>> = { c: 'copy', s: 'share', o: 'omit' };

/** With capitals for the spot alone. */
const ASKED_KEYS: Readonly<Record<string, Partial<SpotAsk>>> = {
  x: { decision: 'swap' },
  C: { decision: 'copy', where: 'here' },
  S: { decision: 'share', where: 'here' },
  O: { decision: 'omit', where: 'here' },
  X: { decision: 'swap', where: 'here' },
  d: {},
  a: { adds: true },
};

const TOP = 'it is what the variant is made from';

function askAbout({ tree }: DerivePreview, { row }: TreeLine): SpotAsk {
  const at = tree.indexOf(row);
  const below: string[] = [];
  for (let next = at + 1; (tree[next]?.level ?? 0) > row.level; next++)
    if (tree[next]?.level === row.level + 1) below.push(tree[next]?.number ?? '');
  return {
    chain: at < 0 ? [row.number] : chainTo(tree, at),
    quantity: row.quantity,
    occurrences: row.occurrences ?? [],
    decision: row.decision === 'add' ? 'share' : row.decision,
    where: row.own ? 'here' : 'everywhere',
    isTop: row.level === 0,
    own: row.own,
    to: row.to ?? '',
    below: [...new Set(below)],
  };
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

/** The same item in several spots has the same decision unless one of them was decided apart. */
function keyOfLine({ row }: TreeLine): string {
  return `${row.level} ${row.number} ${row.decision} ${row.key ?? ''} ${row.occurrences?.join(',') ?? ''}`;
}

function treeLines({ lines, tree }: DerivePreview): TreeLine[] {
  const byKey = new Map(lines.map((line) => [line.key, line]));
  const inTree = new Set(tree.map(({ number }) => number));
  // Drawings and documents stand nowhere in the tree; they follow it.
  const beside = lines.filter(({ number }) => !inTree.has(number));
  return [
    ...tree.map((row) => treeLine(row, row.gap ? undefined : byKey.get(row.key ?? row.number))),
    ...beside.map((line) => ({ row: besideRow(line), line })),
  ];
}

const LINES = new WeakMap<PlanRow, TreeLine>();

/** The same for the same row and line, so that it is not drawn anew. */
function treeLine(row: PlanRow, line: PlanLine | undefined): TreeLine {
  const before = LINES.get(row);
  if (before && before.line === line) return before;
  const made = { row, line };
  LINES.set(row, made);
  return made;
}

function besideRow({ number, key, decision }: PlanLine): PlanRow {
  return {
    ...{ level: 1, number, quantity: 1, gap: false, decision, key: decision === 'copy' ? key : null },
    ...{ to: null, occurrences: null, own: false },
  };
}
