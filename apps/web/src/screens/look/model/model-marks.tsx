/** Mark-up in three dimensions: drawn over the picture where it sticks to the model, and its list. */
import type { MarkUpRow } from '@stem-trace/contract';
import type { Point } from '@stem-trace/core/look';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { Over } from '../../../pictures/picture-frame.js';
import type { Showing } from '../../../ui/showing.js';
import { MarkBar } from '../mark-up/mark-bar.js';
import { MarkList } from '../mark-up/mark-list.js';
import { MarkShape } from '../mark-up/mark-shape.js';
import type { LookStage } from './look-stage.js';
import { useTurns } from './over-model.js';
import { lengthOf, spotFor, type ModelDraft, type ModelMarks } from './use-model-marks.js';

/** The pen leaves a spot after so many pixels. */
const PEN_PX = 3;
const STILL_PX = 4;
const MOST_SPOTS = 4000;

type Pixel = readonly [number, number];

interface OverProps {
  readonly marks: ModelMarks;
  readonly stage: LookStage;
  readonly unit: Showing['length'];
}

/** What was drawn, moved with every turn of the picture, and what is drawn just now. */
export function MarksOver({ marks, stage, unit }: OverProps): React.JSX.Element {
  useTurns(stage);
  const { here, draft, kind, tone, closed } = marks;
  return (
    <>
      <Over>
        {here.map(({ row, number }) => (
          <Moved key={row.id} {...{ row, number, marks, stage }} />
        ))}
        {draft ? <Drawn {...{ draft, stage, tone, unit }} /> : null}
      </Over>
      {kind && closed === '' ? <DrawPane key={kind} {...{ marks, stage, unit, kind }} /> : null}
    </>
  );
}

function Drawn({
  draft,
  stage,
  tone,
  unit,
}: Omit<OverProps, 'marks'> & Pick<ModelMarks, 'tone'> & { readonly draft: ModelDraft }) {
  const spots = seenAt(stage, draft.spots);
  const words = draft.kind === 'measure' ? lengthOf(draft, unit) : '';
  return spots ? <MarkShape {...{ kind: draft.kind, tone, spots, words }} isChosen /> : null;
}

/** Undefined where some of it lies behind whoever looks. */
function seenAt(stage: LookStage, spots: readonly (readonly number[])[]): readonly Pixel[] | undefined {
  const seen = spots.flatMap(([x = 0, y = 0, z = 0]) => {
    const at = stage.screenOf([x, y, z]);
    return at ? [at] : [];
  });
  return seen.length === spots.length ? seen : undefined;
}

/** Lies over the picture while something is drawn: from where the pointer goes down to where it goes up. */
function DrawPane({ marks, stage, unit, kind }: OverProps & Pick<ModelDraft, 'kind'>): React.JSX.Element {
  const [spots, setSpots] = useState<readonly Point[]>([]);
  const pixels = useRef<Pixel>([0, 0]);
  const isPoint = kind === 'pin' || kind === 'text';
  const [first] = spots;
  const far = ({ clientX, clientY }: React.PointerEvent): number =>
    Math.hypot(clientX - pixels.current[0], clientY - pixels.current[1]);
  const spotOf = ({ clientX: x, clientY: y }: React.PointerEvent): Point =>
    spotFor(kind, stage, { x, y, first });
  return (
    <Pane
      aria-hidden
      onClick={(event) => event.stopPropagation()}
      onPointerDown={(event) => {
        if (!event.isPrimary) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        pixels.current = [event.clientX, event.clientY];
        setSpots([spotOf(event)]);
      }}
      onPointerMove={(event) => {
        if (!first || !event.isPrimary || isPoint) return;
        if (kind !== 'pen') setSpots([first, spotOf(event)]);
        else if (far(event) >= PEN_PX && spots.length < MOST_SPOTS) {
          pixels.current = [event.clientX, event.clientY];
          setSpots([...spots, spotOf(event)]);
        }
      }}
      onPointerUp={(event) => {
        const isDrawn = isPoint || (kind === 'pen' ? spots.length > 1 : far(event) > STILL_PX);
        if (first && isDrawn) marks.drawn({ kind, spots });
        setSpots([]);
      }}
      onPointerCancel={() => setSpots([])}
    >
      {first ? (
        <Over>
          <Drawn draft={{ kind, spots }} {...{ stage, unit }} tone={marks.tone} />
        </Over>
      ) : null}
    </Pane>
  );
}

interface MovedProps {
  readonly row: MarkUpRow;
  readonly number: number;
  readonly marks: ModelMarks;
  readonly stage: LookStage;
}

/** One's own can be taken elsewhere on the model. */
function Moved({ row, number, marks, stage }: MovedProps): React.JSX.Element | null {
  const from = useRef<Pixel>(undefined);
  const [by, setBy] = useState<Pixel>([0, 0]);
  const seen = seenAt(stage, row.spots);
  if (!seen) return null;
  const isMovable = row.isMine && marks.closed === '' && row.version === marks.marks.answer?.version;
  const moved = seen.map(([x, y]): Pixel => [x + by[0], y + by[1]]);
  const letGo = async (): Promise<void> => {
    from.current = undefined;
    const spots = Math.hypot(...by) > STILL_PX ? spotsAt(row, moved, stage) : undefined;
    if (spots) await marks.marks.change(row, { spots });
    setBy([0, 0]);
  };
  return (
    <g
      onClick={(event) => event.stopPropagation()}
      onPointerMove={({ clientX, clientY }) => {
        if (from.current) setBy([clientX - from.current[0], clientY - from.current[1]]);
      }}
      onPointerUp={() => void letGo()}
      onPointerCancel={() => {
        from.current = undefined;
        setBy([0, 0]);
      }}
    >
      <MarkShape
        {...{ kind: row.kind, tone: row.tone, words: row.words, number, spots: moved }}
        isSettled={row.settledAt !== null}
        isChosen={row.id === marks.chosen}
        onPointerDown={(event) => {
          event.stopPropagation();
          marks.choosing(row.id);
          if (!isMovable) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          from.current = [event.clientX, event.clientY];
        }}
      />
    </g>
  );
}

/** Where a mark stands once it is seen elsewhere in the picture. */
function spotsAt({ kind, spots: old }: MarkUpRow, moved: readonly Pixel[], stage: LookStage): Point[] {
  const [left, top] = stage.corner();
  const spots: Point[] = [];
  moved.forEach(([x, y], at) => {
    const [a = 0, b = 0, c = 0] = old[at] ?? [];
    const first = at === 0 ? undefined : spots[0];
    const there = { x: x + left, y: y + top, first };
    spots.push(first ? spotFor(kind, stage, there) : stage.spotAt(there.x, there.y, [a, b, c]));
  });
  return spots;
}

export function MarksPanel({
  marks,
  stage,
}: {
  readonly marks: ModelMarks;
  readonly stage: LookStage | undefined;
}): React.JSX.Element {
  const show = ({ id }: MarkUpRow): void => {
    const [x, y, z] = marks.here.find(({ row }) => row.id === id)?.row.spots[0] ?? [];
    if (x !== undefined && y !== undefined && z !== undefined) stage?.turnAround([x, y, z]);
  };
  return (
    <Panel aria-label="Drawn and written">
      <h2>Drawn and written</h2>
      {stage ? <MarkBar {...marks} /> : null}
      <MarkList
        marking={marks}
        show={show}
        begins="Click at a face and press N, or choose what to draw with."
      />
    </Panel>
  );
}

const Panel = styled.section`
  display: flex;
  flex-direction: column;
  gap: 6px;
`;
const Pane = styled.div`
  position: absolute;
  inset: 0;
  z-index: 2;
  cursor: crosshair;
  touch-action: none;
`;
