import type { SceneAnswer } from '@stem-trace/contract';
import type { Point, UseChange } from '@stem-trace/core/look';
import styled from 'styled-components';
import { Mono, Soft } from '../../../ui/controls.js';
import { SIGN } from '../../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../../ui/grid.js';
import type { Compared } from './pairs.js';

/** A use that is not the same in both. */
export interface DifferenceRow {
  readonly key: number;
  readonly kind: Exclude<UseChange, 'same'>;
  readonly number: string;
  readonly name: string;
  readonly says: string;
  /** Whether it has another shape. */
  readonly isOther: boolean;
  readonly firstNode?: number;
  readonly secondNode?: number;
  readonly firstMesh?: number;
  readonly secondMesh?: number;
  readonly firstFile: string;
  readonly secondFile: string;
  /** From where to where it moved, millimetres. */
  readonly way?: readonly [Point, Point];
}

/** What is replaced or gone first, what merely moved last. */
const ORDER: readonly UseChange[] = ['replaced', 'removed', 'added', 'changed', 'moved'];

export function rowsOf(
  { pairs, first, second }: Compared,
  scenes: { readonly first: SceneAnswer; readonly second: SceneAnswer },
): DifferenceRow[] {
  const rows = pairs.flatMap(
    ({ kind, first: one, second: other, movedMm, isOther }, key): DifferenceRow[] => {
      if (kind === 'same') return [];
      const [a, b] = [first.places[one ?? -1], second.places[other ?? -1]];
      const [from, to] = [first.uses[one ?? -1], second.uses[other ?? -1]];
      const before = a && scenes.first.nodes[a.node];
      const after = b && scenes.second.nodes[b.node];
      const shown = after ?? before;
      return [
        {
          ...{ key, kind, isOther, number: shown?.number || 'hidden from you', name: shown?.name ?? '' },
          says: says(kind, { before: before?.number ?? '', after: after?.number ?? '', movedMm, isOther }),
          ...{ firstFile: from?.file ?? '', secondFile: to?.file ?? '' },
          ...(a ? { firstNode: a.node, firstMesh: a.mesh } : {}),
          ...(b ? { secondNode: b.node, secondMesh: b.mesh } : {}),
          ...(from && to && movedMm > 0 ? { way: [origin(from.at), origin(to.at)] as const } : {}),
        },
      ];
    },
  );
  return rows.sort(
    (a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind) || a.number.localeCompare(b.number),
  );
}

interface Told {
  readonly before: string;
  readonly after: string;
  readonly movedMm: number;
  readonly isOther: boolean;
}

function says(kind: DifferenceRow['kind'], { before, after, movedMm, isOther }: Told): string {
  const shape = isOther ? ', and has another shape' : '';
  const renamed = before !== after && before !== '' && after !== '' ? ` (${before} before)` : '';
  switch (kind) {
    case 'added':
      return `${after} is added`;
    case 'removed':
      return `${before} is no longer there`;
    case 'replaced':
      return `${after} stands where ${before} stood`;
    case 'changed':
      return `${after}${renamed} has another shape`;
    case 'moved':
      return movedMm > 0
        ? `${after}${renamed} moved by ${Number(movedMm.toPrecision(4))} mm${shape}`
        : `${after}${renamed} is turned${shape}`;
  }
}

function origin(at: readonly number[]): Point {
  return [at[3] ?? 0, at[7] ?? 0, at[11] ?? 0];
}

export function DifferenceList({
  rows,
  onChoose,
}: {
  readonly rows: readonly DifferenceRow[];
  readonly onChoose: (row: DifferenceRow) => void;
}): React.JSX.Element {
  const cursor = useGridCursor(rows, ({ key }) => String(key));
  if (rows.length === 0)
    return <Soft>Both are the same: every part stands where it stood and has the shape it had.</Soft>;
  return (
    <Sized>
      <Soft role="status">{rows.length === 1 ? '1 difference' : `${rows.length} differences`}</Soft>
      <Grid label="Differences in the picture" columns={COLUMNS} cursor={cursor} onOpen={onChoose} reuses />
    </Sized>
  );
}

const COLUMNS: readonly GridColumn<DifferenceRow>[] = [
  {
    key: 'kind',
    title: '',
    width: '28px',
    cell: ({ kind }) => (
      <span title={SIGN[kind].word} style={{ color: SIGN[kind].ink, fontWeight: 600 }}>
        {SIGN[kind].mark}
      </span>
    ),
  },
  {
    key: 'says',
    title: 'What differs',
    width: 'minmax(120px, 1fr)',
    cell: ({ says: told, name }) => <span title={`${told} · ${name}`}>{told}</span>,
  },
  {
    key: 'number',
    title: 'Number',
    width: 'minmax(70px, 0.5fr)',
    isMinor: true,
    cell: ({ number }) => <Mono>{number}</Mono>,
  },
];

const Sized = styled.div`
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
`;
