/** Moving a row of a bill by its handle: above or below another row, or into it. Keys do the same, see `SheetGrid`. */
import { endOf, type BuildRow, type Where } from '@stem-trace/core';
import { GripVertical } from 'lucide-react';
import { useRef, useState } from 'react';
import { useDrag, useDrop } from 'react-aria';
import styled from 'styled-components';
import { colour } from '../../ui/theme.js';

/** Type under which the id of a row travels; nothing from elsewhere is taken for one. */
const ROW = 'application/x-stem-trace-bill-row';

export interface Dragging {
  /** Id of the row that is on its way; empty for none. */
  readonly id: string;
  readonly begin: (id: string) => void;
  readonly end: () => void;
  readonly drop: (id: string, beside: string, where: Where) => void;
}

/** Rows that a row cannot be dropped on: itself, and what lies in it. */
export function closedTo(rows: readonly BuildRow[], id: string): ReadonlySet<string> {
  const at = rows.findIndex((row) => row.id === id);
  return new Set(at < 0 ? [] : rows.slice(at, endOf(rows, at)).map((row) => row.id));
}

export function DragHandle({
  row,
  dragging,
}: {
  readonly row: BuildRow;
  readonly dragging: Dragging;
}): React.JSX.Element {
  const { dragProps } = useDrag({
    getItems: () => [{ [ROW]: row.id, 'text/plain': row.number || row.name }],
    onDragStart: () => dragging.begin(row.id),
    onDragEnd: dragging.end,
  });
  // The keyboard stays on the sheet; there, Alt and the arrow keys move the row.
  return (
    <Handle {...dragProps} tabIndex={-1} aria-hidden title="Drag the row; or Alt and the arrow keys">
      <GripVertical size={13} />
    </Handle>
  );
}

/** Lies over a row while another is on its way, and says where that would go. */
export function DropOver({
  row,
  dragging,
}: {
  readonly row: BuildRow;
  readonly dragging: Dragging;
}): React.JSX.Element {
  const over = useRef<HTMLDivElement>(null);
  const [where, aim] = useState<Where>();
  const { dropProps } = useDrop({
    ref: over,
    getDropOperation: (types) => (types.has(ROW) ? 'move' : 'cancel'),
    onDropMove: ({ y }) => aim(placeAt(y, over.current?.clientHeight ?? 1)),
    onDropExit: () => aim(undefined),
    onDrop: ({ y }) => {
      dragging.drop(dragging.id, row.id, placeAt(y, over.current?.clientHeight ?? 1));
      aim(undefined);
    },
  });
  return <Over {...dropProps} ref={over} data-where={where} data-row={row.id} />;
}

/** Share of a row's height at either end that means beside it. */
const EDGE = 0.3;

function placeAt(y: number, height: number): Where {
  if (y < height * EDGE) return 'above';
  return y > height * (1 - EDGE) ? 'below' : 'inside';
}

const Handle = styled.span`
  display: inline-flex;
  color: ${colour.inkSoft};
  cursor: grab;
`;
const Over = styled.div`
  position: absolute;
  inset: 0;
  z-index: 2;
  &[data-where='above'] {
    border-top: 3px solid ${colour.petrol};
  }
  &[data-where='below'] {
    border-bottom: 3px solid ${colour.petrol};
  }
  &[data-where='inside'] {
    outline: 3px solid ${colour.petrol};
    outline-offset: -3px;
  }
`;
